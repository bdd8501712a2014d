import type { AlertAnswer, Mark } from '@zetopsis/contract';
import {
  isWorkload,
  type ObjectChange,
  restartsOf,
  rolloutsOf,
  type Uses,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import { nodeKey, nodeOf, objectKey, readPodKey } from './objectPaths.ts';
import type { SeenUsage } from './usage.service.ts';

const MOST = 300;

/** What happened in a window, as marks on a time axis; only what lies in `path`, or is used by it. */
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
  for (const change of usage.view.changes) {
    marks.push({
      at: change.at,
      kind: change.is,
      severity: null,
      title: changeTitle(change),
      path: pathOfChange(usage.name, change),
    });
  }
  for (const job of usage.view.jobs) {
    const at = job.endedAt ?? job.createdAt;
    if (job.outcome !== 'failed' || !within(at)) continue;
    const of = job.owner?.kind === 'CronJob' ? { kind: 'cron job' as const, name: job.owner.name } : job;
    marks.push({
      at,
      kind: 'run failed',
      severity: null,
      title: `run ${job.name} failed`,
      path: [usage.name, job.namespace ?? '', workloadKey(of)],
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
  const about = relatedPaths(usage, path);
  return marks
    .filter((mark) => touches(mark.path, path) || about.has(mark.path.join('/')))
    .sort((a, b) => a.at - b.at)
    .slice(-MOST);
}

function changeTitle({ is, kind, name, words, who }: ObjectChange): string {
  const by = who === null ? '' : `, by ${who}`;
  switch (is) {
    case 'rollout':
      return `rollout ${name} ${words}${by}`;
    case 'scaled':
      return `${name} scaled ${words}${by}`;
    case 'node change':
      return `${name} ${words}`;
    case 'config change':
      return `${kind} ${name}: ${words}${by}`;
  }
}
const pathOfChange = (cluster: string, change: ObjectChange): string[] =>
  change.kind === 'node'
    ? [cluster, nodeKey(change.name)]
    : [cluster, change.namespace ?? '', objectKey({ kind: change.kind, name: change.name })];

/** What a workload's pods read and mount, what scales it, and the nodes its chosen pod runs on: a change there may be its cause. */
function relatedPaths({ name: cluster, view }: SeenUsage, path: readonly string[]): Set<string> {
  const [, place, part, podName] = path;
  const paths = new Set<string>();
  const node = nodeOf(place);
  if (place === undefined || part === undefined) return paths;
  const pod = node === null ? { namespace: place, pod: podName } : readPodKey(part);
  if (!pod) return paths;
  const spans = view.pods.filter(
    (span) =>
      span.workload.namespace === pod.namespace &&
      (pod.pod === undefined ? workloadKey(span.workload) === part : span.pod.name === pod.pod),
  );
  if (pod.pod !== undefined)
    for (const span of spans) if (span.pod.node !== null) paths.add([cluster, nodeKey(span.pod.node)].join('/'));
  const keys = new Set(spans.map((span) => workloadKey(span.workload)));
  if (node === null) keys.add(part);
  for (const kind of ['deployment', 'stateful set', 'daemon set', 'cron job', 'job'] as const)
    for (const workload of view.inventory.list(kind)) {
      if (workload.namespace !== pod.namespace || !isWorkload(workload) || !keys.has(workloadKey(workload))) continue;
      for (const used of usedBy(workload.uses)) paths.add([cluster, pod.namespace, objectKey(used)].join('/'));
      for (const scaler of view.inventory.list('autoscaler'))
        if (scaler.namespace === pod.namespace && scaler.target.name === workload.name)
          paths.add([cluster, pod.namespace, objectKey(scaler)].join('/'));
      if (node !== null || pod.pod !== undefined) paths.add([cluster, pod.namespace, workloadKey(workload)].join('/'));
    }
  return paths;
}

/** Versions kept before uses were read have none. */
export const usedBy = (uses: Uses | undefined) => [
  ...(uses?.configMaps ?? []).map((name) => ({ kind: 'config map' as const, name })),
  ...(uses?.secrets ?? []).map((name) => ({ kind: 'secret' as const, name })),
  ...(uses?.claims ?? []).map((name) => ({ kind: 'volume claim' as const, name })),
];

/** In the scope, or above it: what happens to a workload happens to its pods. */
export function touches(a: readonly string[], b: readonly string[]): boolean {
  const shared = Math.min(a.length, b.length);
  return a.slice(0, shared).every((part, i) => part === b[i]);
}
