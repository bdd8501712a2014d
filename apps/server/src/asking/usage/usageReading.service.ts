import { Injectable } from '@nestjs/common';
import type { ClusterView } from '@zetopsis/answers/cluster';
import { quotaOf, readVolumes, volumesFrom } from '@zetopsis/answers/cluster';
import { type ClusterUsage, UsageDetails, type Window } from '@zetopsis/answers/usage';
import { formatCount } from '@zetopsis/core/format';
import type { Samples } from '@zetopsis/core/samples';
import { DAY, type SeriesId } from '@zetopsis/core/units';
import { type ContainerVital, gridFor, growTree, type NodeVital, type UsageInput } from '@zetopsis/core/usage';
import type { Vital } from '@zetopsis/core/vitals';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { inPieces, Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { KnownEndpoints } from '../../inflow/scraping/knownEndpoints.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { FIVES_FROM, HOURS_FROM, type Resolution, TIERS } from '../../keeping/store/tiers.ts';
import { CriticalityService } from '../owners/criticality.service.ts';
import { AnsweringService } from './answering.service.ts';
import { clusterView } from './clusterView.ts';
import { FoundLinks } from './foundLinks.ts';
import { RunningOutLines } from './runningOutLines.ts';

const EMPTY: Samples = { times: [], values: [] };
/** Nothing else waits longer than this for a tree to grow. */
const GROWS_FOR = 25;
/** Of one cluster in one window. Each has lines of up to 240 points: so many take about two GiB while they are worked out. */
const MOST_PODS = 36_000;
/** A series that is wanted: what it is, and under which key. */
interface Wanted {
  readonly vital: Vital;
  readonly key: string;
}
const CONTAINER_VITALS: readonly ContainerVital[] = [
  'container.cpu.time',
  'container.cpu.throttled',
  'container.memory.working_set',
];
const NODE_VITALS: readonly NodeVital[] = [
  'node.cpu.time',
  'node.memory.working_set',
  'node.inodes.used',
  'node.inodes.count',
  'node.uptime',
];
const VOLUME_VITALS = {
  used: 'volume.usage',
  size: 'volume.capacity',
  entriesUsed: 'volume.inodes.used',
  entries: 'volume.inodes.count',
} as const;

/** Reads a whole cluster over a window, and works out what it used. */
@Injectable()
export class UsageReading {
  /** How long working out a cluster's usage took the last time, ms. */
  lastTook = 0;

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly configuration: ConfigurationService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly criticality: CriticalityService,
    private readonly answering: AnsweringService,
    private readonly links: FoundLinks,
    private readonly runningOut: RunningOutLines,
    private readonly clock: Clock,
  ) {}

  async read(connectionId: string, window: Window): Promise<ClusterUsage> {
    const began = performance.now();
    const name = this.connections.nameOf(connectionId);
    const interval = this.connections.intervalOf(connectionId);
    const view = await clusterView({
      inventory: this.inventory,
      connectionId,
      from: window.from,
      to: window.to,
      live: window.live,
    });
    this.mustBeBounded(name, view);
    const resolution = this.resolutionFor(window);
    // from roll-ups there is one sample a bucket
    const spacing = resolution === 'samples' ? interval : Math.max(interval, TIERS[resolution].bucket);
    const grid = gridFor(window.from, window.to, spacing);
    // rates look back beyond the window's start; what was brought in later may lie further apart than what is read
    const apart = window.live ? spacing : Math.max(spacing, TIERS.five.bucket);
    const lookBack = window.from - Math.max(grid.step, 6 * apart);
    const [read, volumes] = await Promise.all([
      this.readSeries({
        connectionId,
        keys: await this.seriesOf(connectionId, view),
        from: lookBack,
        to: window.to,
        resolution,
      }),
      this.readSeries({
        connectionId,
        keys: this.volumeSeriesOf(connectionId, view),
        from: Math.min(lookBack, volumesFrom(grid)),
        to: window.to,
        resolution,
      }),
    ]);
    const input: UsageInput = {
      cluster: { name, uid: connectionId },
      grid,
      interval: spacing,
      pods: view.pods,
      nodes: view.nodes,
      nodeSamples: (vital, node) => read.get(`${vital} ${node}`) ?? EMPTY,
      quotaOf: (namespace, resource) => quotaOf(view.inventory, namespace, resource),
    };
    const growing = growTree({
      ...input,
      containerSamples: (vital, podUid, container) => read.get(`${vital} ${podUid}/${container}`) ?? EMPTY,
    });
    const tree = await yieldedInPieces(growing, new Pieces(GROWS_FOR));
    // the tree tells what they did: most of what was read is not kept for as long
    for (const key of read.keys()) if (key.startsWith('container.')) read.delete(key);
    const usedVolumes = this.usedVolumes({ input, connectionId, live: window.live, read: volumes });
    this.lastTook = performance.now() - began;
    return {
      connectionId,
      window,
      name,
      view,
      tree,
      input,
      api: window.live ? this.connections.answeredIn(connectionId) : [],
      skews: window.live ? this.knownEndpoints.skewsOf(connectionId) : new Map(),
      criticality: this.criticality.of(name),
      answering: window.live ? this.answering.of(connectionId) : undefined,
      links: window.live ? this.links.of(name) : undefined,
      linkTurns: this.links.turnsOf(name),
      details: new UsageDetails(),
      volumes: usedVolumes,
    };
  }
  private usedVolumes({
    input,
    connectionId,
    live,
    read,
  }: {
    readonly input: UsageInput;
    readonly connectionId: string;
    readonly live: boolean;
    readonly read: ReadonlyMap<string, Samples>;
  }) {
    return readVolumes({
      pods: input.pods,
      grid: input.grid,
      interval: input.interval,
      samplesOf: (podUid, claim) => {
        const of = (what: keyof typeof VOLUME_VITALS) => read.get(`${VOLUME_VITALS[what]} ${podUid}/${claim}`) ?? EMPTY;
        return { used: of('used'), size: of('size'), entriesUsed: of('entriesUsed'), entries: of('entries') };
      },
      // of the past nobody looked when it runs out
      outcomeOf: (namespace, claim) =>
        live ? this.runningOut.ofVolume(connectionId, input.cluster.name, { namespace, claim }) : null,
    });
  }

  /** What is worked out of so many pods would take the memory that everybody else needs. */
  private mustBeBounded(name: string, { pods }: ClusterView): void {
    if (pods.length > MOST_PODS)
      throw new Refusal(
        'tooLarge',
        `In this window there were ${formatCount(pods.length, 'pod')} of ${name}, more than the ${formatCount(MOST_PODS, 'pod')} that are worked out at once. Choose a shorter window.`,
      );
  }
  /** Long windows, and those of which samples are kept no more, are read from roll-ups. */
  resolutionFor({ from, to }: Window): Resolution {
    const { samplesDays, fiveMinutesDays } = this.configuration.get('retention', 'kept')!; // always there
    const age = this.clock.now() - from;
    const length = to - from;
    if (length > HOURS_FROM || age > fiveMinutesDays * DAY) return 'hour';
    return length > FIVES_FROM || age > samplesDays * DAY ? 'five' : 'samples';
  }
  private async seriesOf(connectionId: string, view: ClusterView): Promise<Map<SeriesId, Wanted>> {
    const keys = new Map<SeriesId, Wanted>();
    const podUids = new Set(view.pods.map(({ pod }) => pod.uid));
    const nodes = new Set(view.nodes.map(({ node }) => node.name));
    for (const vital of CONTAINER_VITALS) {
      await inPieces(this.vitals.select(connectionId, vital), (id) => {
        const podUid = this.vitals.podUid(connectionId, vital, id);
        if (!podUids.has(podUid)) return;
        const container = this.vitals.label({ connectionId, vital, id, role: 'container' });
        keys.set(id, { vital, key: `${vital} ${podUid}/${container}` });
      });
    }
    for (const vital of NODE_VITALS) {
      for (const id of this.vitals.select(connectionId, vital)) {
        const node = this.vitals.label({ connectionId, vital, id, role: 'node' });
        if (nodes.has(node)) keys.set(id, { vital, key: `${vital} ${node}` });
      }
    }
    return keys;
  }
  private volumeSeriesOf(connectionId: string, view: ClusterView): Map<SeriesId, Wanted> {
    const keys = new Map<SeriesId, Wanted>();
    const podUids = new Set(view.pods.map(({ pod }) => pod.uid));
    for (const vital of Object.values(VOLUME_VITALS)) {
      for (const id of this.vitals.select(connectionId, vital)) {
        const podUid = this.vitals.podUid(connectionId, vital, id);
        const claim = this.vitals.label({ connectionId, vital, id, role: 'claim' });
        if (podUids.has(podUid)) keys.set(id, { vital, key: `${vital} ${podUid}/${claim}` });
      }
    }
    return keys;
  }
  private async readSeries({
    connectionId,
    keys,
    from,
    to,
    resolution,
  }: {
    readonly connectionId: string;
    readonly keys: Map<SeriesId, Wanted>;
    readonly from: number;
    readonly to: number;
    readonly resolution: Resolution;
  }): Promise<Map<string, Samples>> {
    const read = await this.samples.read({ ids: [...keys.keys()], from, to, resolution });
    const byKey = new Map<string, Samples>();
    await inPieces(read, ([id, samples]) => {
      const { vital, key } = keys.get(id)!; // read answers what was asked for
      byKey.set(key, this.vitals.inUnit(connectionId, vital, samples));
    });
    return byKey;
  }
}
