import {
  type AlertAnswer,
  clusterOf,
  type Mark,
  type ObjectPath,
  pathKey,
  pathOfObject,
  readPath,
  touches,
  writePath,
} from '@zetopsis/contract';
import {
  isWorkload,
  type ObjectChange,
  restartsOf,
  rolloutsOf,
  type Uses,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import type { SeenUsage } from '../usage/index.ts';

const MOST = 300;

/** What happened in a window, as marks on a time axis; only what lies in `path`, or is used by it. */
export function marksOf({
  usage,
  alerts,
  path,
  from,
  to,
}: {
  readonly usage: SeenUsage;
  readonly alerts: readonly AlertAnswer[];
  readonly path: ObjectPath;
  readonly from: number;
  readonly to: number;
}): Mark[] {
  const marks: (Omit<Mark, 'path'> & { path: ObjectPath })[] = [];
  const within = (at: number) => at >= from && at <= to;
  for (const rollout of rolloutsOf(usage.view.replicaSets)) {
    if (!within(rollout.at)) continue;
    marks.push({
      at: rollout.at,
      kind: 'rollout',
      severity: null,
      title: `rollout ${rollout.name} ${rollout.change}`,
      path: pathOfObject({ cluster: usage.name, kind: 'deployment', namespace: rollout.namespace, name: rollout.name }),
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
      path: {
        is: 'container',
        cluster: usage.name,
        namespace: workload.namespace,
        workload,
        node: null,
        pod: restart.pod.name,
        container: restart.container,
      },
    });
  }
  for (const change of usage.view.changes) {
    if (!within(change.at)) continue;
    marks.push({
      at: change.at,
      kind: change.is,
      severity: null,
      title: changeTitle(change),
      path: pathOfObject({ cluster: usage.name, kind: change.kind, namespace: change.namespace, name: change.name }),
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
      path: pathOfObject({ cluster: usage.name, kind: of.kind, namespace: job.namespace, name: of.name }),
    });
  }
  for (const alert of alerts) {
    const own = readPath(alert.path);
    if (own === null || clusterOf(own) !== usage.name) continue;
    if (within(alert.raisedAt))
      marks.push({
        at: alert.raisedAt,
        kind: 'raised',
        severity: alert.severity,
        title: alert.title,
        path: own,
      });
    if (alert.endedAt !== null && within(alert.endedAt))
      marks.push({
        at: alert.endedAt,
        kind: 'cleared',
        severity: null,
        title: `clear again: ${alert.title}`,
        path: own,
      });
  }
  const about = relatedPaths(usage, path);
  return marks
    .filter((mark) => touches(mark.path, path) || about.has(pathKey(mark.path)))
    .sort((a, b) => a.at - b.at)
    .slice(-MOST)
    .map((mark) => ({ ...mark, path: writePath(mark.path) }));
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

/** What a workload's pods read and mount, what scales it, and the nodes its chosen pod runs on: a change there may be its cause. */
function relatedPaths({ name: cluster, view }: SeenUsage, path: ObjectPath): Set<string> {
  const paths = new Set<string>();
  if (path.is !== 'workload' && path.is !== 'pod' && path.is !== 'container') return paths;
  const { namespace } = path;
  const add = (related: ObjectPath) => void paths.add(pathKey(related));
  const named = path.workload === null ? null : workloadKey(path.workload);
  const podName = path.is === 'workload' ? null : path.pod;
  const spans = view.pods.filter(
    ({ workload, pod }) =>
      workload.namespace === namespace && (podName === null ? workloadKey(workload) === named : pod.name === podName),
  );
  if (podName !== null)
    for (const { pod } of spans) if (pod.node !== null) add({ is: 'node', cluster, node: pod.node });
  const keys = new Set(spans.map(({ workload }) => workloadKey(workload)));
  if (named !== null) keys.add(named);
  for (const kind of ['deployment', 'stateful set', 'daemon set', 'cron job', 'job'] as const)
    for (const workload of view.inventory.list(kind)) {
      if (workload.namespace !== namespace || !isWorkload(workload) || !keys.has(workloadKey(workload))) continue;
      for (const used of usedBy(workload.uses))
        add(pathOfObject({ cluster, kind: used.kind, namespace, name: used.name }));
      for (const scaler of view.inventory.list('autoscaler'))
        if (scaler.namespace === namespace && scaler.target.name === workload.name)
          add(pathOfObject({ cluster, kind: scaler.kind, namespace, name: scaler.name }));
      if (podName !== null) add({ is: 'workload', cluster, namespace, workload });
    }
  return paths;
}

/** Versions kept before uses were read have none. */
export const usedBy = (uses: Uses | undefined) => [
  ...(uses?.configMaps ?? []).map((name) => ({ kind: 'config map' as const, name })),
  ...(uses?.secrets ?? []).map((name) => ({ kind: 'secret' as const, name })),
  ...(uses?.claims ?? []).map((name) => ({ kind: 'volume claim' as const, name })),
];
