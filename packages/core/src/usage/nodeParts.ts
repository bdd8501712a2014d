import type { Grid } from './grid.ts';
import { shareOf } from './narrowTree.ts';
import type { UsageNode } from './usageNode.ts';
import type { PodSpan } from './usageTree.ts';

/** Pods of all namespaces stand side by side on a node: their key names the namespace, too. */
export const podKeyOnNode = (namespace: string, pod: string): string => `${namespace}:${pod}`;

/**
 * The pods of a node, out of a cluster's whole tree. Pods that somebody may not see become one nameless share, which
 * stands last.
 */
export function podsOnNode(
  grid: Grid,
  tree: UsageNode,
  pods: readonly PodSpan[],
  node: string,
  sees: (namespace: string) => boolean,
): UsageNode[] {
  const placed = new Set(pods.filter(({ pod }) => pod.node === node).map(({ pod }) => pod.uid));
  const own: UsageNode[] = [];
  const rest: UsageNode[] = [];
  for (const namespace of tree.children) {
    const seen = sees(namespace.key);
    for (const workload of namespace.children) {
      for (const pod of workload.children) {
        if (pod.uid === null || !placed.has(pod.uid)) continue;
        if (!seen) rest.push(pod);
        // figures stay lazy: the renamed one asks the one of the tree
        else
          own.push(
            Object.create(pod, {
              key: { value: podKeyOnNode(namespace.key, pod.name), enumerable: true },
            }) as UsageNode,
          );
      }
    }
  }
  return rest.length === 0 ? own : [...own, shareOf(grid, 'pod', rest)];
}
