import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { readTrait, type ScopeQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { formatCount } from '@zetopsis/core/format';
import type { Samples } from '@zetopsis/core/samples';
import { DAY, type DurationMs, HOUR, MINUTE, type Resource, type SeriesId } from '@zetopsis/core/units';
import {
  type ContainerVital,
  gridFor,
  growTree,
  type NodeVital,
  narrowTree,
  type UsageInput,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { Vital } from '@zetopsis/core/vitals';
import { ConfigurationService } from '../configuration/configuration.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import type { ClusterInventory } from '../inventory/clusterInventory.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { inPieces, Pieces, yieldedInPieces } from '../platform/inPieces.ts';
import { SharedWork } from '../platform/question.ts';
import { Refusal } from '../platform/refusals.ts';
import { Clock } from '../platform/settings.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { SamplesService } from '../store/samples.service.ts';
import { type Resolution, TIERS } from '../store/tiers.ts';
import { VitalsService } from '../vitals/vitals.service.ts';
import { type ClusterView, clusterView, narrowView } from './clusterView.ts';
import { Derived } from './derived.ts';
import { readVolumes, type VolumesRead, volumesFrom } from './volumesRead.ts';

const EMPTY: Samples = { times: [], values: [] };
/** From these lengths on a point of the grid spans several buckets. */
const FIVES_FROM = 20 * HOUR;
const HOURS_FROM = 12 * DAY;
const CACHE_LIFE = 3000;
/** What takes this long to work out is not waited for when there is an older one: that is answered, and worked out anew. */
const SLOW = 400;
/** An older one is answered up to this age, or so many times as old as it takes to be worked out. */
const OLDEST = 60_000;
const OLDEST_TIMES = 25;
/** Windows of large clusters that somebody looked at within this time are kept fresh. */
const LOOKED_AT = 15 * MINUTE;
/** The window that the drill screens open with: of a large cluster it is always there. */
const OPENS_WITH = 3 * HOUR;
/** Nothing else waits longer than this for a tree to grow. */
const GROWS_FOR = 25;
const CACHE_SIZE = 24;
/** Of one cluster in one window. Each has lines of up to 240 points: so many take about two GiB while they are worked out. */
const MOST_PODS = 36_000;
const LOOK_EVERY = 10_000;
const ALIKE = 0.01;

/** A series that is wanted: what it is, and under which key. */
interface Wanted {
  readonly vital: Vital;
  readonly key: string;
}
interface ClusterUsage {
  readonly connectionId: string;
  /** What it is the usage of; of a large cluster it may end some seconds before the window that was asked for. */
  readonly window: Window;
  readonly name: string;
  readonly view: ClusterView;
  readonly tree: UsageNode;
  readonly input: UsageInput;
  readonly volumes: VolumesRead;
  /** How long the cluster's API took to answer lately; of the past that is not known. */
  readonly api: readonly DurationMs[];
  readonly derived: Derived;
}
/** A cluster as somebody may see it: other teams' namespaces are one nameless share. */
export interface SeenUsage extends ClusterUsage {
  /** Everything, for sums that name nobody. */
  readonly whole: UsageNode;
  readonly wholeVolumes: VolumesRead;
  /** Null when nothing is hidden. */
  readonly others: UsageNode | null;
  readonly sees: (namespace: string) => boolean;
}
export interface Window {
  readonly from: number;
  readonly to: number;
  readonly live: boolean;
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
];
const VOLUME_VITALS = {
  used: 'volume.usage',
  size: 'volume.capacity',
  entriesUsed: 'volume.inodes.used',
  entries: 'volume.inodes.count',
} as const;

/** One window of one cluster: what was worked out last, and what is being worked out. */
interface Kept {
  readonly connectionId: string;
  readonly length: number;
  readonly live: boolean;
  done: { readonly usage: ClusterUsage; readonly at: number; readonly took: number } | null;
  working: SharedWork<ClusterUsage> | null;
  askedAt: number;
}

/** Computes usage of whole clusters over windows, from stored series. */
@Injectable()
export class UsageService implements OnApplicationBootstrap, OnApplicationShutdown {
  /** How long working out a cluster's usage took the last time, ms. */
  lastTook = 0;
  private readonly cache = new Map<string, Kept>();
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly configuration: ConfigurationService,
    private readonly endpoints: EndpointsService,
    private readonly clock: Clock,
  ) {}

  onApplicationBootstrap(): void {
    this.timer = setInterval(() => this.keepFresh(), LOOK_EVERY);
  }
  onApplicationShutdown(): void {
    if (this.timer) clearInterval(this.timer);
  }
  /** Large clusters one after the other, so that nobody waits for them; small ones are worked out when they are asked for. */
  private keepFresh(): void {
    const now = this.clock.now();
    for (const kept of this.cache.values()) {
      if (!kept.live || !kept.done || kept.done.took < SLOW) continue;
      if ([...this.cache.values()].some(({ working }) => working !== null)) return;
      const looked = now - kept.askedAt < LOOKED_AT;
      if (!looked && kept.length !== OPENS_WITH) continue;
      // what nobody looks at may take a twentieth of the time
      const due = kept.done.at + (looked ? 3 : 20) * kept.done.took;
      if (now >= due && this.connections.access(kept.connectionId)) this.refresh(kept, now).goOn();
    }
  }

  /** A window without an end reaches to now, as far as all that was due by then has been read, and moves with it. */
  window(from: number, to: number | undefined): Window {
    const now = this.clock.now();
    if (to !== undefined && to <= now) return { from, to, live: false };
    const settled = this.endpoints.settledUntil(now);
    return { from: Math.min(from, settled - 1000), to: settled, live: true };
  }
  /** The window of the same length that lies `shift` earlier. */
  against({ from, to }: Window, shift: number | undefined): Window | null {
    if (shift === undefined) return null;
    if (from - shift < 0) throw new Refusal('invalid', 'The window compared with lies before all time.');
    if (to - shift > this.clock.now())
      throw new Refusal('invalid', 'The window compared with reaches into the future. Choose an earlier one.');
    return { from: from - shift, to: to - shift, live: false };
  }

  /** Clusters somebody may see anything of, in the scope. */
  idsIn(reach: Reach, { in: path, clusters }: ScopeQuery): string[] {
    const wanted = clusters === undefined ? null : readTrait(clusters);
    return this.connections.ids().filter((id) => {
      const name = this.connections.nameOf(id);
      if (!reach.touches(name)) return false;
      if (path[0] !== undefined) return name === path[0];
      return wanted === null || this.connections.traitsOf(id)[wanted.trait] === wanted.is;
    });
  }

  async seen(reach: Reach, connectionId: string, window: Window): Promise<SeenUsage> {
    const usage = await this.cluster(connectionId, window);
    const seen = this.narrowed(reach, usage);
    // what is wrong is asked for by every screen: found here, in pieces
    await seen.derived.find(seen, window.to);
    return seen;
  }
  private narrowed(reach: Reach, usage: ClusterUsage): SeenUsage {
    const { tree: whole } = usage;
    if (reach.whole(usage.name)) return wholly(usage);
    const sees = (namespace: string) => reach.reads(usage.name, namespace);
    return {
      ...usage,
      ...narrowTree(usage.input.grid, whole, sees),
      whole,
      wholeVolumes: usage.volumes,
      // what others have is not in it
      derived: new Derived(),
      view: narrowView(usage.view, sees),
      volumes: new Map([...usage.volumes].filter(([, { namespace }]) => sees(namespace))),
      sees,
    };
  }

  /** The same window asked for by several parts of a screen at once is computed once. */
  private cluster(connectionId: string, window: Window): Promise<ClusterUsage> {
    const now = this.clock.now();
    const length = window.to - window.from;
    const key = window.live
      ? (this.liveKey(connectionId, length) ?? `${connectionId} live ${Math.round(length / 1000)}`)
      : `${connectionId} ${window.from} ${window.to}`;
    const kept: Kept = this.cache.get(key) ?? {
      connectionId,
      length,
      live: window.live,
      done: null,
      working: null,
      askedAt: now,
    };
    kept.askedAt = now;
    // the ones asked for last stay
    this.cache.delete(key);
    this.cache.set(key, kept);
    if (this.cache.size > CACHE_SIZE) this.cache.delete(this.cache.keys().next().value!); // not empty here
    if (kept.done) {
      const age = now - kept.done.at;
      if (age < Math.max(CACHE_LIFE, 2 * kept.done.took)) return Promise.resolve(kept.done.usage);
      if (kept.done.took >= SLOW && age < Math.max(OLDEST, OLDEST_TIMES * kept.done.took)) {
        this.refresh(kept, now).goOn();
        return Promise.resolve(kept.done.usage);
      }
    }
    return this.refresh(kept, now, window).wait();
  }
  /** A window up to now is as long as its question was under way longer: nearly the same length is the same window. */
  private liveKey(connectionId: string, length: DurationMs): string | undefined {
    for (const [key, kept] of this.cache)
      if (kept.live && kept.connectionId === connectionId && Math.abs(kept.length - length) <= length * ALIKE)
        return key;
    return undefined;
  }
  private refresh(
    kept: Kept,
    now: number,
    window: Window = this.window(now - kept.length, undefined),
  ): SharedWork<ClusterUsage> {
    if (kept.working === null || kept.working.abandoned) {
      const work = new SharedWork(`usage of ${kept.connectionId}`, async () => {
        const began = performance.now();
        try {
          const usage = await this.compute(kept.connectionId, window);
          // of a large cluster what the screens show first is worked out before anybody asks
          if (performance.now() - began >= SLOW) await usage.derived.prepare(wholly(usage));
          kept.done = { usage, at: now, took: performance.now() - began };
          return usage;
        } finally {
          if (kept.working === work) kept.working = null;
        }
      });
      kept.working = work;
    }
    return kept.working;
  }

  private async compute(connectionId: string, window: Window): Promise<ClusterUsage> {
    const began = performance.now();
    const name = this.connections.nameOf(connectionId);
    const interval = this.connections.intervalOf(connectionId);
    const view = await clusterView(this.inventory, connectionId, window.from, window.to, window.live);
    this.mustBeBounded(name, view);
    const resolution = this.resolutionFor(window);
    // from roll-ups there is one sample a bucket
    const spacing = resolution === 'samples' ? interval : Math.max(interval, TIERS[resolution].bucket);
    const grid = gridFor(window.from, window.to, spacing);
    // rates look back beyond the window's start
    const lookBack = window.from - Math.max(grid.step, 6 * spacing);
    const [read, volumes] = await Promise.all([
      this.readSeries(connectionId, await this.seriesOf(connectionId, view), lookBack, window.to, resolution),
      this.readSeries(
        connectionId,
        this.volumeSeriesOf(connectionId, view),
        Math.min(lookBack, volumesFrom(grid)),
        window.to,
        resolution,
      ),
    ]);
    const input: UsageInput = {
      cluster: { name, uid: connectionId },
      grid,
      interval: spacing,
      pods: view.pods,
      nodes: view.nodes,
      containerSamples: (vital, podUid, container) => read.get(`${vital} ${podUid}/${container}`) ?? EMPTY,
      nodeSamples: (vital, node) => read.get(`${vital} ${node}`) ?? EMPTY,
      quotaOf: (namespace, resource) => quotaOf(view.inventory, namespace, resource),
    };
    const tree = await yieldedInPieces(growTree(input), new Pieces(GROWS_FOR));
    this.lastTook = performance.now() - began;
    return {
      connectionId,
      window,
      name,
      view,
      tree,
      input,
      api: window.live ? this.connections.answeredIn(connectionId) : [],
      derived: new Derived(),
      volumes: readVolumes(view.pods, grid, spacing, (podUid, claim) => {
        const of = (what: keyof typeof VOLUME_VITALS) =>
          volumes.get(`${VOLUME_VITALS[what]} ${podUid}/${claim}`) ?? EMPTY;
        return { used: of('used'), size: of('size'), entriesUsed: of('entriesUsed'), entries: of('entries') };
      }),
    };
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
        const container = this.vitals.label(connectionId, vital, id, 'container');
        keys.set(id, { vital, key: `${vital} ${podUid}/${container}` });
      });
    }
    for (const vital of NODE_VITALS) {
      for (const id of this.vitals.select(connectionId, vital)) {
        const node = this.vitals.label(connectionId, vital, id, 'node');
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
        const claim = this.vitals.label(connectionId, vital, id, 'claim');
        if (podUids.has(podUid)) keys.set(id, { vital, key: `${vital} ${podUid}/${claim}` });
      }
    }
    return keys;
  }
  private async readSeries(
    connectionId: string,
    keys: Map<SeriesId, Wanted>,
    from: number,
    to: number,
    resolution: Resolution,
  ): Promise<Map<string, Samples>> {
    const read = await this.samples.read([...keys.keys()], from, to, resolution);
    const byKey = new Map<string, Samples>();
    await inPieces(read, ([id, samples]) => {
      const { vital, key } = keys.get(id)!; // read answers what was asked for
      byKey.set(key, this.vitals.inUnit(connectionId, vital, samples));
    });
    return byKey;
  }
}

const wholly = (usage: ClusterUsage): SeenUsage => ({
  ...usage,
  whole: usage.tree,
  wholeVolumes: usage.volumes,
  others: null,
  sees: () => true,
});

/** Of several quotas the tightest holds; a quota on limits says more of use than one on requests. */
function quotaOf(inventory: ClusterInventory, namespace: string, resource: Resource): number | null {
  const rows = inventory
    .list('quota')
    .filter((quota) => quota.namespace === namespace)
    .flatMap((quota) => quota.rows);
  for (const name of [`limits.${resource}`, `requests.${resource}`]) {
    const hard = rows.filter((row) => row.resource === name).map((row) => row.hard);
    if (hard.length > 0) return Math.min(...hard);
  }
  return null;
}
