import { formatBytes, formatDuration, formatPercent } from '../format/index.ts';
import type { AutoscalerObject, ClaimObject, DisruptionBudgetObject, QuotaObject } from '../inventory/index.ts';
import { DAY, type DurationMs, type EpochMs } from '../units/index.ts';
import type { Finding } from './finding.ts';

/** From here on a quota is nearly spent. */
const NEARLY = 0.9;

export function quotaFindings(quota: QuotaObject): Finding[] {
  return quota.rows.flatMap(({ resource, hard, used }): Finding[] => {
    if (used === null || hard <= 0 || used / hard < NEARLY) return [];
    const share = formatPercent(used / hard);
    const spent = used >= hard;
    return [
      {
        code: 'quotaSpent',
        severity: spent ? 'critical' : 'warning',
        reason: spent
          ? `Quota ${quota.name}: ${resource} is spent (${share}). Pods that ask for more are refused.`
          : `Quota ${quota.name}: ${share} of ${resource} is spent. What asks for more than the rest is refused.`,
        evidence: `${used} of ${hard}, as the cluster counts`,
        since: null,
        nextStep: 'See in the fit of its workloads who asks for more than it uses, or raise the quota.',
      },
    ];
  });
}

const FILLS_WITHIN = 7 * DAY;

/** How many entries a file system has room for, and has. */
export interface Entries {
  readonly used: number | null;
  readonly count: number | null;
}
/** A file system without room for another entry takes no file, whatever space is left. */
export function entriesFindings(
  whose: string,
  { used, count }: Entries,
  code: 'volumeEntries' | 'nodeEntries',
  nextStep: string,
): Finding[] {
  if (used === null || count === null || count <= 0 || used / count < NEARLY) return [];
  const share = used / count;
  return [
    {
      code,
      severity: share >= 0.97 ? 'critical' : 'warning',
      reason:
        used >= count
          ? `${whose} takes no more files: its file entries (inodes) are used up.`
          : `${whose} has used ${formatPercent(share)} of its file entries (inodes); without them it takes no more files.`,
      evidence: `${used} of ${count} entries used`,
      since: null,
      nextStep,
    },
  ];
}

/** `fullIn`: when a straight line through its use reaches its size; null when it does not grow. */
export function volumeFindings(
  name: string,
  figures: {
    readonly use: number | null;
    readonly size: number | null;
    readonly fullIn: DurationMs | null;
    readonly entries?: Entries;
  },
): Finding[] {
  return [
    ...spaceFindings(name, figures),
    ...entriesFindings(
      `Volume ${name}`,
      figures.entries ?? { used: null, count: null },
      'volumeEntries',
      'Remove small files that are not needed, or join them; more space alone may not give more entries.',
    ),
  ];
}
function spaceFindings(
  name: string,
  {
    use,
    size,
    fullIn,
  }: { readonly use: number | null; readonly size: number | null; readonly fullIn: DurationMs | null },
): Finding[] {
  if (use === null || size === null || size <= 0) return [];
  const share = use / size;
  const soon = fullIn !== null && fullIn <= FILLS_WITHIN;
  if (share < NEARLY && !soon) return [];
  return [
    {
      code: 'volumeFilling',
      severity: share >= 0.97 || (fullIn !== null && fullIn <= DAY) ? 'critical' : 'warning',
      reason: soon
        ? `Volume ${name} will be full in about ${formatDuration(fullIn)} if it goes on like this.`
        : `Volume ${name} is ${formatPercent(share)} full.`,
      evidence: `${formatBytes(use)} of ${formatBytes(size)} used`,
      since: null,
      nextStep: 'Remove what is not needed, or ask for a larger claim, if its storage class can grow.',
    },
  ];
}

export function claimFindings(claim: ClaimObject, now: EpochMs): Finding[] {
  if (claim.phase === 'Bound' || now - claim.createdAt < 60_000) return [];
  return [
    {
      code: 'claimNotBound',
      severity: claim.phase === 'Lost' ? 'critical' : 'warning',
      reason:
        claim.phase === 'Lost' ? 'The volume of this claim is gone.' : 'No volume has been found for this claim yet.',
      evidence: `phase ${claim.phase || 'unknown'}, storage class ${claim.storageClass || 'none named'}`,
      since: claim.createdAt,
      nextStep: 'Look at the events of the claim: they say what its storage class waits for.',
    },
  ];
}

export function autoscalerFindings(scaler: AutoscalerObject): Finding[] {
  const limited = scaler.conditions.find(({ type }) => type === 'ScalingLimited');
  if (scaler.desired < scaler.most || limited?.status !== 'true') return [];
  return [
    {
      code: 'atMost',
      severity: 'warning',
      reason: `The autoscaler would have more than ${scaler.most} pods, which is the most it may.`,
      evidence: limited.reason,
      since: limited.since,
      nextStep: 'Raise its maximum if the cluster has room, or find what drives the load.',
    },
  ];
}

/** A budget that lets no pod go, though all are well, stops every planned work on their nodes. */
export function budgetFindings(budget: DisruptionBudgetObject, expected: number): Finding[] {
  if (budget.allowed > 0 || expected === 0 || budget.healthy < expected) return [];
  return [
    {
      code: 'budgetBlocks',
      severity: 'warning',
      reason: `No pod of it may be disrupted though all ${expected} are well: work on their nodes cannot begin.`,
      evidence: `${budget.leastAvailable === null ? `at most ${budget.mostUnavailable ?? 'none'} may be away` : `at least ${budget.leastAvailable} have to be there`}, ${budget.healthy} of ${expected} are`,
      since: null,
      nextStep: 'Run one replica more, or let the budget give one away.',
    },
  ];
}
