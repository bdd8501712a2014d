import type { EpochMs } from '../units/index.ts';
import type { FindingCode } from './kinds.ts';

export const SEVERITIES = ['critical', 'warning'] as const;
export type Severity = (typeof SEVERITIES)[number];

/** One thing that is not as it should be, with its proof (design/usage.md). */
export interface Finding {
  readonly code: FindingCode;
  readonly severity: Severity;
  /** What is wrong, a sentence. */
  readonly reason: string;
  /** What proves it, as the cluster said it. */
  readonly evidence: string;
  readonly since: EpochMs | null;
  readonly nextStep: string;
}

const RANK: Record<Severity, number> = { critical: 0, warning: 1 };

/** Worst first, then longest standing. */
export function byWeight(a: Finding, b: Finding): number {
  return RANK[a.severity] - RANK[b.severity] || (a.since ?? 0) - (b.since ?? 0);
}

export function worstSeverity(findings: readonly Finding[]): Severity | null {
  if (findings.some((finding) => finding.severity === 'critical')) return 'critical';
  return findings.length > 0 ? 'warning' : null;
}
