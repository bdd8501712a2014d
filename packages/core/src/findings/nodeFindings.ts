import type { NodeObject } from '../inventory/index.ts';
import { type Entries, entriesFindings } from './boundFindings.ts';
import { byWeight, type Finding } from './finding.ts';

const PRESSURES: Record<string, string> = {
  MemoryPressure: 'memory',
  DiskPressure: 'disk space',
  PIDPressure: 'process numbers',
};

/** Words in which programs on nodes report trouble with disks. */
const DISK = /disk|filesystem|readonly|inode|io\b/i;
const KNOWN = new Set(['Ready', ...Object.keys(PRESSURES)]);

/** What a node says is wrong with it, and what its page tells of its file system. */
export function nodeFindings(node: NodeObject, entries: Entries = { used: null, count: null }): Finding[] {
  const found = entriesFindings(
    'The file system of the node',
    entries,
    'nodeEntries',
    'Find what writes many small files on it: images and pods that ended are removed first.',
  );
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
    if (!KNOWN.has(condition.type) && condition.status === 'true') {
      const disk = DISK.test(`${condition.type} ${condition.reason}`);
      found.push({
        code: 'nodeProblem',
        severity: condition.type === 'NetworkUnavailable' ? 'critical' : 'warning',
        reason:
          condition.type === 'NetworkUnavailable'
            ? 'The network of the node is not set up: its pods reach nobody.'
            : disk
              ? `The node reports trouble with its disk: ${spaced(condition.type)}.`
              : `The node reports: ${spaced(condition.type)}.`,
        evidence: condition.message || condition.reason,
        since: condition.since,
        nextStep: disk
          ? 'Move its pods elsewhere and look at the disk: what is written to it may be lost.'
          : 'Look at what the node itself wrote at that time.',
      });
    }
    const short = Object.hasOwn(PRESSURES, condition.type) ? PRESSURES[condition.type] : undefined;
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

/** "ReadonlyFilesystem" → "readonly filesystem". */
const spaced = (type: string): string => type.replace(/(?<=[a-z])(?=[A-Z])/g, ' ').toLowerCase();
