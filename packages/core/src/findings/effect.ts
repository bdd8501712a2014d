import type { Finding } from './finding.ts';

/** How much hangs on a place: by label, or as a person says. */
export const CRITICALITIES = ['critical', 'ordinary', 'trial'] as const;
export type Criticality = (typeof CRITICALITIES)[number];

/** What a thing still gives while something of it fails. */
export interface Effect {
  /** Others of its kind serve meanwhile. */
  readonly serves: boolean;
  readonly criticality: Criticality;
}

/**
 * What a finding says of one thing, weighed by what people have of the whole: critical where they are or will be without
 * answers, a warning while others serve. Of a critical place nothing is made light; a trial wakes nobody.
 */
export function weighed<T extends Finding>(findings: readonly T[], { serves, criticality }: Effect): T[] {
  const light = criticality === 'trial' || (serves && criticality === 'ordinary');
  return findings.map((finding) =>
    light && finding.severity === 'critical' ? { ...finding, severity: 'warning' } : finding,
  );
}
