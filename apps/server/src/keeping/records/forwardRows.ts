import type { EpochMs } from '@zetopsis/core/units';
import type { DataSource, EntityManager } from 'typeorm';

/** A request that is to go on to another receiver: kept with what it tells, or not at all. */
export interface ForwardRow {
  readonly forward: string;
  readonly signal: 'metrics' | 'logs' | 'traces';
  readonly items: number;
  /** Compressed. */
  readonly payload: Buffer;
}
export async function keepForwardRows(
  on: Pick<DataSource | EntityManager, 'query'>,
  rows: readonly ForwardRow[],
  at: EpochMs,
): Promise<void> {
  if (rows.length === 0) return;
  await on.query(
    `insert into forward_row (forward, signal, at_ms, items, bytes, payload)
     select forward, signal, $1, items, length(payload), payload
       from unnest($2::text[], $3::text[], $4::int[], $5::bytea[]) as given (forward, signal, items, payload)`,
    [
      at,
      rows.map(({ forward }) => forward),
      rows.map(({ signal }) => signal),
      rows.map(({ items }) => items),
      rows.map(({ payload }) => payload),
    ],
  );
}
