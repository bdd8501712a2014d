import type { FindingCode, Severity } from '../findings/index.ts';
import { shareOfLimitEach } from '../measures/index.ts';
import type { Condition, RuleLevel } from './conditions.ts';

/** A rule to begin with: what it tells, and what it is set to before anybody has rehearsed it. */
export interface StarterRule {
  readonly title: string;
  /** What it is about, as the list groups them. */
  readonly about: 'nodes' | 'workloads' | 'containers' | 'volumes and quotas' | 'jobs' | 'sources';
  readonly when: Condition;
  readonly levels: Readonly<Record<Severity, RuleLevel | null>>;
  readonly clears: { readonly bound: number | null; readonly low: number | null; readonly afterSeconds: number };
  readonly note: string;
}

const MINUTES = 60;
const level = (bound: number | null, minutes: number): RuleLevel => ({
  bound,
  low: null,
  holdsSeconds: minutes * MINUTES,
  readings: null,
});
const clears = (bound: number | null, minutes: number) => ({ bound, low: null, afterSeconds: minutes * MINUTES });
/** Each thing that is found, as grave as it is found to be. */
const found = (
  title: string,
  about: StarterRule['about'],
  codes: readonly FindingCode[],
  { minutes = 2, note = '' }: { readonly minutes?: number; readonly note?: string } = {},
): StarterRule => ({
  title,
  about,
  when: { is: 'finding', codes },
  levels: { warning: level(null, minutes), critical: level(null, minutes) },
  clears: clears(null, 5),
  note,
});
const measured = (
  title: string,
  about: StarterRule['about'],
  text: string,
  {
    warning,
    critical,
    over,
    minutes = 5,
    note = '',
  }: {
    readonly warning: number | null;
    readonly critical: number | null;
    readonly over: number | null;
    readonly minutes?: number;
    readonly note?: string;
  },
): StarterRule => ({
  title,
  about,
  when: { is: 'measure', text, compare: 'above' },
  levels: {
    warning: warning === null ? null : level(warning, minutes),
    critical: critical === null ? null : level(critical, minutes),
  },
  clears: clears(over, 5),
  note,
});

const NODE_CPU = `use = read vital node.cpu.time
  per second over 5m
  total for each cluster, k8s_node_name
limit = read vital node.cpu.allocatable
  total for each cluster, k8s_node_name
show use / limit as percent
`;
const NODE_MEMORY = `use = read vital node.memory.working_set
  total for each cluster, k8s_node_name
limit = read vital node.memory.allocatable
  total for each cluster, k8s_node_name
show use / limit as percent
`;
const RESTARTS = `read vital container.restarts
  treat as counter
  growth over 24h
  add labels workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
`;
const THROTTLED = `held = read vital container.cpu.throttled
  per second over 5m
  add labels workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
used = read vital container.cpu.time
  per second over 5m
  add labels workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
show held / used
`;
const WORKLOAD_CPU = `read vital container.cpu.time
  per second over 5m
  add labels workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
`;
const VOLUMES = `used = read vital volume.usage
size = read vital volume.capacity
show used / size as percent
`;

/** About twenty, for what every shared cluster has. */
export const STARTER_RULES: readonly StarterRule[] = [
  found('a node is lost or not ready', 'nodes', ['nodeNotReady', 'unknown'], {
    note: 'One alert at the node: it names the workloads that fail because of it.',
  }),
  found('a node is under pressure or has a problem', 'nodes', ['nodePressure', 'nodeProblem', 'nodeEntries']),
  found('the clock of a node is off', 'nodes', ['clockSkew'], { minutes: 10 }),
  measured('CPU of a node near what it can give', 'nodes', NODE_CPU, {
    warning: 0.85,
    critical: 0.95,
    over: 0.8,
    minutes: 15,
  }),
  measured('memory of a node near what it can give', 'nodes', NODE_MEMORY, {
    warning: 0.85,
    critical: 0.95,
    over: 0.8,
  }),
  found('a rollout does not get on', 'workloads', ['rolloutStuck', 'cannotCreate']),
  found('pods cannot be placed', 'workloads', ['cannotBePlaced']),
  found('images, volumes or settings are missing', 'workloads', [
    'imageNotPulled',
    'cannotMount',
    'cannotSetUp',
    'cannotStart',
  ]),
  found('more answers fail than usual, or they are slower', 'workloads', ['failsMore', 'slower'], { minutes: 5 }),
  found('one pod gets far more than its part of what is asked', 'workloads', ['unevenSpread'], { minutes: 15 }),
  found(
    'a link between workloads is in trouble',
    'workloads',
    ['linkRefused', 'linkSilent', 'linkFailing', 'linkSlow', 'linkFlooded'],
    { note: 'One alert a cause, at the side that it most likely comes from; what comes of it is inside.' },
  ),
  found('an autoscaler is at its most, or blind', 'workloads', ['atMost', 'figureNotRead'], { minutes: 15 }),
  found('pods were pushed out', 'workloads', ['evicted', 'preempted'], { minutes: 0 }),
  found('a container keeps ending', 'containers', ['keepsRestarting', 'outOfMemory', 'killedByCheck', 'startUpFailed']),
  measured('restarts of a workload in 24 h', 'containers', RESTARTS, {
    warning: 2,
    critical: 19,
    over: null,
    minutes: 0,
    note: 'Counted from the counters: 3 restarts in 24 h warn, 20 are critical.',
  }),
  measured('memory of a container near its limit, two levels', 'containers', shareOfLimitEach('memory'), {
    warning: 0.9,
    critical: 0.97,
    over: 0.85,
  }),
  measured('CPU of a container at its limit', 'containers', shareOfLimitEach('cpu'), {
    warning: 0.95,
    critical: null,
    over: 0.9,
    minutes: 15,
  }),
  measured('a workload is held back more than it runs', 'containers', THROTTLED, {
    warning: 1,
    critical: null,
    over: 0.5,
    minutes: 15,
  }),
  measured('a volume is nearly full', 'volumes and quotas', VOLUMES, { warning: 0.85, critical: 0.95, over: 0.8 }),
  {
    title: 'a volume is full within a day, as it goes',
    about: 'volumes and quotas',
    when: { is: 'running out', text: VOLUMES, reaches: '100%', fromSeconds: 6 * 60 * MINUTES },
    levels: { warning: level(24 * 60 * MINUTES, 15), critical: level(4 * 60 * MINUTES, 15) },
    clears: clears(36 * 60 * MINUTES, 15),
    note: 'The robust line through the last 6 h, the same as under Usage; what falls or stands still is not told.',
  },
  found('a volume fills up, or has no entries left', 'volumes and quotas', ['volumeFilling', 'volumeEntries']),
  found('a quota is spent, or a claim is not bound', 'volumes and quotas', ['quotaSpent', 'claimNotBound'], {
    minutes: 5,
  }),
  found('runs fail, are missed or overlap', 'jobs', ['jobFailed', 'runsFail', 'runsMissed', 'runsOverlap'], {
    minutes: 0,
  }),
  {
    title: 'CPU of a workload departs from what is usual at this hour',
    about: 'workloads',
    when: { is: 'unusual', text: WORKLOAD_CPU, side: 'either', days: 14, quiet: null },
    levels: { warning: level(3, 15), critical: null },
    clears: clears(2, 15),
    note: 'In bands: 1 is where one in ten of the same hours lies beyond. It needs four days of the same kind.',
  },
  {
    title: 'a deployment, quota or claim is removed',
    about: 'workloads',
    when: {
      is: 'object change',
      changes: ['removed'],
      kinds: ['deployment', 'stateful set', 'daemon set', 'quota', 'volume claim', 'service'],
      standsSeconds: 60 * MINUTES,
    },
    levels: { warning: level(null, 0), critical: null },
    clears: clears(null, 0),
    note: 'Each stands for an hour, or until it is made anew.',
  },
  {
    title: 'Zetopsis itself is not well',
    about: 'sources',
    when: { is: 'itself' },
    levels: { warning: level(null, 2), critical: level(null, 0) },
    clears: clears(null, 5),
    note: 'Nobody owns Zetopsis: say whom it tells.',
  },
  {
    title: 'a cluster, endpoint or sender is silent',
    about: 'sources',
    when: { is: 'not read' },
    levels: { warning: level(null, 5), critical: level(null, 2) },
    clears: clears(null, 2),
    note: 'One alert for each cause: critical where a cluster is silent, a warning of pages. No team owns a source: say whom it tells.',
  },
];
