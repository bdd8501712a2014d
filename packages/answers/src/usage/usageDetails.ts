import type { Answering, CriticalityWords, Said, TroubledLink } from '@zetopsis/core/findings';
import { restartsOf } from '@zetopsis/core/inventory';
import { toTheEnd } from '@zetopsis/core/steps';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import {
  type Grid,
  gridEnd,
  levelOnGrid,
  nodeUsage,
  placedOn,
  podsByNode,
  type UsageInput,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { ClusterView, VolumesRead } from '../cluster/index.ts';
import { containerKey } from '../cluster/index.ts';
import { type ClusterFound, clusterFindings, criticalityIn, linksAtTheirEnds } from '../findings/index.ts';

/** A cluster's usage as somebody may see it, as far as something follows from it. */
interface From {
  readonly name: string;
  readonly view: ClusterView;
  readonly volumes: VolumesRead;
  readonly tree: UsageNode;
  readonly whole: UsageNode;
  readonly others: UsageNode | null;
  readonly input: UsageInput;
  readonly api: readonly DurationMs[];
  readonly skews: ReadonlyMap<string, DurationMs>;
  readonly criticality: CriticalityWords;
  /** How workloads answer, by namespace and key, where that is far from the usual; of the past that is not known. */
  readonly answering?: ReadonlyMap<string, Answering> | undefined;
  readonly links?: readonly TroubledLink[] | undefined;
  readonly lastLines?: Said['lastLines'] | undefined;
  readonly window: { readonly from: EpochMs; readonly to: EpochMs };
  readonly sees: (namespace: string) => boolean;
}
/** How often containers were restarted in a window, and how often for want of memory. */
export interface Restarted {
  readonly restarts: number;
  readonly memoryEnds: number;
}

const NO_RESTARTS: Restarted = { restarts: 0, memoryEnds: 0 };

/** Findings are worked out anew after this; those of a large cluster after five times as long as it takes. */
const HOLDS = 1000; // ms

/** Entries of a node's file system, at the window's end. */
function nodeEntries({ grid, interval, nodeSamples }: UsageInput, node: string) {
  const end: Grid = { start: gridEnd(grid), step: grid.step, count: 1 };
  const at = (vital: 'node.inodes.used' | 'node.inodes.count') => {
    const value = levelOnGrid([nodeSamples(vital, node)], end, interval)[0];
    return value === undefined || Number.isNaN(value) ? null : value;
  };
  return { used: at('node.inodes.used'), count: at('node.inodes.count') };
}

const findingsNow = (usage: From, at: EpochMs) =>
  clusterFindings(
    {
      inventory: usage.view.inventory,
      volumes: usage.volumes,
      tree: usage.tree,
      grid: usage.input.grid,
      api: usage.api,
      measuredOf: (node) => ({ entries: nodeEntries(usage.input, node), skew: usage.skews.get(node) ?? null }),
      whole: usage.others === null,
      lastLines: usage.lastLines,
      answering: usage.answering,
      links: usage.links && linksAtTheirEnds(usage.links, usage.name, usage.sees),
      criticalityOf: criticalityIn(usage.view.inventory, usage.criticality),
    },
    at,
  );

/** What follows from a cluster's usage, as somebody may see it; worked out when it is first asked for, and kept with it. */
export class UsageDetails {
  private found: { readonly at: EpochMs; readonly took: number; readonly value: ClusterFound } | null = null;
  private nodes: UsageNode[] | null = null;
  private byName: Map<string, UsageNode> | null = null;

  /** As they were found lately; found at once where nobody did before. */
  findings(usage: From, at: EpochMs): ClusterFound {
    if (this.found && this.holds(at)) return this.found.value;
    return this.keep(at, 0, toTheEnd(findingsNow(usage, at)));
  }
  holds(at: EpochMs): boolean {
    const { found } = this;
    return found !== null && at >= found.at && at - found.at < Math.max(HOLDS, 5 * found.took);
  }
  /** Finds what somebody is about to ask for, step by step; `took` tells in the end how long that was, ms. */
  *find(usage: From, at: EpochMs, took: () => DurationMs): Generator<void, void> {
    const value = yield* findingsNow(usage, at);
    this.keep(at, took(), value);
  }
  private keep(at: EpochMs, took: DurationMs, value: ClusterFound): ClusterFound {
    this.found = { at, took, value };
    return value;
  }
  private restarted: Map<string, Restarted> | null = null;
  /** In the window, by the pod's uid, and by that and the container's name. */
  private readonly restarts = ({ view, window }: From): ReadonlyMap<string, Restarted> => {
    if (this.restarted) return this.restarted;
    const all = new Map<string, { restarts: number; memoryEnds: number }>();
    for (const { pod, at, container, outOfMemory } of restartsOf(view.podStates.map((state) => state.pod))) {
      if (at < window.from || at > window.to) continue;
      for (const key of [pod.uid, containerKey(pod.uid, container)]) {
        const own = all.get(key) ?? { restarts: 0, memoryEnds: 0 };
        own.restarts++;
        if (outOfMemory) own.memoryEnds++;
        all.set(key, own);
      }
    }
    this.restarted = all;
    return all;
  };
  /** Of all pods below these; of a container that is in a pod. */
  restartsIn(usage: From, nodes: readonly UsageNode[], pod?: UsageNode): Restarted {
    let restarts = 0;
    let memoryEnds = 0;
    for (const node of nodes) {
      const own = this.restartsOf(usage, node, pod);
      restarts += own.restarts;
      memoryEnds += own.memoryEnds;
    }
    return { restarts, memoryEnds };
  }
  /** Summed once for each that has parts: a cluster's are asked for by every screen. */
  private readonly summed = new Map<UsageNode, Restarted>();
  private restartsOf(usage: From, node: UsageNode, pod?: UsageNode): Restarted {
    if (node.level === 'pod' || node.level === 'container') {
      const key = node.level === 'pod' ? (node.uid ?? '') : containerKey(pod?.uid ?? '', node.key);
      return this.restarts(usage).get(key) ?? NO_RESTARTS;
    }
    const known = this.summed.get(node);
    if (known) return known;
    const sum = this.restartsIn(usage, node.children);
    this.summed.set(node, sum);
    return sum;
  }
  nodeUsages(usage: From): UsageNode[] {
    this.nodes ??= [...this.growNodes(usage)];
    return this.nodes;
  }
  private *growNodes({ input, whole, view, sees }: From): Generator<UsageNode> {
    const placed = placedOn(input.pods);
    const shown = podsByNode({ grid: input.grid, tree: whole, pods: input.pods, sees });
    for (const span of view.nodes) {
      const { name } = span.node;
      yield nodeUsage({ input, span, placed: placed.get(name) ?? [], pods: shown.get(name) ?? [] });
    }
  }
  /** What columns and sheets of the cluster show at first, step by step. */
  *prepare(usage: From): Generator<void, void> {
    // figures are worked out when they are first looked at, and kept
    const look = (node: UsageNode) => void node.usage;
    const nodes: UsageNode[] = [];
    for (const node of this.growNodes(usage)) {
      look(node);
      nodes.push(node);
      yield;
    }
    this.nodes ??= nodes;
    look(usage.tree);
    for (const namespace of usage.tree.children) {
      look(namespace);
      yield;
      for (const workload of namespace.children) {
        look(workload);
        this.restartsIn(usage, [workload]);
        yield;
      }
    }
    for (const node of nodes) {
      this.restartsIn(usage, [node]);
      yield;
    }
  }
  node(usage: From, name: string): UsageNode | undefined {
    this.byName ??= new Map(this.nodeUsages(usage).map((node) => [node.name, node]));
    return this.byName.get(name);
  }
}
