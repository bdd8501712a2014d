import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { type Accumulated, type Exponential, NOTHING_YET } from '@zetopsis/core/telemetry';
import { DataSource } from 'typeorm';

export interface PushKeyRow {
  readonly key: string;
  readonly tokenHash: string;
  readonly madeAt: Date;
  readonly lastUsedAt: Date | null;
  /** The token before, for as long as it is valid beside the newest. */
  readonly beforeHash: string | null;
  readonly beforeUntil: Date | null;
}

/** As a row holds it. */
interface KeptState {
  readonly at: number;
  readonly sums: Readonly<Record<string, number>>;
  readonly exponentials: Readonly<Record<string, Exponential>>;
}

/** Tokens of push keys, as hashes, and what is counted on of each sender. */
@Injectable()
export class PushStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async keys(): Promise<PushKeyRow[]> {
    const rows: {
      key: string;
      token_hash: string;
      made_at: Date;
      last_used_at: Date | null;
      before_hash: string | null;
      before_until: Date | null;
    }[] = await this.database.query(
      `select key, token_hash, made_at, last_used_at, before_hash, before_until from push_key`,
    );
    return rows.map((row) => ({
      key: row.key,
      tokenHash: row.token_hash,
      madeAt: row.made_at,
      lastUsedAt: row.last_used_at,
      beforeHash: row.before_hash,
      beforeUntil: row.before_until,
    }));
  }
  /** The token before it counts beside it until a moment. */
  async keep(key: string, tokenHash: string, at: Date, beforeUntil: Date): Promise<void> {
    await this.database.query(
      `insert into push_key (key, token_hash, made_at) values ($1, $2, $3)
       on conflict (key) do update set token_hash = excluded.token_hash, made_at = excluded.made_at, last_used_at = null,
         before_hash = push_key.token_hash, before_until = $4`,
      [key, tokenHash, at, beforeUntil],
    );
  }
  async endBefore(key: string): Promise<void> {
    await this.database.query(`update push_key set before_hash = null, before_until = null where key = $1`, [key]);
  }
  async remove(key: string): Promise<void> {
    await this.database.query(`delete from push_key where key = $1`, [key]);
  }
  async used(key: string, at: Date): Promise<void> {
    await this.database.query(`update push_key set last_used_at = $2 where key = $1`, [key, at]);
  }

  async accumulated(endpointId: number): Promise<Accumulated> {
    const [row]: { body: KeptState }[] = await this.database.query(
      `select body from push_state where endpoint_id = $1`,
      [endpointId],
    );
    if (!row) return NOTHING_YET;
    const { at, sums, exponentials } = row.body;
    return { at, sums: new Map(Object.entries(sums)), exponentials: new Map(Object.entries(exponentials)) };
  }
  /** What a push changed, and only that: a sender may have very many. */
  async countOn(endpointId: number, { at, sums, exponentials }: Accumulated): Promise<void> {
    const changed: KeptState = {
      at,
      sums: Object.fromEntries(sums),
      exponentials: Object.fromEntries(exponentials),
    };
    await this.database.query(
      `insert into push_state (endpoint_id, body) values ($1, $2)
       on conflict (endpoint_id) do update set body = jsonb_build_object(
         'at', excluded.body->'at',
         'sums', (push_state.body->'sums') || (excluded.body->'sums'),
         'exponentials', (push_state.body->'exponentials') || (excluded.body->'exponentials'))`,
      [endpointId, changed],
    );
  }
}
