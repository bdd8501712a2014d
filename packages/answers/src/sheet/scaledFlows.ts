import type { FlowLines } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { formatCount, formatRate } from '@zetopsis/core/format';
import { type AutoscalerObject, type PodObject, workloadKey } from '@zetopsis/core/inventory';
import { presenceOn, type UsageNode } from '@zetopsis/core/usage';
import { isUnread, listed } from '../cluster/index.ts';
import type { SeenUsage } from '../usage/index.ts';

/** Kinds as an autoscaler names what it scales. */
export const TARGETS = {
  deployment: 'Deployment',
  'stateful set': 'StatefulSet',
  'replica set': 'ReplicaSet',
} as const;

/** The key of the workload that an autoscaler scales; null for kinds that are not known. */
export function scaledKey({ target }: AutoscalerObject): string | null {
  for (const kind of ['deployment', 'stateful set', 'replica set'] as const)
    if (TARGETS[kind] === target.kind) return workloadKey({ kind, name: target.name });
  return null;
}

/** Pods of the window that an autoscaler's workload has or had. */
export const scaledPods = ({ view }: SeenUsage, scaler: AutoscalerObject): PodObject[] =>
  view.pods
    .filter(({ workload }) => workload.namespace === scaler.namespace && workloadKey(workload) === scaledKey(scaler))
    .map(({ pod }) => pod);

/** How many pods of a workload there were, over a window. */
function podsOf({ view, input: { grid } }: SeenUsage, namespace: string | null, key: string): Float64Array {
  const pods = new Float64Array(grid.count);
  for (const { workload, from, to } of view.pods) {
    if (workload.namespace !== namespace || workloadKey(workload) !== key) continue;
    const [first, end] = presenceOn(grid, from, to);
    for (let i = first; i < end; i++) pods[i]! += 1;
  }
  return pods;
}

/**
 * Requests and pods of what an autoscaler scales, each as a share of its own highest in the window, so that one axis shows
 * whether pods follow requests. Null where nothing tells of requests, or of pods.
 */
export function requestsAndPods(
  usage: SeenUsage,
  scaler: AutoscalerObject,
  requests: readonly FlowLines[],
): FlowLines | null {
  const key = scaledKey(scaler);
  const [answered] = requests[0]?.unit === 'per s' ? requests[0].lines : [];
  if (key === null || answered === undefined) return null;
  const pods = podsOf(usage, scaler.namespace, key);
  const mostPods = Math.max(...pods);
  const mostRequests = answered.values.reduce<number>((most, value) => Math.max(most, value ?? 0), 0);
  if (mostPods === 0 || mostRequests === 0) return null;
  const share = (values: ArrayLike<number | null>, most: number) =>
    Array.from(values, (value) => (value === null ? null : value / most));
  return {
    title: 'Requests and pods, each of its highest',
    unit: 'share',
    lines: [
      { name: 'requests', values: share(answered.values, mostRequests), against: null },
      { name: 'pods', values: share(pods, mostPods), against: null },
    ],
    limit: null,
    empty: null,
    note: `100 % is ${formatRate(mostRequests)} answered, and ${formatCount(mostPods, 'pod')} of at most ${scaler.most}`,
  };
}

/** How many pods there were, against the most it may have, and what it scales on: use of what is asked for. */
export function scaledFlows(usage: SeenUsage, scaler: AutoscalerObject): FlowLines[] {
  const key = scaledKey(scaler);
  const node = usage.tree.children
    .find(({ name }) => name === scaler.namespace)
    ?.children.find((child) => child.key === key);
  if (!node) return [];
  const pods = podsOf(usage, scaler.namespace, key ?? '');
  return [
    {
      title: 'Pods',
      unit: 'pods',
      lines: [{ name: 'pods', values: listed(pods), against: null }],
      limit: Array.from(pods, () => scaler.most),
      empty: null,
    },
    ...(['cpu', 'memory'] as const)
      .filter((resource) => scaler.follows.some((words) => words.toLowerCase().includes(resource)))
      .map((resource) => shareOfRequest(node, resource)),
  ];
}

function shareOfRequest({ lines }: UsageNode, resource: 'cpu' | 'memory'): FlowLines {
  const share = lines[resource].use.map((use, i) => use / (lines[resource].request[i] || Number.NaN));
  return {
    title: `${resource === 'cpu' ? 'CPU' : 'Memory'}, use of what is asked for`,
    unit: 'share',
    lines: [{ name: 'use of request', values: listed(share), against: null }],
    limit: null,
    empty: isUnread(share) ? emptyBecause('notRead') : null,
  };
}
