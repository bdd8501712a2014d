import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource } from 'typeorm';

export interface EndpointRow {
  readonly id: number;
  readonly connectionId: string;
  readonly node: string;
  readonly retiredAt: Date | null;
  readonly historyUntil: number | null;
}
export interface GapRow {
  readonly endpointId: number;
  readonly from: number;
  readonly to: number | null;
  readonly reason: string;
}

/** Endpoints and the stretches in which they could not be read. */
@Injectable()
export class EndpointStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async all(): Promise<EndpointRow[]> {
    const rows: {
      id: number;
      connection_id: string;
      node: string;
      retired_at: Date | null;
      history_until_ms: number | null;
    }[] = await this.database.query(
      `select id, connection_id, node, retired_at, history_until_ms from endpoint order by id`,
    );
    return rows.map((row) => ({
      id: row.id,
      connectionId: row.connection_id,
      node: row.node,
      retiredAt: row.retired_at,
      historyUntil: row.history_until_ms,
    }));
  }
  /** The endpoint of a node; a retired one comes back into use. */
  async use(connectionId: string, node: string): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(
      `insert into endpoint (connection_id, node) values ($1, $2)
       on conflict (connection_id, node) do update set retired_at = null returning id`,
      [connectionId, node],
    );
    return row!.id; // insert or update always returns the row
  }
  async retire(id: number, at: Date): Promise<void> {
    await this.database.query(`update endpoint set retired_at = $2 where id = $1`, [id, at]);
  }
  async historyRead(id: number, until: number): Promise<void> {
    await this.database.query(`update endpoint set history_until_ms = $2 where id = $1`, [id, until]);
  }
  async newestReadings(): Promise<Map<number, number>> {
    const rows: { id: number; at: number }[] = await this.database.query(
      `select e.id, greatest((select max(at_ms) from journal j where j.endpoint_id = e.id), (select max(to_ms) from chunk c where c.endpoint_id = e.id)) as at from endpoint e`,
    );
    return new Map(rows.filter(({ at }) => at !== null).map(({ id, at }) => [id, at]));
  }

  async openGap(endpointId: number, from: number, reason: string): Promise<void> {
    await this.database.query(
      `insert into endpoint_gap (endpoint_id, from_ms, reason) values ($1, $2, $3) on conflict do nothing`,
      [endpointId, from, reason],
    );
  }
  async closeGap(endpointId: number, to: number): Promise<void> {
    await this.database.query(
      `update endpoint_gap set to_ms = greatest(from_ms, $2) where endpoint_id = $1 and to_ms is null`,
      [endpointId, to],
    );
  }
  async openGaps(): Promise<GapRow[]> {
    return this.rows(`where to_ms is null`, []);
  }
  async gaps(endpointIds: readonly number[], from: number, to: number): Promise<GapRow[]> {
    return this.rows(`where endpoint_id = any($1) and from_ms <= $3 and (to_ms is null or to_ms >= $2)`, [
      endpointIds,
      from,
      to,
    ]);
  }
  private async rows(where: string, parameters: unknown[]): Promise<GapRow[]> {
    const rows: { endpoint_id: number; from_ms: number; to_ms: number | null; reason: string }[] =
      await this.database.query(
        `select endpoint_id, from_ms, to_ms, reason from endpoint_gap ${where} order by from_ms limit 2000`,
        parameters,
      );
    return rows.map((row) => ({ endpointId: row.endpoint_id, from: row.from_ms, to: row.to_ms, reason: row.reason }));
  }
}
