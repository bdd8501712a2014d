import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { RetentionAnswer } from '@zetopsis/contract';
import { DataSource } from 'typeorm';

const AT_ONCE = 5000;
const COUNTED = 20_000;

interface Kept {
  readonly what: string;
  readonly table: string;
  readonly from: string;
  /** Rows that are past their time; $1 is the moment before which nothing is kept. */
  readonly past: string;
  readonly keep: 'samplesDays' | 'versionsDays' | 'eventsDays' | 'alertsDays';
}
/** Table and column names are ours, never anybody's input. An open version and an open alert are never past. */
export const KEPT: readonly Kept[] = [
  { what: 'readings, newest', table: 'journal', from: 'at_ms', past: 'at_ms < $1', keep: 'samplesDays' },
  { what: 'readings, packed', table: 'chunk', from: 'from_ms', past: 'to_ms < $1', keep: 'samplesDays' },
  {
    what: 'states of objects',
    table: 'object_version',
    from: 'from_ms',
    past: 'to_ms is not null and to_ms < $1',
    keep: 'versionsDays',
  },
  { what: 'events of clusters', table: 'cluster_event', from: 'first_ms', past: 'last_ms < $1', keep: 'eventsDays' },
  {
    what: 'alerts, open ones too',
    table: 'alert',
    from: 'raised_ms',
    past: 'ended_ms is not null and ended_ms < $1',
    keep: 'alertsDays',
  },
];

/** Takes away what is past its time, and says what is held. */
@Injectable()
export class RetentionStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  /** A few thousand rows at a time, so that nothing else waits; answers how many went. */
  async removeSome({ table, past }: Kept, before: number): Promise<number> {
    const [, removed]: [unknown[], number] = await this.database.query(
      `delete from ${table} where ctid in (select ctid from ${table} where ${past} limit ${AT_ONCE})`,
      [before],
    );
    return removed;
  }
  /** Rows are counted up to some thousands, then as the database estimates them: counting all would read everything. */
  async held(): Promise<RetentionAnswer['held']> {
    return Promise.all(
      KEPT.map(async ({ what, table, from }) => {
        const [row]: { oldest: number | null; rows: number; bytes: number }[] = await this.database.query(
          `select (select min(${from}) from ${table}) as oldest,
                  greatest((select count(*) from (select 1 from ${table} limit ${COUNTED}) as counted),
                           (select reltuples::bigint from pg_class where oid = '${table}'::regclass)) as rows,
                  pg_total_relation_size('${table}') as bytes`,
        );
        return { what, oldestAt: row?.oldest ?? null, rows: row?.rows ?? 0, bytes: row?.bytes ?? 0 };
      }),
    );
  }
}
