import { formatDuration } from '../format/index.ts';
import type { WorkloadObject } from '../inventory/index.ts';
import { NAME_SERVICE_LABELS } from '../inventory/wire-names.ts';
import { percentile } from '../statistics/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';

import type { Finding } from './finding.ts';

/** An answer of the cluster's API that takes longer than this makes everything in the cluster slow. */
const SLOW: DurationMs = 1000;
const FEWEST = 3;

/** `answers`: how long the cluster's API took for the newest small requests, ms. */
export function apiFindings(answers: readonly DurationMs[], since: EpochMs | null): Finding[] {
  if (answers.length < FEWEST) return [];
  const usual = percentile(answers, 0.5) ?? 0;
  if (usual < SLOW) return [];
  return [
    {
      code: 'apiSlow',
      severity: 'warning',
      reason: `The cluster’s API is slow: it takes ${formatDuration(usual)} for a small answer.`,
      evidence: `the newest ${answers.length} took ${answers.map((took) => formatDuration(took)).join(', ')}`,
      since,
      nextStep: 'Look at the load of the machines that run the control plane, and at who asks it most.',
    },
  ];
}

/** Programs that look up names inside a cluster: without them nobody there finds anybody. `since`: when pods of it were missed. */
export function nameServiceFindings(workload: WorkloadObject, since: EpochMs | null): Finding[] {
  const own = NAME_SERVICE_LABELS.some(([key, value]) => workload.labels[key] === value);
  if (!own || workload.desired === 0 || workload.ready >= workload.desired) return [];
  const none = workload.ready === 0;
  return [
    {
      code: 'nameServiceDown',
      severity: none ? 'critical' : 'warning',
      reason: none
        ? 'The name service of the cluster is down: pods cannot look up each other.'
        : `The name service of the cluster is short of pods: ${workload.ready} of ${workload.desired} are ready, and look-ups are slow.`,
      evidence: `${workload.namespace}/${workload.name}: ${workload.ready} of ${workload.desired} ready`,
      since,
      nextStep: 'Look at its pods first: what fails elsewhere may only be this.',
    },
  ];
}
