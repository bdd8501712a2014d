import { type Beside, type BesideColumns, joinedAt, type RolledSamples, rolledOn } from '@zetopsis/core/samples';
import type { SeriesTable } from '@zetopsis/core/series';
import type { EpochMs, SeriesId } from '@zetopsis/core/units';
import { inPieces, Pieces } from '../../ground/platform/inPieces.ts';
import { unlessLeft } from '../../ground/platform/question.ts';
import type { NewestReadings } from './newestReadings.ts';
import { READERS, type StoreWorkers } from './storeWorkers.service.ts';
import { type Resolution, TIERS } from './tiers.ts';

/** Stretches whose chunks are read together. */
const READ_AT_ONCE = 24;
/** Samples that are taken from memory in one go: some milliseconds. */
const STEPS_AT_ONCE = 100_000;

/** Series that are read with one question. */
const MOST_TOGETHER = 1000;
/** Buckets of roll-ups that are read with one question: others wait for it as long. */
const BUCKETS_AT_ONCE = 500_000;
interface Asked {
  readonly endpoint: number;
  readonly id: SeriesId;
}
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
    // a question would answer the rows of what is named twice twice
    await inPieces(new Set(ids), (id) => {
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
    for (const some of this.inSteps(byEndpoint, window)) {
      const work = this.readSome({ asked: some, window, result });
      all.push(work);
      // that it failed is told at the end
      const over = work
        .catch(() => undefined)
        .then(() => {
          running.delete(over);
        });
      running.add(over);
      if (running.size >= READ_AT_ONCE) await unlessLeft(Promise.race(running));
      if (pieces.due) await pieces.pause();
    }
    await unlessLeft(Promise.all(all));
    return result;
  }

  /**
   * So many series at a time that taking what is in memory of them is no stop; of many endpoints together, since one question
   * for each would take longer than what is read.
   */
  private *inSteps(
    byEndpoint: ReadonlyMap<number, readonly SeriesId[]>,
    { resolution, from, to }: WindowIn,
  ): Generator<readonly Asked[]> {
    let total = 0;
    for (const { length } of byEndpoint.values()) total += length;
    const most =
      resolution === 'samples'
        ? MOST_TOGETHER
        : Math.min(MOST_TOGETHER, Math.max(1, Math.floor((BUCKETS_AT_ONCE * TIERS[resolution].bucket) / (to - from))));
    const share = Math.min(most, total < WORTH_PARTING ? total : Math.ceil(total / READERS));
    let some: Asked[] = [];
    let weight = 0;
    for (const [endpoint, ids] of byEndpoint) {
      const each = Math.max(1, this.memory.edge.count(endpoint));
      for (const id of ids) {
        if (some.length > 0 && (some.length >= share || weight + each > STEPS_AT_ONCE)) {
          yield some;
          [some, weight] = [[], 0];
        }
        some.push({ endpoint, id });
        weight += each;
      }
      // of hours each endpoint has as many as its days are joined
      if (resolution === 'hour' && some.length > 0) {
        yield some;
        [some, weight] = [[], 0];
      }
    }
    if (some.length > 0) yield some;
  }

  private async readSome({
    asked,
    window: { from, to, resolution, beside },
    result,
  }: {
    readonly asked: readonly Asked[];
    readonly window: WindowIn;
    readonly result: Map<SeriesId, RolledSamples>;
  }): Promise<void> {
    const { edge } = this.memory;
    const all = [...asked].sort((a, b) => a.id - b.id);
    const ids = all.map(({ id }) => id);
    // borders and edges are taken before the chunks are read: packing may move both meanwhile
    const borders = all.map(({ endpoint }) =>
      resolution === 'samples' ? this.memory.edgeFrom(endpoint) : this.memory.packedUntil(endpoint) + 1,
    );
    const edges = all.map(({ endpoint, id }) => edge.samples(endpoint, id));
    const [{ endpoint: first }] = all as [Asked]; // there is one at least
    const packed = await this.workers.do<'read'>({
      kind: 'read',
      window: {
        endpoint: all.every(({ endpoint }) => endpoint === first)
          ? first
          : Int32Array.from(all, ({ endpoint }) => endpoint),
        ids: Int32Array.from(ids),
        cumulative: Uint8Array.from(ids, (id) => (this.table.isCumulative(id) ? 1 : 0)),
        from,
        to: resolution === 'samples' ? Math.min(to, Math.max(...borders) - 1) : to,
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
          ? joinedAt(stored, edges[i]!, borders[i]!)
          : rolledOn({
              stored,
              edge: edges[i]!,
              border: borders[i]!,
              bucket: TIERS[resolution].bucket,
              cumulative: this.table.isCumulative(id),
            }),
      );
    });
  }
}

const mapped = (columns: BesideColumns, change: (list: Float64Array) => Float64Array): BesideColumns =>
  Object.fromEntries(Object.entries(columns).map(([name, list]) => [name, change(list)]));
