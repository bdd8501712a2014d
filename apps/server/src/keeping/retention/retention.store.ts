import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { RetentionAnswer } from '@zetopsis/contract';
import { DataSource } from 'typeorm';
import { type Partition, partitionsOf } from '../store/threads/partitions.ts';
import type { PartitionedTable } from '../store/tiers.ts';

const AT_ONCE = 5000;
const COUNTED = 20_000;

type Keep =
  | 'linesDays'
  | 'tracesDays'
  | 'samplesDays'
  | 'fiveMinutesDays'
  | 'hoursDays'
  | 'versionsDays'
  | 'eventsDays'
  | 'alertsDays';
interface Kept {
  readonly what: string;
  readonly table: string;
  readonly from: string;
  readonly keep: Keep;
  /** Rows that are past their time; $1 is the moment before which nothing is kept. Null: whole partitions go. */
  readonly past: string | null;
}
/** Table and column names are ours, never anybody's input. An open version and an open alert are never past. */
export const KEPT: readonly Kept[] = [
  { what: 'samples', table: 'chunk', from: 'from_ms', past: null, keep: 'samplesDays' },
  { what: 'roll-ups by 5 minutes', table: 'rollup_five', from: 'from_ms', past: null, keep: 'fiveMinutesDays' },
  { what: 'roll-ups by the hour', table: 'rollup_hour', from: 'from_ms', past: null, keep: 'hoursDays' },
  { what: 'log lines', table: 'line_block', from: 'from_ms', past: null, keep: 'linesDays' },
  { what: 'traces', table: 'trace_block', from: 'from_ms', past: null, keep: 'tracesDays' },
  {
    what: 'states of objects',
    table: 'object_version',
    from: 'from_ms',
    past: 'to_ms is not null and to_ms < $1',
    keep: 'versionsDays',
  },
  {
    what: 'how readings went',
    table: 'endpoint_history',
    from: 'at_ms',
    past: 'at_ms < $1',
    keep: 'eventsDays',
  },
  { what: 'exemplars', table: 'exemplar', from: 'at_ms', past: 'at_ms < $1', keep: 'samplesDays' },
  { what: 'events of clusters', table: 'cluster_event', from: 'first_ms', past: 'last_ms < $1', keep: 'eventsDays' },
  {
    what: 'alerts, open ones too',
    table: 'alert',
    from: 'raised_ms',
    past: 'ended_ms is not null and ended_ms < $1',
    keep: 'alertsDays',
  },
];
/** Not kept by days: they go as they are packed. */
const JOURNALS = [
  { what: 'readings not packed yet', table: 'journal', from: 'at_ms' },
  { what: 'log lines not packed yet', table: 'line_journal', from: 'at_ms' },
  { what: 'spans not packed yet', table: 'span_journal', from: 'at_ms' },
] as const;

/** Takes away what is past its time, and says what is held. */
@Injectable()
export class RetentionStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  /** A few thousand rows at a time, so that nothing else waits; answers how many went. */
  async removeSome({ table, past }: Kept, before: number): Promise<number> {
    if (past === null) return this.dropBefore(table as PartitionedTable, before);
    const [, removed]: [unknown[], number] = await this.database.query(
      `delete from ${table} where ctid in (select ctid from ${table} where ${past} limit ${AT_ONCE})`,
      [before],
    );
    return removed;
  }
  private async dropBefore(table: PartitionedTable, before: number): Promise<number> {
    const query = async (text: string, values?: unknown[]) => ({ rows: await this.database.query(text, values) });
    const all = await partitionsOf({ query } as never, table); // the one call it makes
    let past: Partition | undefined;
    for (const one of all.filter(({ to }) => to <= before))
      if (table !== 'rollup_five' || !(await this.hoursOwed(one))) past ??= one;
    if (!past) return 0;
    const { name } = past;
    await this.database.transaction(async (manager) => {
      await manager.query(`set local lock_timeout = '3s'`);
      await manager.query(`drop table ${name}`);
    });
    return 1;
  }
  /** Whether hours are still to be made of what is in it: a past that was brought in is older than any reading. */
  private async hoursOwed({ name }: Partition): Promise<boolean> {
    const [row]: { owed: boolean }[] = await this.database.query(
      `select exists (select 1 from ${name} five left join packed using (endpoint_id)
        where five.from_ms >= coalesce(packed.joined_ms, 0)) as owed`,
    );
    return row!.owed; // exists always answers
  }
  /** Rows are counted up to some thousands, then as the database estimates them: counting all would read everything. */
  async held(): Promise<RetentionAnswer['held']> {
    return Promise.all(
      [...JOURNALS, ...KEPT].map(async ({ what, table, from }) => {
        const parts = `(select '${table}'::regclass union all select inhrelid from pg_inherits where inhparent = '${table}'::regclass)`;
        const [row]: { oldest: number | null; rows: number; bytes: number }[] = await this.database.query(
          `select (select min(${from}) from ${table}) as oldest,
                  greatest((select count(*) from (select 1 from ${table} limit ${COUNTED}) as counted),
                           (select sum(greatest(reltuples, 0))::bigint from pg_class where oid in ${parts})) as rows,
                  (select sum(pg_total_relation_size(oid))::bigint from pg_class where oid in ${parts}) as bytes`,
        );
        return { what, oldestAt: row?.oldest ?? null, rows: row?.rows ?? 0, bytes: row?.bytes ?? 0 };
      }),
    );
  }
}
