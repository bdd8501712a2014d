import { Injectable } from '@nestjs/common';
import type { Reach } from '@zetopsis/core/access';
import type { Samples } from '@zetopsis/core/samples';
import type { SeriesId } from '@zetopsis/core/units';
import {
  type ContainerVital,
  gridFor,
  type NodeVital,
  narrowTree,
  type UsageInput,
  type UsageNode,
  usageTree,
  VITAL_LABELS,
  VITALS,
} from '@zetopsis/core/usage';
import { ConnectionsService } from '../connections/connections.service.ts';
import { InventoryService } from '../inventory/inventory.service.ts';
import { Clock } from '../platform/settings.ts';
import { SamplesService } from '../store/samples.service.ts';
import { type ClusterView, clusterView, narrowView } from './clusterView.ts';

const EMPTY: Samples = { times: [], values: [] };
const CACHE_LIFE = 3000;
const CACHE_SIZE = 24;

interface ClusterUsage {
  readonly connectionId: string;
  readonly name: string;
  readonly view: ClusterView;
  readonly tree: UsageNode;
  readonly input: UsageInput;
}
/** A cluster as somebody may see it: other teams' namespaces are one nameless share. */
export interface SeenUsage extends ClusterUsage {
  /** Null when nothing is hidden. */
  readonly others: UsageNode | null;
  readonly sees: (namespace: string) => boolean;
}
export interface Window {
  readonly from: number;
  readonly to: number;
  readonly live: boolean;
}

/** Computes usage of whole clusters over windows, from stored series. */
@Injectable()
export class UsageService {
  private readonly cache = new Map<string, { at: number; usage: Promise<ClusterUsage> }>();

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly clock: Clock,
  ) {}

  /** A window without an end reaches to now, and moves with it. */
  window(from: number, to: number | undefined): Window {
    const now = this.clock.now();
    return to === undefined || to > now
      ? { from: Math.min(from, now - 1000), to: now, live: true }
      : { from, to, live: false };
  }

  /** Clusters somebody may see anything of, in the scope. */
  idsIn(reach: Reach, path: readonly string[]): string[] {
    return this.connections.ids().filter((id) => {
      const name = this.connections.nameOf(id);
      return reach.touches(name) && (path[0] === undefined || name === path[0]);
    });
  }

  async seen(reach: Reach, connectionId: string, window: Window): Promise<SeenUsage> {
    const usage = await this.cluster(connectionId, window);
    if (reach.whole(usage.name)) return { ...usage, others: null, sees: () => true };
    const sees = (namespace: string) => reach.reads(usage.name, namespace);
    return {
      ...usage,
      ...narrowTree(usage.input.grid, usage.tree, sees),
      view: narrowView(usage.view, sees),
      sees,
    };
  }

  /** The same window asked for by several parts of a screen at once is computed once. */
  private cluster(connectionId: string, window: Window): Promise<ClusterUsage> {
    const now = this.clock.now();
    const length = window.to - window.from;
    const key = window.live
      ? `${connectionId} live ${Math.round(length / 1000)}`
      : `${connectionId} ${window.from} ${window.to}`;
    const known = this.cache.get(key);
    if (known && now - known.at < CACHE_LIFE) return known.usage;
    const usage = this.compute(connectionId, window);
    this.cache.set(key, { at: now, usage });
    usage.catch(() => this.cache.delete(key));
    if (this.cache.size > CACHE_SIZE) this.cache.delete(this.cache.keys().next().value!); // not empty here
    return usage;
  }

  private async compute(connectionId: string, window: Window): Promise<ClusterUsage> {
    const name = this.connections.nameOf(connectionId);
    const interval = this.connections.intervalOf(connectionId);
    const view = await clusterView(this.inventory, connectionId, window.from, window.to, window.live);
    const grid = gridFor(window.from, window.to, interval);
    // rates look back beyond the window's start
    const read = await this.seriesOf(view, window.from - Math.max(grid.step, 6 * interval), window.to);
    const input: UsageInput = {
      cluster: { name, uid: connectionId },
      grid,
      interval,
      pods: view.pods,
      nodes: view.nodes,
      containerSamples: (vital, podUid, container) => read.get(`${vital} ${podUid}/${container}`) ?? EMPTY,
      nodeSamples: (vital, node) => read.get(`${vital} ${node}`) ?? EMPTY,
    };
    return { connectionId, name, view, tree: usageTree(input), input };
  }

  private async seriesOf(view: ClusterView, from: number, to: number): Promise<Map<string, Samples>> {
    const keys = new Map<SeriesId, string>();
    const podUids = new Set(view.pods.map(({ pod }) => pod.uid));
    const nodes = new Set(view.nodes.map(({ node }) => node.name));
    const containerVitals: ContainerVital[] = [
      'container.cpu.time',
      'container.cpu.throttled',
      'container.memory.working_set',
    ];
    for (const vital of containerVitals) {
      for (const id of this.samples.select(VITALS[vital])) {
        const podUid = this.samples.label(id, VITAL_LABELS.podUid);
        if (podUids.has(podUid)) keys.set(id, `${vital} ${podUid}/${this.samples.label(id, VITAL_LABELS.container)}`);
      }
    }
    const nodeVitals: NodeVital[] = ['node.cpu.time', 'node.memory.working_set'];
    for (const vital of nodeVitals) {
      for (const id of this.samples.select(VITALS[vital])) {
        const node = this.samples.label(id, VITAL_LABELS.node);
        if (nodes.has(node)) keys.set(id, `${vital} ${node}`);
      }
    }
    const read = await this.samples.read([...keys.keys()], from, to);
    return new Map([...read].map(([id, samples]) => [keys.get(id)!, samples])); // read answers what was asked for
  }
}
