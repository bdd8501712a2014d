import { Injectable } from '@nestjs/common';
import type { Samples } from '@zetopsis/core/samples';
import type { History } from '@zetopsis/core/trend';
import { DAY, type DurationMs, MINUTE, type SeriesId } from '@zetopsis/core/units';
import { type Grid, gridFor, latestOnGrid, perSecondOnGrid } from '@zetopsis/core/usage';
import type { Vital } from '@zetopsis/core/vitals';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { type Resolution, TIERS } from '../../keeping/store/tiers.ts';

export const LONG = 14 * DAY;
const SHORT = DAY;
/** Of samples themselves one point in so long. */
const FINE = MINUTE / 2;
const SCALES = [
  { length: 90 * MINUTE, resolution: 'samples' },
  { length: SHORT, resolution: 'five' },
  { length: LONG, resolution: 'hour' },
] as const;
/** Long histories are read by the hour; while there are few hours, a shorter one by five minutes tells more. */
const ENOUGH_HOURS = 48;

export type Together = 'sum' | 'newest';
/** Series whose samples make one history each. */
export type Lists<K> = ReadonlyMap<K, { readonly vital: Vital; readonly ids: readonly SeriesId[] }>;

/** What vitals were over days and weeks, as what runs out is told from. */
@Injectable()
export class Histories {
  constructor(
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
  ) {}

  /** Samples of series, each list drawn into one history: summed, or the newest of them. */
  async drawn<K>({
    id,
    lists,
    now,
    of: { length, resolution, together },
  }: {
    readonly id: string;
    readonly lists: Lists<K>;
    readonly now: number;
    readonly of: { length: DurationMs; resolution: Resolution; together: Together };
  }): Promise<Map<K, History>> {
    const step = resolution === 'samples' ? FINE : TIERS[resolution].bucket;
    const read = await this.samples.read({
      ids: [...lists.values()].flatMap(({ ids }) => ids),
      from: now - length - 2 * step,
      to: now,
      resolution,
    });
    const grid = gridFor(now - length, now, step);
    const out = new Map<K, History>();
    for (const [key, { vital, ids }] of lists) {
      const lines: Float64Array[] = [];
      await inPieces(ids, (one) => {
        const own = read.get(one);
        if (own) lines.push(this.onGrid({ id, vital, samples: own, grid, step }));
      });
      if (lines.length > 0)
        out.set(key, trimmed({ start: grid.start, step: grid.step, values: drawnTogether(lines, grid, together) }));
    }
    return out;
  }
  private onGrid({
    id,
    vital,
    samples,
    grid,
    step,
  }: {
    readonly id: string;
    readonly vital: Vital;
    readonly samples: Samples;
    readonly grid: Grid;
    readonly step: DurationMs;
  }): Float64Array {
    const own = this.vitals.inUnit(id, vital, samples);
    return vital.endsWith('cpu.time')
      ? perSecondOnGrid({ samples: own, grid, over: 2 * step, staleness: 2.5 * step })
      : latestOnGrid(own, grid, 2.5 * step);
  }
  /**
   * Of each the finest first: by half minutes over an hour and a half, by five minutes over a day, by the hour over two weeks.
   */
  async byScales<K>({
    together,
    ...asked
  }: {
    readonly id: string;
    readonly lists: Lists<K>;
    readonly now: number;
    readonly together: Together;
  }): Promise<Map<K, History[]>> {
    const out = new Map<K, History[]>();
    for (const { length, resolution } of SCALES) {
      for (const [key, history] of await this.drawn({ ...asked, of: { length, resolution, together } })) {
        const own = out.get(key);
        if (own) own.push(history);
        else out.set(key, [history]);
      }
    }
    return out;
  }
  /** By the hour over two weeks; where there are few hours, by five minutes over a day. */
  async longOrShort<K>({
    id,
    lists,
    now,
    together,
  }: {
    readonly id: string;
    readonly lists: Lists<K>;
    readonly now: number;
    readonly together: Together;
  }): Promise<Map<K, History>> {
    const long = await this.drawn({ id, lists, now, of: { length: LONG, resolution: 'hour', together } });
    const few = new Map([...lists].filter(([key]) => (long.get(key)?.values.length ?? 0) < ENOUGH_HOURS));
    if (few.size === 0) return long;
    return new Map([
      ...long,
      ...(await this.drawn({ id, lists: few, now, of: { length: SHORT, resolution: 'five', together } })),
    ]);
  }
}

function drawnTogether(lines: readonly Float64Array[], { count }: Grid, together: Together): Float64Array {
  const out = new Float64Array(count).fill(Number.NaN);
  for (const line of lines)
    for (let i = 0; i < count; i++) {
      const value = line[i]!;
      if (Number.isNaN(value)) continue;
      out[i] = together === 'sum' && !Number.isNaN(out[i]!) ? out[i]! + value : value;
    }
  return out;
}

export function trimmed({ start, step, values }: History): History {
  const first = values.findIndex((value) => !Number.isNaN(value));
  return first <= 0 ? { start, step, values } : { start: start + first * step, step, values: values.slice(first) };
}
