import { type Beside, type BesideColumns, joinedAt, type RolledSamples, rolledOn } from '@zetopsis/core/samples';
import type { SeriesTable } from '@zetopsis/core/series';
import type { EpochMs, SeriesId } from '@zetopsis/core/units';
import { inPieces, Pieces } from '../../ground/platform/inPieces.ts';
import type { NewestReadings } from './newestReadings.ts';
import { READERS, type StoreWorkers } from './storeWorkers.service.ts';
import { type Resolution, TIERS } from './tiers.ts';

/** Stretches whose chunks are read together. */
const READ_AT_ONCE = 24;
/** Samples that are taken from memory in one go: some milliseconds. */
const STEPS_AT_ONCE = 100_000;

/** So many series are read on all threads at once. */
const WORTH_PARTING = 100;

export interface WindowIn {
  readonly from: EpochMs;
  readonly to: EpochMs;
  readonly resolution: Resolution;
  /** Wanted of roll-ups beside their last values or their growth. */
  readonly beside?: readonly Beside[] | undefined;
}

/** Samples, unless roll-ups are asked for. */
export interface ReadingOf extends Omit<WindowIn, 'resolution'> {
  readonly ids: readonly SeriesId[];
  readonly resolution?: Resolution | undefined;
}

/** Answers for any window, from chunks and the live edge without a seam. */
export class Windows {
  constructor(
    private readonly memory: NewestReadings,
    private readonly table: SeriesTable,
    private readonly workers: StoreWorkers,
  ) {}

  /**
   * Samples of many series in a window, oldest first, from chunks and the live edge without a seam. From roll-ups they
   * are one a bucket, when its last number was read: of what counts up its growth, of anything else its last value.
   */
  async read(ids: readonly SeriesId[], window: WindowIn): Promise<Map<SeriesId, RolledSamples>> {
    const { edge } = this.memory;
    const result = new Map<SeriesId, RolledSamples>();
    const byEndpoint = new Map<number, SeriesId[]>();
    await inPieces(ids, (id) => {
      const endpoint = this.table.endpointOf(id);
      if (endpoint === undefined) return;
      if (window.resolution === 'samples' && this.memory.edgeFrom(endpoint) <= window.from)
        result.set(id, edge.samples(endpoint, id));
      else {
        const list = byEndpoint.get(endpoint);
        if (list) list.push(id);
        else byEndpoint.set(endpoint, [id]);
      }
    });
    const pieces = new Pieces();
    const all: Promise<void>[] = [];
    const running = new Set<Promise<void>>();
    for (const [endpoint, own] of byEndpoint)
      for (const some of this.inSteps(endpoint, own)) {
        const work = this.readSome({ endpoint, ids: some, window, result });
        all.push(work);
        // that it failed is told at the end
        const over = work
          .catch(() => undefined)
          .then(() => {
            running.delete(over);
          });
        running.add(over);
        if (running.size >= READ_AT_ONCE) await Promise.race(running);
        if (pieces.due) await pieces.pause();
      }
    await Promise.all(all);
    return result;
  }

  /** So many series at a time that taking what is in memory of them is no stop. */
  private *inSteps(endpoint: number, ids: readonly SeriesId[]): Generator<readonly SeriesId[]> {
    const most = Math.max(1, Math.floor(STEPS_AT_ONCE / Math.max(1, this.memory.edge.count(endpoint))));
    const some = ids.length < WORTH_PARTING ? most : Math.min(most, Math.ceil(ids.length / READERS));
    for (let at = 0; at < ids.length; at += some) yield ids.slice(at, at + some);
  }

  private async readSome({
    endpoint,
    ids: some,
    window: { from, to, resolution, beside },
    result,
  }: {
    readonly endpoint: number;
    readonly ids: readonly SeriesId[];
    readonly window: WindowIn;
    readonly result: Map<SeriesId, RolledSamples>;
  }): Promise<void> {
    const { edge } = this.memory;
    const ids = [...some].sort((a, b) => a - b);
    // the border and the edge are taken before the chunks are read: packing may move both meanwhile
    const border = resolution === 'samples' ? this.memory.edgeFrom(endpoint) : this.memory.packedUntil(endpoint) + 1;
    const edges = ids.map((id) => edge.samples(endpoint, id));
    const packed = await this.workers.do<'read'>({
      kind: 'read',
      window: {
        endpoint,
        ids: Int32Array.from(ids),
        cumulative: Uint8Array.from(ids, (id) => (this.table.isCumulative(id) ? 1 : 0)),
        from,
        to: resolution === 'samples' ? Math.min(to, border - 1) : to,
        resolution,
        ...(beside === undefined ? {} : { beside }),
      },
    });
    ids.forEach((id, i) => {
      const times = packed.timeStarts[i]!;
      const own = (list: Float64Array) => list.subarray(packed.starts[i], packed.starts[i + 1]);
      const stored = {
        times: packed.times.subarray(times, times + packed.starts[i + 1]! - packed.starts[i]!),
        values: own(packed.values),
        ...(beside === undefined ? {} : { beside: mapped(packed.beside, own) }),
      };
      result.set(
        id,
        resolution === 'samples'
          ? joinedAt(stored, edges[i]!, border)
          : rolledOn({
              stored,
              edge: edges[i]!,
              border,
              bucket: TIERS[resolution].bucket,
              cumulative: this.table.isCumulative(id),
            }),
      );
    });
  }
}

const mapped = (columns: BesideColumns, change: (list: Float64Array) => Float64Array): BesideColumns =>
  Object.fromEntries(Object.entries(columns).map(([name, list]) => [name, change(list)]));
