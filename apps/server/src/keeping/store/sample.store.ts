import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { SeriesEntry } from '@zetopsis/core/series';
import pg from 'pg';
import { DataSource } from 'typeorm';
import { Settings } from '../../ground/platform/settings.ts';
import { LeaseLost } from './threads/client.ts';
import { copyOut, numbers } from './threads/copy.ts';
import { type Partition, Partitions, partitionsOf } from './threads/partitions.ts';

export interface JournalRow {
  readonly endpointId: number;
  readonly at: number;
  readonly readAt: number;
  readonly durationMs: number;
  readonly bytes: number;
  readonly layoutId: number;
  readonly payload: Buffer;
}
/** `ring`: not one of those that came late. */
export interface ReadingRow extends Pick<JournalRow, 'endpointId' | 'at' | 'layoutId' | 'payload'> {
  readonly ring: boolean;
}
export interface EndpointPacked {
  readonly until: number;
  readonly joined: number;
  /** Days before this are still to be rolled up anew. */
  readonly anew: number;
}

/** SQL of the sample path that is not heavy work: series, layouts, the journal (design/storage.md). */
@Injectable()
export class SampleStore {
  private readonly partitions = new Partitions();
  constructor(
    @InjectDataSource() private readonly database: DataSource,
    private readonly settings: Settings,
  ) {}

  /** A connection of its own, for as long as the work takes: what is read at the start is large. */
  private async apart<T>(work: (client: pg.Client) => Promise<T>): Promise<T> {
    const client = new pg.Client(this.settings.config.databaseUrl);
    await client.connect();
    try {
      return await work(client);
    } finally {
      await client.end();
    }
  }

  // ---- series and layouts -----------------------------------------------------------------------------------------

  /** Every series, as they come from the database; a million of them are never held at once. */
  async eachSeries(take: (series: SeriesEntry) => void): Promise<void> {
    await this.apart((client) =>
      copyOut(
        client,
        `select id, endpoint_id, cumulative::int, metric, labels::text from series order by id`,
        (row) => {
          const id = row.int();
          const endpoint = row.int();
          const cumulative = row.int() === 1;
          const metric = row.text();
          take({ id, endpoint, metric, cumulative, labels: sorted(JSON.parse(row.text()) as Record<string, string>) });
        },
      ),
    );
  }

  /** Answers the ids in the order given; a series known already keeps its id. */
  async addSeries(
    endpointId: number,
    series: readonly { identity: Buffer; metric: string; labels: SeriesEntry['labels']; cumulative: boolean }[],
    bornAt: number,
  ): Promise<number[]> {
    const rows: { id: number; identity: Buffer }[] = await this.database.query(
      `insert into series (endpoint_id, identity, metric, labels, cumulative, born_ms)
       select $1, identity, metric, labels, cumulative, $2
         from unnest($3::bytea[], $4::text[], $5::jsonb[], $6::boolean[]) as given (identity, metric, labels, cumulative)
       on conflict (endpoint_id, identity) do update set ended_ms = null
       returning id, identity`,
      [
        endpointId,
        bornAt,
        series.map(({ identity }) => identity),
        series.map(({ metric }) => metric),
        series.map(({ labels }) => JSON.stringify(Object.fromEntries(labels))),
        series.map(({ cumulative }) => cumulative),
      ],
    );
    const ids = new Map(rows.map((row) => [row.identity.toString('hex'), row.id]));
    return series.map(({ identity }) => ids.get(identity.toString('hex'))!); // every identity given comes back
  }
  /** When series were told for the first time. */
  async bornOf(ids: readonly number[]): Promise<{ id: number; born_ms: number }[]> {
    return this.database.query(`select id, born_ms from series where id = any($1)`, [ids]);
  }
  /** `at` null: it is there again. */
  async seriesEnded(ids: readonly number[], at: number | null): Promise<void> {
    await this.database.query(`update series set ended_ms = $2 where id = any($1)`, [ids, at]);
  }
  async metricsChangedSince(at: number, most: number): Promise<{ came: string[]; went: string[] }> {
    const rows: { metric: string; came: boolean }[] = await this.database.query(
      `select metric, min(born_ms) > $1 as came from series group by metric
        having min(born_ms) > $1 or (max(ended_ms) > $1 and count(*) = count(ended_ms)) order by metric limit $2`,
      [at, most],
    );
    return {
      came: rows.filter(({ came }) => came).map(({ metric }) => metric),
      went: rows.filter(({ came }) => !came).map(({ metric }) => metric),
    };
  }
  /** Series that ended before all that is kept of them went; answers which. */
  async removeSeriesEndedBefore(before: number): Promise<number[]> {
    const rows: { id: number }[] = await this.database
      .query(`delete from series where id in (select id from series where ended_ms < $1 limit 5000) returning id`, [
        before,
      ])
      .then(([removed]: [{ id: number }[], number]) => removed);
    return rows.map(({ id }) => id);
  }

  async addLayout(endpointId: number, identity: Buffer, seriesIds: Int32Array): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(
      `insert into layout (endpoint_id, identity, series_ids) values ($1, $2, $3)
       on conflict (endpoint_id, identity) do update set identity = excluded.identity returning id`,
      [endpointId, identity, [...seriesIds]],
    );
    return row!.id; // insert or update always returns the row
  }
  async layouts(ids: readonly number[]): Promise<{ id: number; seriesIds: Int32Array }[]> {
    const rows: { id: number; series_ids: number[] }[] = await this.database.query(
      `select id, series_ids from layout where id = any($1)`,
      [ids],
    );
    return rows.map((row) => ({ id: row.id, seriesIds: Int32Array.from(row.series_ids) }));
  }
  /** Layouts that no reading has any more, but for those that are in use. */
  async removeLayouts(inUse: readonly number[], before: number): Promise<void> {
    await this.database.query(
      `delete from layout where id < $2 and not (id = any($1))
        and not exists (select 1 from journal where layout_id = layout.id)
        and not exists (select 1 from journal_late where layout_id = layout.id)`,
      [inUse, before],
    );
  }
  async newestLayout(): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(`select coalesce(max(id), 0) as id from layout`);
    return row!.id; // an aggregate always has a row
  }

  // ---- journal ----------------------------------------------------------------------------------------------------

  /**
   * Accepted means: this has returned. The primary key refuses a doubled reading; nothing is written once the lease is
   * another's. A journal row's payload goes over as bytes, one parameter each.
   */
  async append(table: 'journal' | 'journal_late', rows: readonly JournalRow[], epoch: number): Promise<void> {
    if (table === 'journal')
      await this.partitions.ensure(
        { query: (text: string, values: unknown[]) => this.asDriver(text, values) } as never, // the one call it makes
        'journal',
        rows.map(({ at }) => at),
      );
    const tuples = rows.map((_, i) => {
      const at = i * 7 + 2;
      return `($${at}::int, $${at + 1}::bigint, $${at + 2}::bigint, $${at + 3}::real, $${at + 4}::int, $${at + 5}::int, $${at + 6}::bytea)`;
    });
    const [answer]: { held: number }[] = await this.database.query(
      `with held as materialized (select epoch from lease where name = 'store' and epoch = $1 for key share),
            put as (insert into ${table} (endpoint_id, at_ms, read_ms, duration_ms, bytes, layout_id, payload, epoch)
              select given.*, held.epoch from (values ${tuples.join(', ')}) as given, held on conflict do nothing)
       select count(*)::int as held from held`,
      [
        epoch,
        ...rows.flatMap((row) => [
          row.endpointId,
          row.at,
          row.readAt,
          row.durationMs,
          row.bytes,
          row.layoutId,
          row.payload,
        ]),
      ],
    );
    if (answer!.held === 0) throw new LeaseLost(); // an aggregate always has a row
  }
  private async asDriver(text: string, values?: unknown[]) {
    return { rows: await this.database.query(text, values) };
  }

  /** Readings since a moment, and those that are not packed yet, oldest first. */
  async eachReading(since: number, take: (row: ReadingRow) => void): Promise<void> {
    const columns = 'j.endpoint_id, j.at_ms, j.layout_id, j.payload';
    await this.apart((client) =>
      copyOut(
        client,
        `select * from (
           select 1 as ring, ${columns} from journal j left join packed p using (endpoint_id)
             where j.at_ms >= ${numbers([since])} or j.at_ms > coalesce(p.until_ms, 0)
           union all select 0, ${columns} from journal_late j) as readings order by at_ms`,
        (row) =>
          take({
            ring: row.int() === 1,
            endpointId: row.int(),
            at: row.big(),
            layoutId: row.int(),
            payload: Buffer.from(row.bytes()!), // never null
          }),
      ),
    );
  }
  async readingsInUse(since: number): Promise<number[]> {
    const rows: { id: number }[] = await this.database.query(
      `select distinct layout_id as id from journal j left join packed p using (endpoint_id)
         where j.at_ms >= $1 or j.at_ms > coalesce(p.until_ms, 0)
       union select layout_id from journal_late`,
      [since],
    );
    return rows.map(({ id }) => id);
  }
  async packed(): Promise<Map<number, EndpointPacked>> {
    const rows: { endpoint_id: number; until_ms: number; joined_ms: number; anew_ms: number }[] =
      await this.database.query(`select endpoint_id, until_ms, joined_ms, anew_ms from packed`);
    return new Map(
      rows.map((row) => [row.endpoint_id, { until: row.until_ms, joined: row.joined_ms, anew: row.anew_ms }]),
    );
  }
  /** Endpoints of which something was brought in, and nothing packed. */
  async neverPacked(): Promise<number[]> {
    const rows: { id: number }[] = await this.database.query(
      `select id from endpoint where exists (select 1 from rollup_five where endpoint_id = id)
        and not exists (select 1 from packed where endpoint_id = id and until_ms > 0)`,
    );
    return rows.map(({ id }) => id);
  }
  /** Of each endpoint that anything is kept of. */
  async firstReadingsAt(endpointIds: readonly number[]): Promise<Map<number, number>> {
    const rows: { id: number; at: number | null }[] = await this.database.query(
      `select id, least((select min(at_ms) from journal where endpoint_id = id),
                        (select min(at_ms) from journal_late where endpoint_id = id),
                        (select min(from_ms) from chunk where endpoint_id = id)) as at
         from unnest($1::int[]) as asked (id)`,
      [endpointIds],
    );
    return new Map(rows.flatMap(({ id, at }) => (at === null ? [] : [[id, at] as const])));
  }

  async firstPackedAt(endpointId: number): Promise<number | null> {
    const [row]: { at: number | null }[] = await this.database.query(
      `select least((select min(from_ms) from chunk where endpoint_id = $1),
                    (select min(from_ms) from rollup_five where endpoint_id = $1)) as at`,
      [endpointId],
    );
    return row?.at ?? null;
  }

  // ---- partitions -------------------------------------------------------------------------------------------------

  async journalPartitions(): Promise<Partition[]> {
    return this.apart((client) => partitionsOf(client, 'journal'));
  }
  /** Whether every reading in it is packed. */
  async isPacked({ name }: Partition): Promise<boolean> {
    const [row]: { open: boolean }[] = await this.database.query(
      `select exists (select 1 from ${name} j left join packed p using (endpoint_id)
         where j.at_ms > coalesce(p.until_ms, 0)) as open`,
    );
    return !row!.open; // exists always answers
  }
  /** Dropped, not deleted from: that writes almost nothing. */
  async drop({ name }: Partition): Promise<void> {
    await this.database.transaction(async (manager) => {
      await manager.query(`set local lock_timeout = '3s'`);
      await manager.query(`drop table if exists ${name}`);
    });
    this.partitions.forget();
  }

  async forget(endpointIds: readonly number[]): Promise<void> {
    await this.database.transaction(async (manager) => {
      for (const table of ['journal', 'journal_late', 'chunk', 'rollup_five', 'rollup_hour', 'packed'])
        await manager.query(`delete from ${table} where endpoint_id = any($1)`, [endpointIds]);
    });
  }
}

function sorted(labels: Record<string, string>): [string, string][] {
  return Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
}
