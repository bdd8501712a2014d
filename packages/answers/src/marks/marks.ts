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
import { podFindings } from '@zetopsis/core/findings';
import {
  isWorkload,
  type ObjectChange,
  restartsOf,
  rolloutsOf,
  type Uses,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import type { LinkEnd } from '@zetopsis/core/links';
import type { EpochMs } from '@zetopsis/core/units';
import type { SeenUsage } from '../usage/index.ts';

const MOST = 300;

type Placed = Omit<Mark, 'path'> & { readonly path: ObjectPath };

const rolloutMarks = ({ name: cluster, view }: SeenUsage): Placed[] =>
  rolloutsOf(view.replicaSets).map(({ at, name, namespace, change }) => ({
    at,
    kind: 'rollout',
    severity: null,
    title: `rollout ${name} ${change}`,
    path: pathOfObject({ cluster, kind: 'deployment', namespace, name }),
  }));

function restartMarks({ name: cluster, view }: SeenUsage): Placed[] {
  const workloads = new Map<string, WorkloadRef>(view.pods.map(({ pod, workload }) => [pod.uid, workload]));
  return restartsOf(view.podStates.map(({ pod }) => pod)).flatMap(
    ({ pod, at, container, outOfMemory, end }): Placed[] => {
      const workload = workloads.get(pod.uid);
      if (!workload) return [];
      const { namespace } = workload;
      return [
        {
          at,
          kind: outOfMemory ? 'out of memory' : 'restart',
          severity: null,
          title: outOfMemory
            ? `${container} ran out of memory and was restarted`
            : `${container} ended with code ${end.exitCode ?? 'unknown'} and was restarted`,
          path: { is: 'container', cluster, namespace, workload, node: null, pod: pod.name, container },
        },
      ];
    },
  );
}

/** Pods that were put out or not taken: history, once others stand in for them. */
const lostPodMarks = ({ name: cluster, view }: SeenUsage, now: EpochMs): Placed[] =>
  view.pods.flatMap(({ pod, workload }): Placed[] => {
    if (pod.phase !== 'failed' || workload.kind === 'job' || workload.kind === 'cron job') return [];
    const [lost] = podFindings(pod, now);
    if (!lost || lost.since === null) return [];
    const { namespace } = workload;
    return [
      {
        at: lost.since,
        kind: 'pod lost',
        severity: null,
        title: `${pod.name}: ${lost.reason.charAt(0).toLowerCase()}${lost.reason.slice(1, -1)}`,
        path: { is: 'pod', cluster, namespace, workload, node: null, pod: pod.name },
      },
    ];
  });

const changeMarks = ({ name: cluster, view }: SeenUsage): Placed[] =>
  view.changes.map((change) => ({
    at: change.at,
    kind: change.is,
    severity: null,
    title: changeTitle(change),
    path: pathOfObject({ cluster, kind: change.kind, namespace: change.namespace, name: change.name }),
  }));

const runMarks = ({ name: cluster, view }: SeenUsage): Placed[] =>
  view.jobs
    .filter(({ outcome }) => outcome === 'failed')
    .map((job) => {
      const of = job.owner?.kind === 'CronJob' ? { kind: 'cron job' as const, name: job.owner.name } : job;
      return {
        at: job.endedAt ?? job.createdAt,
        kind: 'run failed',
        severity: null,
        title: `run ${job.name} failed`,
        path: pathOfObject({ cluster, kind: of.kind, namespace: job.namespace, name: of.name }),
      };
    });

const alertMarks = ({ name: cluster }: SeenUsage, alerts: readonly AlertAnswer[]): Placed[] =>
  alerts.flatMap(({ path: parts, raisedAt, endedAt, severity, title }): Placed[] => {
    const path = readPath(parts);
    if (path === null || clusterOf(path) !== cluster) return [];
    const raised: Placed = { at: raisedAt, kind: 'raised', severity, title, path };
    const cleared = { kind: 'cleared', severity: null, title: `clear again: ${title}`, path } as const;
    return endedAt === null ? [raised] : [raised, { at: endedAt, ...cleared }];
  });

/** At the caller; where that is no workload of this cluster, at the answerer. Whoever may not be seen bears no name. */
const linkMarks = ({ name: cluster, linkTurns = [], sees }: SeenUsage): Placed[] =>
  linkTurns.flatMap(({ from, to, at, is }): Placed[] => {
    const seen = (end: LinkEnd) => end.cluster === cluster && sees(end.namespace);
    const pathOf = (end: LinkEnd) => (seen(end) ? readPath([cluster, end.namespace, end.workload]) : null);
    const path = pathOf(from) ?? pathOf(to);
    if (path === null) return [];
    const name = (end: LinkEnd) =>
      end.cluster === '' || seen(end) ? end.workload.slice(end.workload.indexOf(':') + 1) : 'a workload of others';
    const title =
      is === 'new' ? `new: ${name(from)} calls ${name(to)}` : `gone: ${name(from)} calls ${name(to)} no more`;
    return [{ at, kind: `${is} link`, severity: null, title, path }];
  });

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
  const about = relatedPaths(usage, path);
  return [
    ...rolloutMarks(usage),
    ...restartMarks(usage),
    ...lostPodMarks(usage, to),
    ...changeMarks(usage),
    ...runMarks(usage),
    ...linkMarks(usage),
    ...alertMarks(usage, alerts),
  ]
    .filter(({ at }) => at >= from && at <= to)
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
