import type { AlertAnswer, Mark } from '@zetopsis/contract';
import { restartsOf, rolloutsOf, type WorkloadRef, workloadKey } from '@zetopsis/core/inventory';
import type { SeenUsage } from './usage.service.ts';

const MOST = 300;

/** What happened in a window, as marks on a time axis: rollouts, restarts, alerts; only what lies in `path`. */
export function marksOf(
  usage: SeenUsage,
  alerts: readonly AlertAnswer[],
  path: readonly string[],
  from: number,
  to: number,
): Mark[] {
  const marks: Mark[] = [];
  const within = (at: number) => at >= from && at <= to;
  for (const rollout of rolloutsOf(usage.view.replicaSets)) {
    if (!within(rollout.at)) continue;
    marks.push({
      at: rollout.at,
      kind: 'rollout',
      severity: null,
      title: `rollout ${rollout.name} ${rollout.change}`,
      path: [usage.name, rollout.namespace, workloadKey({ kind: 'deployment', name: rollout.name })],
    });
  }
  const workloads = new Map<string, WorkloadRef>(usage.view.pods.map(({ pod, workload }) => [pod.uid, workload]));
  for (const restart of restartsOf(usage.view.podStates)) {
    const workload = workloads.get(restart.pod.uid);
    if (!within(restart.at) || !workload) continue;
    marks.push({
      at: restart.at,
      kind: restart.outOfMemory ? 'out of memory' : 'restart',
      severity: null,
      title: restart.outOfMemory
        ? `${restart.container} ran out of memory and was restarted`
        : `${restart.container} ended with code ${restart.end.exitCode ?? 'unknown'} and was restarted`,
      path: [usage.name, workload.namespace, workloadKey(workload), restart.pod.name, restart.container],
    });
  }
  for (const alert of alerts) {
    if (alert.path[0] !== usage.name) continue;
    if (within(alert.raisedAt))
      marks.push({
        at: alert.raisedAt,
        kind: 'raised',
        severity: alert.severity,
        title: alert.title,
        path: alert.path,
      });
    if (alert.endedAt !== null && within(alert.endedAt))
      marks.push({
        at: alert.endedAt,
        kind: 'cleared',
        severity: null,
        title: `clear again: ${alert.title}`,
        path: alert.path,
      });
  }
  return marks
    .filter((mark) => touches(mark.path, path))
    .sort((a, b) => a.at - b.at)
    .slice(-MOST);
}

/** In the scope, or above it: what happens to a workload happens to its pods. */
export function touches(a: readonly string[], b: readonly string[]): boolean {
  const shared = Math.min(a.length, b.length);
  return a.slice(0, shared).every((part, i) => part === b[i]);
}
