import type { EpochMs } from '../units/index.ts';
import { type FindingCode, works } from './kinds.ts';

export const SEVERITIES = ['critical', 'warning'] as const;
export type Severity = (typeof SEVERITIES)[number];

/** One thing that is not as it should be, with its proof (design/usage.md). */
export interface Finding {
  readonly code: FindingCode;
  /** Of one pod alone: whether it is without answers because of it. Of a whole it is weighed by what else serves. */
  readonly severity: Severity;
  /** What is wrong, a sentence. */
  readonly reason: string;
  /** What proves it, as the cluster said it. */
  readonly evidence: string;
  readonly since: EpochMs | null;
  readonly nextStep: string;
  /** The reason for who may not see all that it names; left out where it names nobody else. */
  readonly unnamed?: string;
}

const RANK: Record<Severity, number> = { critical: 0, warning: 1 };

/** Worst first; what fails before what only lacks room; then longest standing, those of which that is not known last. */
export function byWeight(a: Finding, b: Finding): number {
  const severity = RANK[a.severity] - RANK[b.severity];
  if (severity !== 0) return severity;
  const worse = Number(works(a.code)) - Number(works(b.code));
  if (worse !== 0) return worse;
  if (a.since === null || b.since === null) return Number(a.since === null) - Number(b.since === null);
  return a.since - b.since;
}

export function worstSeverity(findings: readonly Finding[]): Severity | null {
  if (findings.some((finding) => finding.severity === 'critical')) return 'critical';
  return findings.length > 0 ? 'warning' : null;
}
