import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { DataSource } from 'typeorm';

export interface SeriesRow {
  readonly id: number;
  readonly endpointId: number;
  readonly metric: string;
  readonly labels: readonly (readonly [string, string])[];
  readonly cumulative: boolean;
}
export interface JournalRow {
  readonly endpointId: number;
  readonly at: number;
  readonly readAt: number;
  readonly durationMs: number;
  readonly bytes: number;
  readonly layoutId: number;
  readonly payload: Buffer;
}
export interface ChunkRow {
  readonly endpointId: number;
  readonly seriesId: number;
  readonly from: number;
  readonly to: number;
  readonly samples: number;
  readonly payload: Buffer;
}

/** SQL of the sample path: series, layouts, journal, chunks (design/storage.md). */
@Injectable()
export class SampleStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async allSeries(): Promise<SeriesRow[]> {
    const rows: {
      id: number;
      endpoint_id: number;
      metric: string;
      labels: Record<string, string>;
      cumulative: boolean;
    }[] = await this.database.query(`select id, endpoint_id, metric, labels, cumulative from series order by id`);
    return rows.map((row) => ({
      id: row.id,
      endpointId: row.endpoint_id,
      metric: row.metric,
      labels: sorted(row.labels),
      cumulative: row.cumulative,
    }));
  }

  /** Answers the ids in the order given; a series known already keeps its id. */
  async addSeries(
    endpointId: number,
    series: readonly { identity: Buffer; metric: string; labels: SeriesRow['labels']; cumulative: boolean }[],
    bornAt: number,
  ): Promise<number[]> {
    const rows: { id: number; identity: Buffer }[] = await this.database.query(
      `insert into series (endpoint_id, identity, metric, labels, cumulative, born_ms)
       select $1, identity, metric, labels, cumulative, $2
         from unnest($3::bytea[], $4::text[], $5::jsonb[], $6::boolean[]) as given (identity, metric, labels, cumulative)
       on conflict (endpoint_id, identity) do update set metric = excluded.metric
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

  async allLayouts(): Promise<{ id: number; endpointId: number; seriesIds: number[] }[]> {
    const rows: { id: number; endpoint_id: number; series_ids: number[] }[] = await this.database.query(
      `select id, endpoint_id, series_ids from layout where id in (select layout_id from journal) order by id`,
    );
    return rows.map((row) => ({ id: row.id, endpointId: row.endpoint_id, seriesIds: row.series_ids }));
  }
  async addLayout(endpointId: number, identity: Buffer, seriesIds: readonly number[]): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(
      `insert into layout (endpoint_id, identity, series_ids) values ($1, $2, $3)
       on conflict (endpoint_id, identity) do update set identity = excluded.identity returning id`,
      [endpointId, identity, seriesIds],
    );
    return row!.id; // insert or update always returns the row
  }

  /** Accepted means: this has returned. The primary key refuses a doubled reading. */
  async append(rows: readonly JournalRow[]): Promise<void> {
    await this.database.query(
      `insert into journal (endpoint_id, at_ms, read_ms, duration_ms, bytes, layout_id, payload)
       select * from unnest($1::int[], $2::bigint[], $3::bigint[], $4::real[], $5::int[], $6::int[], $7::bytea[])
       on conflict (endpoint_id, at_ms) do nothing`,
      [
        rows.map((row) => row.endpointId),
        rows.map((row) => row.at),
        rows.map((row) => row.readAt),
        rows.map((row) => row.durationMs),
        rows.map((row) => row.bytes),
        rows.map((row) => row.layoutId),
        rows.map((row) => row.payload),
      ],
    );
  }
  async endpointsInJournal(): Promise<{ endpointId: number; readings: number; oldest: number }[]> {
    const rows: { endpoint_id: number; readings: number; oldest: number }[] = await this.database.query(
      `select endpoint_id, count(*)::int as readings, min(at_ms) as oldest from journal group by endpoint_id`,
    );
    return rows.map((row) => ({ endpointId: row.endpoint_id, readings: row.readings, oldest: row.oldest }));
  }
  async firstReadingAt(endpointId: number): Promise<number | null> {
    const [row]: { at: number | null }[] = await this.database.query(
      `select least((select min(at_ms) from journal where endpoint_id = $1),
                    (select min(from_ms) from chunk where endpoint_id = $1)) as at`,
      [endpointId],
    );
    return row?.at ?? null;
  }
  async packedUntil(): Promise<Map<number, number>> {
    const rows: { endpoint_id: number; until: number }[] = await this.database.query(
      `select endpoint_id, max(to_ms) as until from chunk group by endpoint_id`,
    );
    return new Map(rows.map((row) => [row.endpoint_id, row.until]));
  }
  async journalOf(endpointId: number, until: number): Promise<JournalRow[]> {
    const rows: {
      at_ms: number;
      read_ms: number;
      duration_ms: number;
      bytes: number;
      layout_id: number;
      payload: Buffer;
    }[] = await this.database.query(
      `select at_ms, read_ms, duration_ms, bytes, layout_id, payload from journal where endpoint_id = $1 and at_ms <= $2 order by at_ms`,
      [endpointId, until],
    );
    return rows.map((row) => ({
      endpointId,
      at: row.at_ms,
      readAt: row.read_ms,
      durationMs: row.duration_ms,
      bytes: row.bytes,
      layoutId: row.layout_id,
      payload: row.payload,
    }));
  }

  /** Chunks in, their part of the journal out, in one transaction. */
  async replaceByChunks(endpointId: number, until: number, chunks: readonly ChunkRow[]): Promise<void> {
    await this.database.transaction(async (manager) => {
      await manager.query(
        `insert into chunk (endpoint_id, series_id, from_ms, to_ms, samples, payload)
         select $1, * from unnest($2::int[], $3::bigint[], $4::bigint[], $5::int[], $6::bytea[])`,
        [
          endpointId,
          chunks.map((row) => row.seriesId),
          chunks.map((row) => row.from),
          chunks.map((row) => row.to),
          chunks.map((row) => row.samples),
          chunks.map((row) => row.payload),
        ],
      );
      await manager.query(`delete from journal where endpoint_id = $1 and at_ms <= $2`, [endpointId, until]);
    });
  }
  async forget(endpointIds: readonly number[]): Promise<void> {
    await this.database.transaction(async (manager) => {
      await manager.query(`delete from journal where endpoint_id = any($1)`, [endpointIds]);
      await manager.query(`delete from chunk where endpoint_id = any($1)`, [endpointIds]);
    });
  }
  async chunks(endpointId: number, seriesIds: readonly number[], from: number, to: number): Promise<ChunkRow[]> {
    const rows: { series_id: number; from_ms: number; to_ms: number; samples: number; payload: Buffer }[] =
      await this.database.query(
        `select series_id, from_ms, to_ms, samples, payload from chunk
        where endpoint_id = $1 and series_id = any($2) and from_ms <= $4 and to_ms >= $3 order by series_id, from_ms`,
        [endpointId, seriesIds, from, to],
      );
    return rows.map((row) => ({
      endpointId,
      seriesId: row.series_id,
      from: row.from_ms,
      to: row.to_ms,
      samples: row.samples,
      payload: row.payload,
    }));
  }
}

function sorted(labels: Record<string, string>): [string, string][] {
  return Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
}
