import { formatDuration } from '../format/index.ts';
import type { NodeObject } from '../inventory/index.ts';
import { type DurationMs, MINUTE, SECOND } from '../units/index.ts';
import { type Entries, entriesFindings } from './boundFindings.ts';
import { byWeight, type Finding } from './finding.ts';

const PRESSURES: Record<string, string> = {
  MemoryPressure: 'memory',
  DiskPressure: 'disk space',
  PIDPressure: 'process numbers',
};

/** A page is made before it is read: what bears a later time than that has another clock than we. */
export const CLOCK_AHEAD = 5 * SECOND;
/** A page may tell what was measured a while before. */
const BEHIND = 2 * MINUTE;

/** Words in which programs on nodes report trouble with disks. */
const DISK = /disk|filesystem|readonly|inode|io\b/i;
const KNOWN = new Set(['Ready', ...Object.keys(PRESSURES)]);

/** What is measured of a node beside what it says of itself. */
export interface NodeMeasured {
  readonly entries: Entries;
  /** How far the times on its page are ahead of ours; null where its page bears none. */
  readonly skew: DurationMs | null;
}
const NOTHING_MEASURED: NodeMeasured = { entries: { used: null, count: null }, skew: null };

/** What a node says is wrong with it, and what its page tells of its file system and its clock. */
export function nodeFindings(node: NodeObject, { entries, skew }: NodeMeasured = NOTHING_MEASURED): Finding[] {
  const found = entriesFindings({
    whose: 'The file system of the node',
    entries,
    code: 'nodeEntries',
    nextStep: 'Find what writes many small files on it: images and pods that ended are removed first.',
  });
  if (skew !== null && (skew > CLOCK_AHEAD || skew < -BEHIND)) found.push(skewed(skew));
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

function skewed(skew: DurationMs): Finding {
  const apart = Math.abs(skew);
  const by = apart < 10 * MINUTE ? `${Math.round(apart / SECOND)} s` : formatDuration(apart);
  return {
    code: 'clockSkew',
    severity: 'warning',
    reason:
      skew > 0
        ? `The node’s clock is ${by} ahead: the times on its page are not followed.`
        : `The node’s clock is ${by} behind: what it reports stands at the wrong time.`,
    evidence: `the newest line of its page bears a time ${by} ${skew > 0 ? 'after' : 'before'} it was read`,
    since: null,
    nextStep:
      skew > 0
        ? 'Look whether the node keeps its time by a time server; certificates and leases fail when clocks differ.'
        : 'Look whether the node keeps its time by a time server, and whether its page tells fresh figures.',
  };
}
