import { Injectable } from '@nestjs/common';
import { containerKey } from '@zetopsis/answers/cluster';
import { countedFigures, type OtherFigures, type OtherRead, ReadFigures, volumesRead } from '@zetopsis/answers/columns';
import type { SeenUsage } from '@zetopsis/answers/usage';
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
import { Clock } from '../../ground/platform/settings.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { KeptWindows } from './keptWindows.ts';
import { UsageService } from './usage.service.ts';

const KEPT = 12;

/** Reads resources beside CPU and memory of whole clusters, when somebody looks at them. */
@Injectable()
export class OtherUsageService {
  private readonly kept: KeptWindows<{ readonly input: UsageInput; readonly read: OtherRead }>;

  constructor(
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly usage: UsageService,
    clock: Clock,
  ) {
    this.kept = new KeptWindows(clock, KEPT);
  }

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

  /** What was read for the same usage is read once. */
  private async read(usage: SeenUsage, of: 'received' | 'sent' | 'files' | 'pods'): Promise<OtherRead> {
    const { connectionId, window, input } = usage;
    const { read } = await this.kept.answer({
      connectionId,
      of,
      window,
      holds: ({ value }) => value.input === input,
      work: async () => ({ input, read: await (of === 'pods' ? this.presence(input) : this.readSeries(usage, of)) }),
    });
    return read;
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
