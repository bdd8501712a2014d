import { formatCount } from '../format/index.ts';
import type { NodeObject, PodObject } from '../inventory/index.ts';
import { conditionOf, hasEnded, isReady } from '../inventory/index.ts';
import type { Finding } from './finding.ts';

/** A node that takes its pods down with it. */
export interface NodeCause {
  readonly node: NodeObject;
  /** Its finding, with what it does to others. */
  readonly finding: Finding;
  /** Keys of workloads of which every pod that is not ready stands on such a node. */
  readonly explains: ReadonlySet<string>;
}

/** So many pods of a lost node are named. */
const NAMED = 8;

interface Failing {
  readonly key: string;
  readonly pods: readonly PodObject[];
}

export const isLost = ({ conditions }: NodeObject): boolean => {
  const ready = conditionOf(conditions, 'Ready');
  return ready !== undefined && ready.status !== 'true';
};

/**
 * One cause, one entry (design/product.md): what fails only because its node is lost stands in the node's line. `failing`
 * are workloads with findings; `findingOf` gives a node's own.
 */
export function causedByNodes(
  nodes: readonly NodeObject[],
  failing: readonly Failing[],
  findingOf: (node: NodeObject) => Finding | undefined,
): NodeCause[] {
  const lost = new Map(nodes.filter(isLost).map((node) => [node.name, node]));
  if (lost.size === 0) return [];
  const told = new Map<string, { pods: string[]; workloads: Set<string>; explains: Set<string> }>();
  for (const { key, pods } of failing) {
    const away = pods.filter((pod) => !hasEnded(pod) && !isReady(pod));
    const onLost = away.filter(({ node }) => node !== null && lost.has(node));
    if (onLost.length === 0) continue;
    for (const { node, name } of onLost) {
      const own = told.get(node!) ?? { pods: [], workloads: new Set(), explains: new Set() };
      own.pods.push(name);
      own.workloads.add(key);
      // a pod elsewhere that is not ready either is a matter of its own
      if (onLost.length === away.length) own.explains.add(key);
      told.set(node!, own);
    }
  }
  return [...told].flatMap(([name, { pods, workloads, explains }]): NodeCause[] => {
    const node = lost.get(name)!; // told of lost ones only
    const own = findingOf(node);
    if (!own) return [];
    const words = `${formatCount(pods.length, 'pod')} of ${formatCount(workloads.size, 'workload')} ${pods.length === 1 ? 'is' : 'are'} not ready because of it.`;
    const named = pods.length > NAMED ? [...pods.slice(0, NAMED), `${pods.length - NAMED} more`] : pods;
    const evidence = `${own.evidence}; not ready: ${named.join(', ')}`;
    return [{ node, explains, finding: { ...own, reason: `${own.reason} ${words}`, evidence } }];
  });
}
