import { RESOURCES } from '../units/index.ts';
import type { Grid } from './grid.ts';
import { finish, gather, type UsageNode } from './usageNode.ts';

/** The nameless share stands among the rows under this key; no namespace can be called so. */
export const OTHERS = '~others';

/**
 * A cluster's tree as somebody sees it who may see only some namespaces: the cluster's own totals stay, the namespaces
 * of others become one nameless share. Null `others` when nothing is hidden.
 */
export function narrowTree(
  grid: Grid,
  tree: UsageNode,
  sees: (namespace: string) => boolean,
): { tree: UsageNode; others: UsageNode | null } {
  const own = tree.children.filter(({ key }) => sees(key));
  const rest = tree.children.filter(({ key }) => !sees(key));
  // figures stay lazy: the narrowed node asks the whole one
  const narrowed = Object.create(tree, { children: { value: own, enumerable: true } }) as UsageNode;
  return { tree: narrowed, others: rest.length === 0 ? null : shareOf(grid, 'namespace', rest) };
}

/** Several nodes as one that is named: everything in sum; they stay its parts. */
export function groupOf({
  grid,
  level,
  identity,
  nodes,
}: {
  readonly grid: Grid;
  readonly level: UsageNode['level'];
  readonly identity: { readonly name: string; readonly key: string; readonly uid?: string };
  readonly nodes: readonly UsageNode[];
}): UsageNode {
  return finish({
    level,
    identity: { uid: null, ...identity },
    draft: gather(grid, nodes, 'limit'),
    children: nodes,
    present: nodes.some(({ present }) => present),
    pods: nodes.reduce((sum, { pods }) => sum + pods, 0),
  });
}

/** Several nodes as one nameless share: their use and requests in sum, no limit, no parts. */
export function shareOf(grid: Grid, level: UsageNode['level'], nodes: readonly UsageNode[]): UsageNode {
  const draft = gather(grid, nodes, 'none');
  // lines may be shared with parts: they are replaced, never written to
  for (const resource of RESOURCES)
    draft.lines[resource] = {
      ...draft.lines[resource],
      limit: new Float64Array(grid.count).fill(Number.NaN),
    };
  return finish({
    level,
    identity: { name: 'others', key: OTHERS, uid: null },
    draft: { ...draft, unlimited: { cpu: null, memory: null }, throttled: null },
    children: [],
    present: nodes.some(({ present }) => present),
    pods: nodes.reduce((sum, { pods }) => sum + pods, 0),
  });
}
