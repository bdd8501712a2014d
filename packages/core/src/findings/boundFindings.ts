import { formatBytes, formatDuration, formatNumber, formatPercent } from '../format/index.ts';
import type {
  AutoscalerObject,
  ClaimObject,
  ClusterEvent,
  DisruptionBudgetObject,
  Followed,
  QuotaObject,
} from '../inventory/index.ts';
import { conditionOf } from '../inventory/index.ts';
import { EVENT_REASONS } from '../inventory/wire-names.ts';
import { DAY, type DurationMs, type EpochMs } from '../units/index.ts';
import { deletionFindings } from './deletion.ts';
import type { Finding } from './finding.ts';
import { inItsWords, NOTHING_SAID, type Said, saidLately } from './said.ts';

/** From here on a quota is nearly spent, a file system nearly full. */
export const NEARLY = 0.9;

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
  /** Since when they have been nearly used up; null where what was read does not go back to that. */
  readonly since?: EpochMs | null;
}
/** A file system without room for another entry takes no file, whatever space is left. */
export function entriesFindings({
  whose,
  entries: { used, count, since = null },
  code,
  nextStep,
}: {
  readonly whose: string;
  readonly entries: Entries;
  readonly code: 'volumeEntries' | 'nodeEntries';
  readonly nextStep: string;
}): Finding[] {
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
      since,
      nextStep,
    },
  ];
}

interface Filling {
  readonly use: number | null;
  readonly size: number | null;
  readonly fullIn: DurationMs | null;
  /** Since when it has been nearly full; null where what was read does not go back to that. */
  readonly since?: EpochMs | null;
}
/** `fullIn`: when a straight line through its use reaches its size; null when it does not grow. */
export function volumeFindings(name: string, figures: Filling & { readonly entries?: Entries }): Finding[] {
  return [
    ...spaceFindings(name, figures),
    ...entriesFindings({
      whose: `Volume ${name}`,
      entries: figures.entries ?? { used: null, count: null },
      code: 'volumeEntries',
      nextStep: 'Remove small files that are not needed, or join them; more space alone may not give more entries.',
    }),
  ];
}
function spaceFindings(name: string, { use, size, fullIn, since = null }: Filling): Finding[] {
  if (use === null || size === null || size <= 0) return [];
  const share = use / size;
  const soon = fullIn !== null && fullIn <= FILLS_WITHIN;
  if (share < NEARLY && !soon) return [];
  return [
    {
      code: 'volumeFilling',
      severity: share >= 0.97 || (fullIn !== null && fullIn <= DAY) ? 'critical' : 'warning',
      // what has no room left has none, however slowly it filled
      reason:
        soon && share < NEARLY
          ? `Volume ${name} will be full in about ${formatDuration(fullIn)} if it goes on like this.`
          : `Volume ${name} is ${formatPercent(share)} full.`,
      evidence: `${formatBytes(use)} of ${formatBytes(size)} used`,
      since: share < NEARLY ? null : since,
      nextStep: 'Remove what is not needed, or ask for a larger claim, if its storage class can grow.',
    },
  ];
}

/** Why a claim has no volume, as the cluster says it. */
function claimInWords(claim: ClaimObject, told: ClusterEvent | undefined): { reason: string; nextStep: string } {
  const message = told?.message ?? '';
  const missing = /storageclass(?:\.\S+)? "([^"]+)" not found/i.exec(message);
  if (missing)
    return {
      reason: `No volume for this claim: there is no storage class ${missing[1]}.`,
      nextStep: 'Name a class that there is, or make this one. A claim’s class cannot be changed: it is made anew.',
    };
  if (/no storage class is set|no persistent volumes available/i.test(message))
    return claim.storageClass === ''
      ? {
          reason:
            'No volume for this claim: it names no storage class, there is no default one, and no free volume fits.',
          nextStep: 'Name a storage class, or mark one of them as the default.',
        }
      : {
          reason: 'No volume for this claim: none that is free fits what it asks for.',
          nextStep: 'Make a volume of its size, class and access mode, or ask for less.',
        };
  if (/exceeded quota/i.test(message))
    return {
      reason: 'No volume for this claim: the quota of its namespace for storage is spent.',
      nextStep: 'Remove claims that nobody needs, or raise the quota.',
    };
  if (/access mode|ReadWriteMany|not supported/i.test(message))
    return {
      reason: 'No volume for this claim: its storage class does not give the access mode that it asks for.',
      nextStep: 'Ask for an access mode that the class gives, or another class.',
    };
  if (
    /out of (capacity|space)|insufficient (capacity|space)|not enough (free )?(capacity|space)|ResourceExhausted/i.test(
      message,
    )
  )
    return {
      reason: 'No volume for this claim: the storage has no room left for its size.',
      nextStep: 'Ask for less, or give the storage more room.',
    };
  return {
    reason: 'No volume has been found for this claim yet.',
    nextStep: 'Look at the events of the claim: they say what its storage class waits for.',
  };
}

export function claimFindings(claim: ClaimObject, now: EpochMs, said: Said = NOTHING_SAID): Finding[] {
  const stuck = deletionFindings(claim, now);
  if (claim.phase === 'Bound' || now - claim.createdAt < 60_000) return stuck;
  if (claim.phase === 'Lost')
    return [
      {
        code: 'claimNotBound',
        severity: 'critical',
        reason: 'The volume of this claim is gone.',
        evidence: `phase ${claim.phase}, volume ${claim.volume ?? 'none named'}`,
        since: claim.createdAt,
        nextStep: 'Bring its data back from a copy; the claim itself never gets another volume.',
      },
      ...stuck,
    ];
  const events = said.about(claim);
  const told = saidLately(events, EVENT_REASONS.provisioningFailed, now);
  // it is bound when its first pod comes: until then nothing is wrong
  if (!told && events.some(({ reason }) => reason === EVENT_REASONS.waitsForFirst)) return stuck;
  return [
    {
      code: 'claimNotBound',
      severity: 'warning',
      ...claimInWords(claim, told),
      evidence: told
        ? inItsWords(told)
        : `phase ${claim.phase || 'unknown'}, storage class ${claim.storageClass || 'none named'}`,
      since: told ? Math.min(told.firstAt, now) : claim.createdAt,
    },
    ...stuck,
  ];
}

/** How many pods an autoscaler's own arithmetic would take, and the figure that asks for them; null where that is no more than it may have. */
export function wantedPods({
  seen,
  current,
  most,
}: AutoscalerObject): { readonly figure: Followed; readonly pods: number } | null {
  // the one that asks for most pods decides
  const [first] = (seen ?? [])
    .map((figure) => ({ figure, pods: Math.ceil((current * figure.value) / figure.aim) }))
    .filter(({ pods }) => pods > most && Number.isFinite(pods))
    .sort((a, b) => b.pods - a.pods);
  return first ?? null;
}

export function autoscalerFindings(scaler: AutoscalerObject, now: EpochMs, said: Said = NOTHING_SAID): Finding[] {
  const condition = (type: string) => conditionOf(scaler.conditions, type);
  const active = condition('ScalingActive');
  if (active?.status === 'false' && active.reason !== 'ScalingDisabled') {
    const told = saidLately(said.about(scaler), EVENT_REASONS.figureNotRead, now);
    return [
      {
        code: 'figureNotRead',
        severity: 'warning',
        reason: `The autoscaler cannot read what it follows${scaler.follows.length === 0 ? '' : ` (${scaler.follows.join(', ')})`}: the number of pods stays as it is.`,
        evidence: active.message || (told ? inItsWords(told) : active.reason),
        since: active.since,
        nextStep:
          'Look whether its pods say what they ask for (a share of nothing is no figure), and whether what serves figures to the cluster runs.',
      },
    ];
  }
  const able = condition('AbleToScale');
  if (able?.status === 'false')
    return [
      {
        code: 'figureNotRead',
        severity: 'warning',
        reason: 'The autoscaler cannot change the number of pods.',
        evidence: able.message || able.reason,
        since: able.since,
        nextStep: 'Look whether what it scales is still there under that name.',
      },
    ];
  const limited = condition('ScalingLimited');
  if (scaler.desired < scaler.most || limited?.status !== 'true') return [];
  const most = wantedPods(scaler);
  return [
    {
      code: 'atMost',
      severity: 'warning',
      reason: `The autoscaler would have more than ${scaler.most} pods, which is the most it may${most ? `: ${figureInWords(most.figure)}` : ''}.`,
      evidence: most
        ? `${scaler.current} × ${formatNumber(most.figure.value)} ÷ ${formatNumber(most.figure.aim)} makes ${most.pods} pods`
        : limited.reason,
      since: limited.since,
      nextStep: most
        ? `About ${most.pods} pods would bring it to where it is to be: raise the maximum so far if the cluster has room, or find what drives the load.`
        : 'Raise its maximum if the cluster has room, or find what drives the load.',
    },
  ];
}
/** "cpu is at 167 % of requests, and is to be at 70 %" */
const figureInWords = ({ name, value, aim, share }: Followed): string =>
  share
    ? `${name} is at ${formatNumber(value)} % of requests, and is to be at ${formatNumber(aim)} %`
    : `${name} is at ${formatNumber(value)}, and is to be at ${formatNumber(aim)}`;

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
