import type { Grid } from './grid.ts';
import { shareOf } from './narrowTree.ts';
import type { UsageNode } from './usageNode.ts';
import type { PodSpan } from './usageTree.ts';

/** Pods of all namespaces stand side by side on a node: their key names the namespace, too. */
export const podKeyOnNode = (namespace: string, pod: string): string => `${namespace}:${pod}`;

/**
 * The pods of every node, out of a cluster's whole tree. Pods that somebody may not see become one nameless share of
 * their node, which stands last.
 */
export function podsByNode({
  grid,
  tree,
  pods,
  sees,
}: {
  readonly grid: Grid;
  readonly tree: UsageNode;
  readonly pods: readonly PodSpan[];
  readonly sees: (namespace: string) => boolean;
}): ReadonlyMap<string, readonly UsageNode[]> {
  const nodeOf = new Map(pods.map(({ pod }) => [pod.uid, pod.node]));
  const own = new Map<string, UsageNode[]>();
  const rest = new Map<string, UsageNode[]>();
  const add = (to: Map<string, UsageNode[]>, node: string, pod: UsageNode) => {
    const list = to.get(node);
    if (list) list.push(pod);
    else to.set(node, [pod]);
  };
  for (const namespace of tree.children) {
    const seen = sees(namespace.key);
    for (const workload of namespace.children) {
      for (const pod of workload.children) {
        const node = nodeOf.get(pod.uid ?? '') ?? null;
        if (node === null) continue;
        if (!seen) add(rest, node, pod);
        // figures stay lazy: the renamed one asks the one of the tree
        else {
          const key = { value: podKeyOnNode(namespace.key, pod.name), enumerable: true };
          add(own, node, Object.create(pod, { key }) as UsageNode);
        }
      }
    }
  }
  for (const [node, hidden] of rest) add(own, node, shareOf(grid, 'pod', hidden));
  return own;
}
