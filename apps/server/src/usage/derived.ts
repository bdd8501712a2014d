import { restartsOf } from '@zetopsis/core/inventory';
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
import { inPieces, Pieces, yieldedInPieces } from '../platform/inPieces.ts';
import { SharedWork } from '../platform/question.ts';
import { type ClusterFound, clusterFindings } from './clusterFindings.ts';
import type { ClusterView } from './clusterView.ts';
import { containerKey } from './objectPaths.ts';
import type { VolumesRead } from './volumesRead.ts';

/** A cluster's usage as somebody may see it, as far as something follows from it. */
interface From {
  readonly view: ClusterView;
  readonly volumes: VolumesRead;
  readonly tree: UsageNode;
  readonly whole: UsageNode;
  readonly others: UsageNode | null;
  readonly input: UsageInput;
  readonly api: readonly DurationMs[];
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
      entriesOf: (node) => nodeEntries(usage.input, node),
      whole: usage.others === null,
    },
    at,
  );

/** What follows from a cluster's usage, as somebody may see it; worked out when it is first asked for, and kept with it. */
export class Derived {
  private found: { readonly at: EpochMs; readonly took: number; readonly value: ClusterFound } | null = null;
  private nodes: UsageNode[] | null = null;
  private byName: Map<string, UsageNode> | null = null;

  /** As they were found lately; found at once where nobody did before. */
  findings(usage: From, at: EpochMs): ClusterFound {
    const { found } = this;
    if (found && this.holds(at)) return found.value;
    const began = performance.now();
    const finding = findingsNow(usage, at);
    for (;;) {
      const step = finding.next();
      if (step.done) return this.keep(at, performance.now() - began, step.value);
    }
  }
  /** Finds in pieces what somebody is about to ask for. */
  async find(usage: From, at: EpochMs): Promise<void> {
    if (this.holds(at)) return;
    if (this.finding === null || this.finding.abandoned) {
      const work = new SharedWork('what is wrong in a cluster', () =>
        this.findInPieces(usage, at).finally(() => {
          if (this.finding === work) this.finding = null;
        }),
      );
      this.finding = work;
    }
    await this.finding.wait();
  }
  private finding: SharedWork<void> | null = null;
  private async findInPieces(usage: From, at: EpochMs): Promise<void> {
    const began = performance.now();
    const value = await yieldedInPieces(findingsNow(usage, at));
    this.keep(at, performance.now() - began, value);
  }
  private holds(at: EpochMs): boolean {
    const { found } = this;
    return found !== null && at >= found.at && at - found.at < Math.max(HOLDS, 5 * found.took);
  }
  private keep(at: EpochMs, took: number, value: ClusterFound): ClusterFound {
    this.found = { at, took, value };
    return value;
  }
  private restarted: Map<string, Restarted> | null = null;
  /** In the window, by the pod's uid, and by that and the container's name. */
  private readonly restarts = ({ view, window }: From): ReadonlyMap<string, Restarted> => {
    if (this.restarted) return this.restarted;
    const all = new Map<string, { restarts: number; memoryEnds: number }>();
    for (const { pod, at, container, outOfMemory } of restartsOf(view.podStates)) {
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
    const shown = podsByNode(input.grid, whole, input.pods, sees);
    for (const span of view.nodes) {
      const { name } = span.node;
      yield nodeUsage(input, span, placed.get(name) ?? [], shown.get(name) ?? []);
    }
  }
  /** What columns and sheets of the cluster show at first, worked out in pieces. */
  async prepare(usage: From): Promise<void> {
    const nodes: UsageNode[] = [];
    // figures are worked out when they are first looked at, and kept
    const look = (node: UsageNode) => void node.usage;
    await inPieces(this.growNodes(usage), (node) => {
      look(node);
      nodes.push(node);
    });
    this.nodes ??= nodes;
    look(usage.tree);
    await inPieces(usage.tree.children, look);
    const pieces = new Pieces();
    for (const namespace of usage.tree.children)
      await inPieces(
        namespace.children,
        (workload) => {
          look(workload);
          this.restartsIn(usage, [workload]);
        },
        pieces,
      );
    await inPieces(nodes, (node) => void this.restartsIn(usage, [node]));
    await this.find(usage, usage.window.to);
  }
  node(usage: From, name: string): UsageNode | undefined {
    this.byName ??= new Map(this.nodeUsages(usage).map((node) => [node.name, node]));
    return this.byName.get(name);
  }
}
