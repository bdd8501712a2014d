import type { NodeObject } from '../inventory/index.ts';
import { byWeight, type Finding } from './finding.ts';

const PRESSURES: Record<string, string> = {
  MemoryPressure: 'memory',
  DiskPressure: 'disk space',
  PIDPressure: 'process numbers',
};

/** What a node says is wrong with it. */
export function nodeFindings(node: NodeObject): Finding[] {
  const found: Finding[] = [];
  for (const condition of node.conditions) {
    if (condition.type === 'Ready' && condition.status !== 'true') {
      const silent = condition.status === 'unknown';
      found.push({
        code: silent ? 'unknown' : 'nodeNotReady',
        severity: 'critical',
        reason: silent
          ? 'The node has stopped reporting: its state is unknown.'
          : 'The node is not ready; its pods may not run.',
        evidence: condition.message || condition.reason,
        since: condition.since,
        nextStep: 'Check that the machine is up and reaches the cluster API; its pods are moved after a while.',
      });
    }
    const short = PRESSURES[condition.type];
    if (short !== undefined && condition.status === 'true') {
      found.push({
        code: 'nodePressure',
        severity: 'warning',
        reason: `The node is short of ${short} and may evict pods.`,
        evidence: condition.message || condition.reason,
        since: condition.since,
        nextStep: `Look at which pods use most ${short} on it.`,
      });
    }
  }
  return found.sort(byWeight);
}
