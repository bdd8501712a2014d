import type { OtherResource } from '@zetopsis/contract';
import {
  boundBy,
  figuresOf,
  figuresOfCount,
  linesAgainst,
  OTHERS,
  type ResourceUsage,
  SummedTree,
  sumOfLines,
  type UsageLines,
  type UsageNode,
} from '@zetopsis/core/usage';
import { containerKey } from '../cluster/index.ts';
import type { SeenUsage } from '../usage/index.ts';

/** A resource beside CPU and memory, of any object of a cluster in a window. */
export interface OtherFigures {
  /** Null where it has none of it. `inside`: of a container its pod, of the others on a node that node. */
  of(node: UsageNode, inside?: UsageNode): ResourceUsage | null;
}

/** What was read of one resource, all of a cluster. */
export interface OtherRead {
  /** By pod, whoever may see it. */
  readonly pods: SummedTree;
  /** By the pod's uid and the container's name. */
  readonly containers: ReadonlyMap<string, UsageLines>;
  /** Of the nodes themselves, where they tell it of their own. */
  readonly nodes: ReadonlyMap<string, UsageLines>;
}

/** Restarts, out-of-memory ends and throttling: counted in the window, or at its end. */
export function countedFigures(usage: SeenUsage, of: 'restarts' | 'memoryEnds' | 'throttled'): OtherFigures {
  const throttled = (node: UsageNode): number | null =>
    node.throttled ??
    node.children.reduce<number | null>(
      (most, { throttled: own }) => (own === null ? most : Math.max(most ?? 0, own)),
      null,
    );
  return {
    of(node, inside) {
      if (of === 'throttled') return figuresOfCount(throttled(node), 1, 'time');
      if (node.key === OTHERS) return null;
      return figuresOfCount(usage.details.restartsIn(usage, [node], inside)[of], null, 'none');
    },
  };
}

/** Network, file systems, volumes and pods, as read. */
export class ReadFigures implements OtherFigures {
  private readonly usage: SeenUsage;
  private readonly resource: OtherResource;
  private readonly read: OtherRead;
  private placed: Map<string, string[]> | null = null;
  private spaces: Map<string, string> | null = null;

  constructor(usage: SeenUsage, resource: OtherResource, read: OtherRead) {
    this.usage = usage;
    this.resource = resource;
    this.read = read;
  }

  of(node: UsageNode, inside?: UsageNode): ResourceUsage | null {
    const lines = this.linesOf(node, inside);
    if (lines === null) return null;
    if (this.resource !== 'pods') return figuresOf(lines, 'size');
    const room = this.roomOf(node);
    return figuresOf(boundBy(lines, room), node.level === 'namespace' ? 'quota' : 'allocatable');
  }

  private linesOf(node: UsageNode, inside: UsageNode | undefined): UsageLines | null {
    const { read, usage } = this;
    if (node.level === 'container') return read.containers.get(containerKey(inside?.uid ?? '', node.key)) ?? null;
    if (node.key === OTHERS) {
      const hidden = inside
        ? this.placedOn(inside.name).filter((uid) => !this.seen(uid))
        : usage.whole.children.filter(({ key }) => !usage.sees(key)).flatMap(podsBelow);
      return read.pods.ofPods(hidden);
    }
    if (node.level === 'cluster') {
      const own = [...read.nodes.values()];
      return own.length > 0 ? sumOfLines(usage.input.grid, own) : read.pods.of(usage.whole);
    }
    if (node.level === 'node') return read.nodes.get(node.name) ?? read.pods.ofPods(this.placedOn(node.name));
    return read.pods.of(node);
  }
  /** How many pods may be there. */
  private roomOf({ level, key, name }: UsageNode): number | null {
    const { inventory } = this.usage.view;
    if (level === 'namespace' && key !== OTHERS) {
      const bounds = inventory
        .list('quota')
        .filter(({ namespace }) => namespace === key)
        .flatMap(({ rows }) => rows.filter(({ resource }) => resource === 'pods').map(({ hard }) => hard));
      return bounds.length === 0 ? null : Math.min(...bounds);
    }
    const nodes = inventory
      .list('node')
      .filter((node) => (level === 'node' ? node.name === name : level === 'cluster' && node.acceptsPods));
    return nodes.length === 0 ? null : nodes.reduce((sum, { allocatable }) => sum + (allocatable.pods ?? 0), 0);
  }
  private placedOn(node: string): string[] {
    if (this.placed === null) {
      this.placed = new Map();
      for (const { pod } of this.usage.input.pods) {
        if (pod.node === null) continue;
        const list = this.placed.get(pod.node);
        if (list) list.push(pod.uid);
        else this.placed.set(pod.node, [pod.uid]);
      }
    }
    return this.placed.get(node) ?? [];
  }
  private seen(uid: string): boolean {
    this.spaces ??= new Map(this.usage.input.pods.map(({ pod, workload }) => [pod.uid, workload.namespace]));
    return this.usage.sees(this.spaces.get(uid) ?? '');
  }
}

const podsBelow = (node: UsageNode): string[] =>
  node.level === 'pod' ? (node.uid === null ? [] : [node.uid]) : node.children.flatMap(podsBelow);

/** Volumes were read with the cluster's usage: of several pods that mount one, the last tells of it. */
export function volumesRead({ wholeVolumes, input: { grid } }: SeenUsage): OtherRead {
  const byPod = new Map<string, UsageLines[]>();
  for (const { pod, volume } of wholeVolumes.values()) {
    const list = byPod.get(pod.pod.uid) ?? [];
    list.push(linesAgainst(volume.use, new Uint8Array(grid.count), volume.size));
    byPod.set(pod.pod.uid, list);
  }
  const summed = new Map([...byPod].map(([uid, parts]) => [uid, sumOfLines(grid, parts)]));
  return { pods: new SummedTree(grid, (uid) => summed.get(uid)), containers: new Map(), nodes: new Map() };
}
