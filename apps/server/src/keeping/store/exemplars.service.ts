import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { Page } from '@zetopsis/core/exposition';
import { type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import { DataSource } from 'typeorm';
import { databaseProblem } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';

/** Of each series and hour. */
const KEPT = 10;

export interface KeptExemplar {
  readonly seriesId: SeriesId;
  readonly at: EpochMs;
  readonly value: number;
  readonly labels: Readonly<Record<string, string>>;
}

/** The newest exemplars of each series and hour. They are kept beside the samples: losing some loses no sample. */
@Injectable()
export class ExemplarsService {
  /** The newest one of each series, so that a page that repeats it writes nothing. */
  private readonly newest = new Map<SeriesId, string>();

  constructor(
    @InjectDataSource() private readonly database: DataSource,
    private readonly log: ServerLog,
  ) {}

  /** Never fails: what could not be kept is logged. */
  async note({
    endpointId,
    exemplars,
    idOf,
    readAt,
  }: {
    readonly endpointId: number;
    readonly exemplars: Page['exemplars'];
    readonly idOf: (slot: number) => SeriesId;
    readonly readAt: EpochMs;
  }): Promise<void> {
    const fresh = exemplars.flatMap(({ slot, exemplar }) => {
      const seriesId = idOf(slot);
      const print = `${exemplar.at} ${exemplar.value} ${exemplar.labels.join(' ')}`;
      if (seriesId <= 0 || this.newest.get(seriesId) === print) return [];
      this.newest.set(seriesId, print);
      return [
        { seriesId, at: exemplar.at ?? readAt, value: exemplar.value, labels: Object.fromEntries(exemplar.labels) },
      ];
    });
    if (fresh.length === 0) return;
    try {
      await this.keep(endpointId, fresh);
    } catch (error) {
      for (const { seriesId } of fresh) this.newest.delete(seriesId);
      this.log.failure('exemplarsNotKept', error, { endpoint: endpointId, why: databaseProblem(error) });
    }
  }
  private async keep(endpointId: number, fresh: readonly KeptExemplar[]): Promise<void> {
    const ids = fresh.map(({ seriesId }) => seriesId);
    await this.database.transaction(async (manager) => {
      await manager.query(
        `insert into exemplar (endpoint_id, series_id, at_ms, value, labels)
       select $1, * from unnest($2::int[], $3::float8[], $4::float8[], $5::jsonb[]) on conflict do nothing`,
        [
          endpointId,
          ids,
          fresh.map(({ at }) => at),
          fresh.map(({ value }) => value),
          fresh.map(({ labels }) => JSON.stringify(labels)),
        ],
      );
      await manager.query(
        `delete from exemplar e using (
         select series_id, at_ms, row_number() over (partition by series_id, floor(at_ms / $3) order by at_ms desc) as place
           from exemplar where endpoint_id = $1 and series_id = any($2) and at_ms > $4) old
        where e.endpoint_id = $1 and e.series_id = old.series_id and e.at_ms = old.at_ms and old.place > ${KEPT}`,
        [endpointId, ids, HOUR, Math.min(...fresh.map(({ at }) => at)) - HOUR],
      );
    });
  }
  async newestOf(endpointId: number, limit: number): Promise<KeptExemplar[]> {
    const rows: ExemplarRow[] = await this.database.query(
      `select series_id, at_ms, value, labels from exemplar where endpoint_id = $1 order by at_ms desc limit $2`,
      [endpointId, limit],
    );
    return rows.map(keptOf);
  }
  /**
   * Of some series of some endpoints, newest first: of each of so many parts of a stretch of time the largest value, and others
   * as they fall.
   */
  async between(
    endpoints: readonly number[],
    ids: readonly SeriesId[],
    { from, to, parts, each }: { from: EpochMs; to: EpochMs; parts: number; each: number },
  ): Promise<KeptExemplar[]> {
    const rows: ExemplarRow[] = await this.database.query(
      `select series_id, at_ms, value, labels from (
         select *, row_number() over (partition by floor((at_ms - $3) / $5) order by value desc, at_ms desc) as largest,
                row_number() over (partition by floor((at_ms - $3) / $5) order by md5(labels::text)) as any_of_them
           from exemplar where endpoint_id = any($1::int[]) and series_id = any($2::int[]) and at_ms >= $3 and at_ms <= $4) found
        where largest = 1 or any_of_them < $6 order by at_ms desc`,
      [endpoints, ids, from, to, Math.max(1, (to - from) / parts), each],
    );
    return rows.map(keptOf);
  }
}
interface ExemplarRow {
  readonly series_id: number;
  readonly at_ms: number;
  readonly value: number;
  readonly labels: Record<string, string>;
}
const keptOf = ({ series_id, at_ms, value, labels }: ExemplarRow): KeptExemplar => ({
  seriesId: series_id,
  at: at_ms,
  value,
  labels,
});
