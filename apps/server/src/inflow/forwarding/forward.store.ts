import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { ForwardSignal } from '@zetopsis/contract';
import type { EpochMs } from '@zetopsis/core/units';
import { DataSource } from 'typeorm';
import { type ForwardRow, keepForwardRows } from '../../keeping/records/forwardRows.ts';

export interface KeptRow {
  readonly id: number;
  readonly signal: ForwardSignal;
  readonly items: number;
  readonly payload: Buffer;
}
export interface Backlog {
  readonly requests: number;
  readonly items: number;
  readonly bytes: number;
  readonly since: EpochMs | null;
}

/** SQL of what is to go on. */
@Injectable()
export class ForwardStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  append(rows: readonly ForwardRow[], at: EpochMs): Promise<void> {
    return keepForwardRows(this.database, rows, at);
  }
  async oldest(forward: string, most: number): Promise<KeptRow[]> {
    return this.database.query(
      `select id, signal, items, payload from forward_row where forward = $1 order by id limit $2`,
      [forward, most],
    );
  }
  async remove(id: number): Promise<void> {
    await this.database.query(`delete from forward_row where id = $1`, [id]);
  }
  async backlog(forward: string): Promise<Backlog> {
    const [row]: Backlog[] = await this.database.query(
      `select count(*)::int as requests, coalesce(sum(items), 0)::bigint as items, coalesce(sum(bytes), 0)::bigint as bytes,
              min(at_ms) as since
         from forward_row where forward = $1`,
      [forward],
    );
    return row!; // an aggregate always has a row
  }
  /** Throws away the oldest of what is more than so many bytes; answers how many items that were. */
  async bound(forward: string, bytes: number): Promise<number> {
    const [row]: { items: number }[] = await this.database.query(
      `with sized as (select id, sum(bytes) over (order by id desc) as behind from forward_row where forward = $1),
            gone as (delete from forward_row r using sized where r.id = sized.id and sized.behind > $2 returning r.items)
       select coalesce(sum(items), 0)::bigint as items from gone`,
      [forward, bytes],
    );
    return row!.items; // an aggregate always has a row
  }
  /** Rows of what is not there any more. */
  async removeBut(forwards: readonly string[]): Promise<void> {
    await this.database.query(`delete from forward_row where forward <> all($1::text[])`, [forwards]);
  }

  async secrets(): Promise<[forward: string, encrypted: string][]> {
    const rows: { forward: string; secret: string }[] = await this.database.query(
      `select forward, secret from forward_secret`,
    );
    return rows.map(({ forward, secret }) => [forward, secret]);
  }
  /** Empty: there is none any more. */
  async setSecret(forward: string, encrypted: string): Promise<void> {
    if (encrypted === '') await this.database.query(`delete from forward_secret where forward = $1`, [forward]);
    else
      await this.database.query(
        `insert into forward_secret (forward, secret) values ($1, $2)
         on conflict (forward) do update set secret = excluded.secret`,
        [forward, encrypted],
      );
  }
}
