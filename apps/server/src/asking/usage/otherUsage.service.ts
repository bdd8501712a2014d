import { Injectable } from '@nestjs/common';
import { containerKey } from '@zetopsis/answers/cluster';
import { countedFigures, type OtherFigures, type OtherRead, ReadFigures, volumesRead } from '@zetopsis/answers/columns';
import type { SeenUsage, Window } from '@zetopsis/answers/usage';
import type { OtherResource } from '@zetopsis/contract';
import { hasEnded } from '@zetopsis/core/inventory';
import type { Samples } from '@zetopsis/core/samples';
import type { SeriesId } from '@zetopsis/core/units';
import {
  gridEnd,
  linesOfSeries,
  presenceLines,
  SummedTree,
  sumOfLines,
  type UsageInput,
  type UsageLines,
} from '@zetopsis/core/usage';
import type { Vital } from '@zetopsis/core/vitals';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { SharedWork } from '../../ground/platform/question.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { UsageService } from './usage.service.ts';

/** What takes so long to read is not waited for when there is an older answer, of at most this age. */
const SLOW = 400;
const OLDEST = 60_000;
const KEPT = 12;

/** One resource of one window of one cluster: what was read last, and what is being read. */
interface Kept {
  readonly connectionId: string;
  readonly of: OtherResource;
  readonly window: Window;
  input: UsageInput;
  read: OtherRead | null;
  at: number;
  took: number;
  working: SharedWork<OtherRead> | null;
}

/** Reads resources beside CPU and memory of whole clusters, when somebody looks at them. */
@Injectable()
export class OtherUsageService {
  /** The one asked for last stands last. */
  private readonly kept: Kept[] = [];

  constructor(
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly usage: UsageService,
    private readonly clock: Clock,
  ) {}

  async figures(usage: SeenUsage, of: OtherResource): Promise<OtherFigures> {
    switch (of) {
      case 'restarts':
      case 'memoryEnds':
      case 'throttled':
        return countedFigures(usage, of);
      case 'volumes':
        return new ReadFigures(usage, of, volumesRead(usage));
      case 'received':
      case 'sent':
      case 'files':
      case 'pods':
        return new ReadFigures(usage, of, await this.read(usage, of));
    }
  }

  private read(usage: SeenUsage, of: 'received' | 'sent' | 'files' | 'pods'): Promise<OtherRead> {
    const { connectionId, window, input } = usage;
    const now = this.clock.now();
    const known = this.kept.findIndex(
      (one) => one.connectionId === connectionId && one.of === of && alike(one.window, window),
    );
    const kept: Kept = this.kept.splice(known < 0 ? this.kept.length : known, 1)[0] ?? {
      connectionId,
      of,
      window,
      input,
      read: null,
      at: now,
      took: 0,
      working: null,
    };
    this.kept.push(kept);
    if (this.kept.length > KEPT) this.kept.shift();
    if (kept.read && kept.input === input) return Promise.resolve(kept.read);
    const fresh = this.refresh({ kept, usage, of, now });
    if (!kept.read || kept.took < SLOW || now - kept.at > OLDEST) return fresh.wait();
    fresh.goOn();
    return Promise.resolve(kept.read);
  }
  private refresh({
    kept,
    usage,
    of,
    now,
  }: {
    readonly kept: Kept;
    readonly usage: SeenUsage;
    readonly of: 'received' | 'sent' | 'files' | 'pods';
    readonly now: number;
  }): SharedWork<OtherRead> {
    if (kept.working === null || kept.working.abandoned) {
      const work = new SharedWork(`${of} of ${kept.connectionId}`, async () => {
        const began = performance.now();
        try {
          const read = await (of === 'pods' ? this.presence(usage.input) : this.readSeries(usage, of));
          Object.assign(kept, { read, input: usage.input, at: now, took: performance.now() - began });
          return read;
        } finally {
          if (kept.working === work) kept.working = null;
        }
      });
      kept.working = work;
    }
    return kept.working;
  }

  private async presence({ grid, pods }: UsageInput): Promise<OtherRead> {
    const lines = new Map<string, UsageLines>();
    await inPieces(pods, ({ pod, from, to }) => {
      if (!hasEnded(pod)) lines.set(pod.uid, presenceLines(grid, from, to));
    });
    return { pods: new SummedTree(grid, (uid) => lines.get(uid)), containers: new Map(), nodes: new Map() };
  }

  private async readSeries({ connectionId, input }: SeenUsage, of: 'received' | 'sent' | 'files'): Promise<OtherRead> {
    const { grid, interval } = input;
    const counts = of !== 'files';
    const direction = of === 'received' ? 'receive' : 'transmit';
    const select = (vital: Vital) => this.vitals.select(connectionId, vital, counts ? { direction } : {});
    const [own, node]: [Vital, Vital] = counts
      ? ['pod.network.io', 'node.network.io']
      : ['container.filesystem.usage', 'node.filesystem.usage'];
    const uids = new Set(input.pods.map(({ pod }) => pod.uid));
    const ofPods: { id: SeriesId; uid: string; container: string }[] = [];
    await inPieces(select(own), (id) => {
      const uid = this.vitals.podUid(connectionId, own, id);
      if (uids.has(uid))
        ofPods.push({
          id,
          uid,
          container: counts ? '' : this.vitals.label({ connectionId, vital: own, id, role: 'container' }),
        });
    });
    const ofNodes = select(node);
    const sizes = counts ? [] : this.vitals.select(connectionId, 'node.filesystem.capacity');
    const read = await this.samples.read({
      ids: [...ofPods.map(({ id }) => id), ...ofNodes, ...sizes],
      from: grid.start - Math.max(grid.step, 6 * interval),
      to: gridEnd(grid),
      resolution: this.usage.resolutionFor({ from: grid.start, to: gridEnd(grid), live: false }),
    });
    const samplesOf = (vital: Vital, id: SeriesId): Samples | null => {
      const samples = read.get(id);
      return samples ? this.vitals.inUnit(connectionId, vital, samples) : null;
    };
    const parts = new Map<string, UsageLines[]>();
    const containers = new Map<string, UsageLines>();
    await inPieces(ofPods, ({ id, uid, container }) => {
      const samples = samplesOf(own, id);
      if (!samples) return;
      const lines = linesOfSeries({ samples, grid, interval, counts });
      if (container !== '') containers.set(containerKey(uid, container), lines);
      const list = parts.get(uid);
      if (list) list.push(lines);
      else parts.set(uid, [lines]);
    });
    const pods = new Map([...parts].map(([uid, list]) => [uid, sumOfLines(grid, list)]));
    const nodeOf = (vital: Vital, id: SeriesId) => this.vitals.label({ connectionId, vital, id, role: 'node' });
    const sizeOf = new Map(
      sizes.map((id) => [nodeOf('node.filesystem.capacity', id), samplesOf('node.filesystem.capacity', id)]),
    );
    const nodes = new Map(
      ofNodes.flatMap((id): [string, UsageLines][] => {
        const samples = samplesOf(node, id);
        const name = nodeOf(node, id);
        return samples
          ? [[name, linesOfSeries({ samples, grid, interval, counts, size: sizeOf.get(name) ?? null })]]
          : [];
      }),
    );
    return { pods: new SummedTree(grid, (uid) => pods.get(uid)), containers, nodes };
  }
}

/** Windows up to now of nearly the same length are one: the question was under way a little longer. */
const ALIKE = 0.01;
function alike(one: Window, other: Window): boolean {
  if (!one.live || !other.live) return one.live === other.live && one.from === other.from && one.to === other.to;
  const length = one.to - one.from;
  return Math.abs(other.to - other.from - length) <= ALIKE * length;
}
