import type { FlowLines } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { type AutoscalerObject, workloadKey } from '@zetopsis/core/inventory';
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

/** How many pods there were, against the most it may have, and what it scales on: use of what is asked for. */
export function scaledFlows({ tree, view, input: { grid } }: SeenUsage, scaler: AutoscalerObject): FlowLines[] {
  const key = scaledKey(scaler);
  const node = tree.children.find(({ name }) => name === scaler.namespace)?.children.find((child) => child.key === key);
  if (!node) return [];
  const pods = new Float64Array(grid.count);
  for (const { workload, from, to } of view.pods) {
    if (workload.namespace !== scaler.namespace || workloadKey(workload) !== key) continue;
    const [first, end] = presenceOn(grid, from, to);
    for (let i = first; i < end; i++) pods[i]! += 1;
  }
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
