import { describe, expect, it } from 'vitest';
import { type InventoryKind, type InventoryObject, readObject } from '../inventory/index.ts';
import { NAME_SERVICE_LABELS } from '../inventory/wire-names.ts';
import {
  apiFindings,
  askingFindings,
  autoscalerFindings,
  budgetFindings,
  causedByNodes,
  claimFindings,
  cronJobFindings,
  type Finding,
  jobFindings,
  nameServiceFindings,
  nodeFindings,
  podFindings,
  quotaFindings,
  roomsOf,
  volumeFindings,
  whyNot,
  workloadFindings,
} from './index.ts';

const NOW = Date.parse('2026-11-25T12:00:00Z');
const ago = (minutes: number) => new Date(NOW - minutes * 60_000).toISOString();
const MINUTE = 60_000;
const GIB = 2 ** 30;

/** An object as a cluster's API gives it. */
function read<K extends InventoryKind>(kind: K, name: string, rest: object = {}, more: object = {}) {
  return readObject(kind, {
    metadata: { name, namespace: 'tides', uid: `uid-${name}`, creationTimestamp: ago(600), ...more },
    ...rest,
  }) as Extract<InventoryObject, { kind: K }>; // read by its kind
}
const condition = (type: string, status: string, more: object = {}) => ({
  type,
  status,
  lastTransitionTime: ago(10),
  ...more,
});
interface ContainerPlan {
  readonly spec?: object;
  readonly status?: object;
}
function pod(name: string, { spec = {}, status = {}, containers = [{}] as ContainerPlan[] } = {}) {
  return read('pod', name, {
    spec: {
      nodeName: 'n1',
      containers: containers.map((own, i) => ({ name: `c${i}`, image: 'r/tide:1', ...own.spec })),
      ...spec,
    },
    status: {
      phase: 'Running',
      conditions: [condition('Ready', 'False')],
      containerStatuses: containers.map((own, i) => ({
        name: `c${i}`,
        ready: false,
        restartCount: 0,
        state: { running: { startedAt: ago(20) } },
        ...own.status,
      })),
      ...status,
    },
  });
}
const ended = (code: number, more: object = {}) => ({ terminated: { exitCode: code, finishedAt: ago(3), ...more } });
const waiting = (reason: string, message = '') => ({ waiting: { reason, message } });
const unplaced = (spec: object = {}) =>
  pod('lone', {
    spec: { nodeName: undefined, ...spec },
    containers: [{ spec: { resources: { requests: { cpu: '2', memory: '4Gi' } } }, status: { state: {} } }],
    status: {
      phase: 'Pending',
      conditions: [condition('PodScheduled', 'False', { reason: 'Unschedulable', message: '0/4 nodes' })],
      containerStatuses: [],
    },
  });
function node(name: string, rest: { spec?: object; status?: object; labels?: object } = {}) {
  return read(
    'node',
    name,
    {
      spec: rest.spec ?? {},
      status: {
        allocatable: { cpu: '4', memory: '16Gi', pods: '10' },
        conditions: [condition('Ready', 'True')],
        ...rest.status,
      },
    },
    { namespace: undefined, labels: rest.labels ?? {} },
  );
}
const deployment = (desired: number, status: object, more: object = {}) =>
  read('deployment', 'tide-model', { spec: { replicas: desired }, status }, more);
const run = (name: string, minutes: number, status: object) =>
  read('job', name, { spec: {}, status: { startTime: ago(minutes), ...status } }, { creationTimestamp: ago(minutes) });
const cron = (status: object, spec: object = {}) =>
  read('cron job', 'nightly', { spec: { schedule: '0 * * * *', ...spec }, status });

const full = node('full');
const onFull = pod('big', {
  spec: { nodeName: 'full' },
  containers: [{ spec: { resources: { requests: { cpu: '3500m', memory: '15Gi' } } } }],
  status: { conditions: [condition('Ready', 'True')] },
});
const rooms =
  (nodes = [full]) =>
  () =>
    roomsOf(nodes, [onFull]);

/** What stands there, which findings are wanted in their order, and words that one of them says. */
const FIXTURES: [name: string, found: () => Finding[], codes: Finding['code'][], words?: RegExp][] = [
  [
    'a pod without trouble',
    () => podFindings(pod('p', { status: { conditions: [condition('Ready', 'True')] } }), NOW),
    [],
  ],
  [
    'an image that is not there',
    () => podFindings(pod('p', { containers: [{ status: { state: waiting('ImagePullBackOff', 'not found') } }] }), NOW),
    ['imageNotPulled'],
    /r\/tide:1/,
  ],
  [
    'an image’s name that cannot be',
    () => podFindings(pod('p', { containers: [{ status: { state: waiting('InvalidImageName') } }] }), NOW),
    ['imageNotPulled'],
  ],
  [
    'a program that ends with a code',
    () =>
      podFindings(
        pod('p', {
          containers: [{ status: { state: waiting('CrashLoopBackOff'), lastState: ended(3), restartCount: 6 } }],
        }),
        NOW,
      ),
    ['keepsRestarting'],
    /code 3, 6 times/,
  ],
  [
    'a program that a signal ends',
    () =>
      podFindings(
        pod('p', {
          containers: [
            { status: { state: waiting('CrashLoopBackOff'), lastState: ended(139, { signal: 11 }), restartCount: 2 } },
          ],
        }),
        NOW,
      ),
    ['keepsRestarting'],
    /signal 11/,
  ],
  [
    'out of memory again and again',
    () =>
      podFindings(
        pod('p', {
          containers: [
            { status: { state: waiting('CrashLoopBackOff'), lastState: ended(137, { reason: 'OOMKilled' }) } },
          ],
        }),
        NOW,
      ),
    ['outOfMemory'],
    /out of memory/,
  ],
  [
    'last lines that the container left',
    () =>
      podFindings(
        pod('p', {
          containers: [
            { status: { state: waiting('CrashLoopBackOff'), lastState: ended(1, { message: 'no such gauge' }) } },
          ],
        }),
        NOW,
      ),
    ['keepsRestarting'],
    /no such gauge/,
  ],
  [
    'a start-up container that fails',
    () =>
      podFindings(
        pod('p', {
          spec: { initContainers: [{ name: 'fetch', image: 'r/fetch:1' }] },
          status: { phase: 'Pending', initContainerStatuses: [{ name: 'fetch', state: ended(2) }] },
          containers: [{ status: { state: waiting('PodInitializing') } }],
        }),
        NOW,
      ),
    ['startUpFailed'],
    /fetch ended with code 2/,
  ],
  [
    'settings that do not exist',
    () =>
      podFindings(
        pod('p', {
          containers: [{ status: { state: waiting('CreateContainerConfigError', 'secret "key" not found') } }],
        }),
        NOW,
      ),
    ['cannotStart'],
    /secret "key"/,
  ],
  [
    'a ready check that is not passed, named',
    () =>
      podFindings(
        pod('p', {
          containers: [{ spec: { readinessProbe: { httpGet: { path: '/ready', port: 8080 }, periodSeconds: 5 } } }],
        }),
        NOW,
      ),
    ['notReady'],
    /ready check \(GET \/ready at port 8080, every 5 s\)/,
  ],
  [
    'a start check that is not passed, named',
    () =>
      podFindings(
        pod('p', {
          containers: [{ spec: { startupProbe: { tcpSocket: { port: 'http' } } }, status: { started: false } }],
        }),
        NOW,
      ),
    ['notReady'],
    /start check \(a connection to port http/,
  ],
  [
    'a command as check: its arguments stay untold',
    () =>
      podFindings(
        pod('p', { containers: [{ spec: { readinessProbe: { exec: { command: ['/check', '--password=x'] } } } }] }),
        NOW,
      ),
    ['notReady'],
    /the command \/check, /,
  ],
  [
    'two containers, two causes',
    () =>
      podFindings(
        pod('p', {
          containers: [
            { status: { state: waiting('ImagePullBackOff') } },
            { status: { state: waiting('CrashLoopBackOff'), lastState: ended(1) } },
          ],
        }),
        NOW,
      ),
    ['imageNotPulled', 'keepsRestarting'],
  ],
  [
    'a failing one beside one that ran out of memory',
    () =>
      podFindings(
        pod('p', {
          containers: [
            { status: { state: waiting('CreateContainerError') } },
            { status: { lastState: ended(137, { reason: 'OOMKilled' }) } },
          ],
        }),
        NOW,
      ),
    ['cannotStart', 'outOfMemory'],
  ],
  [
    'a node that is silent about it',
    () => podFindings(pod('p', { status: { phase: 'Unknown' } }), NOW),
    ['unknown'],
    /unknown/,
  ],
  [
    'evicted',
    () => podFindings(pod('p', { status: { phase: 'Failed', reason: 'Evicted', message: 'low on memory' } }), NOW),
    ['evicted'],
    /low on memory/,
  ],
  [
    'failed for good',
    () => podFindings(pod('p', { status: { phase: 'Failed', reason: 'DeadlineExceeded' } }), NOW),
    ['failed'],
  ],
  [
    'no room: CPU',
    () => podFindings(unplaced(), NOW, { rooms: rooms() }),
    ['cannotBePlaced'],
    /1 of 1 node has too little CPU left to ask for \(2\.00 cores asked\).*0\.50 cores/,
  ],
  [
    'no room: memory',
    () =>
      podFindings(unplaced(), NOW, {
        rooms: rooms([node('full', { status: { allocatable: { cpu: '40', memory: '16Gi', pods: '10' } } })]),
      }),
    ['cannotBePlaced'],
    /too little memory/,
  ],
  [
    'no room: slots',
    () =>
      podFindings(unplaced(), NOW, {
        rooms: rooms([node('full', { status: { allocatable: { cpu: '40', memory: '160Gi', pods: '1' } } })]),
      }),
    ['cannotBePlaced'],
    /no pod slot left/,
  ],
  [
    'nowhere: labels',
    () =>
      podFindings(unplaced({ nodeSelector: { shore: 'north' } }), NOW, {
        rooms: rooms([node('a', { labels: { shore: 'south' } })]),
      }),
    ['cannotBePlaced'],
    /not labelled shore north/,
  ],
  [
    'nowhere: kept for others, and tolerated',
    () =>
      podFindings(unplaced({ tolerations: [{ key: 'lamp', operator: 'Exists' }] }), NOW, {
        rooms: rooms([
          node('a', { spec: { taints: [{ key: 'crane', value: 'east', effect: 'NoSchedule' }] } }),
          node('b', {
            spec: { taints: [{ key: 'lamp', effect: 'NoSchedule' }] },
            status: { allocatable: { cpu: '1' } },
          }),
        ]),
      }),
    ['cannotBePlaced'],
    /kept for others \(crane east\) \(a\); 1 has too little CPU/,
  ],
  [
    'nowhere: one is not ready, one takes none',
    () =>
      podFindings(unplaced(), NOW, {
        rooms: rooms([
          node('a', { status: { conditions: [condition('Ready', 'False')] } }),
          node('b', { spec: { unschedulable: true } }),
        ]),
      }),
    ['cannotBePlaced'],
    /is not ready \(a\).*takes no new pods \(b\)/,
  ],
  [
    'nowhere, and nothing known keeps it off',
    () => podFindings(unplaced(), NOW, { rooms: rooms([node('a')]) }),
    ['cannotBePlaced'],
    /^(?!.*nothing known).*0\/4 nodes/s,
  ],
  [
    'fewer ready than wanted, the cause named',
    () =>
      workloadFindings({
        workload: deployment(2, { replicas: 2, readyReplicas: 1, updatedReplicas: 2 }),
        pods: [pod('p', { containers: [{ status: { state: waiting('ImagePullBackOff') } }] })],
        now: NOW,
      }),
    ['fewerReady'],
    /1 of 2 pods is not ready: image/,
  ],
  [
    'a rollout that is stuck',
    () =>
      workloadFindings({
        workload: deployment(2, {
          replicas: 2,
          readyReplicas: 1,
          updatedReplicas: 1,
          conditions: [condition('Progressing', 'False', { reason: 'ProgressDeadlineExceeded' })],
        }),
        pods: [pod('p')],
        now: NOW,
      }),
    ['rolloutStuck'],
    /does not go on/,
  ],
  [
    'pods that a quota refuses',
    () =>
      workloadFindings({
        workload: deployment(3, {
          replicas: 1,
          readyReplicas: 1,
          conditions: [condition('ReplicaFailure', 'True', { message: 'exceeded quota: cpu' })],
        }),
        pods: [],
        now: NOW,
      }),
    ['cannotCreate'],
    /quota of tides is spent/,
  ],
  [
    'pods that something else refuses',
    () =>
      workloadFindings({
        workload: deployment(3, {
          replicas: 1,
          readyReplicas: 1,
          conditions: [condition('ReplicaFailure', 'True', { message: 'admission denied' })],
        }),
        pods: [],
        now: NOW,
      }),
    ['cannotCreate'],
    /the cluster refuses/,
  ],
  [
    'two causes in one workload',
    () =>
      workloadFindings({
        workload: deployment(2, { replicas: 2, readyReplicas: 0, updatedReplicas: 2 }),
        pods: [
          pod('p', { containers: [{ status: { state: waiting('ImagePullBackOff') } }] }),
          pod('q', { containers: [{ status: { state: waiting('CrashLoopBackOff'), lastState: ended(1) } }] }),
        ],
        now: NOW,
      }),
    ['fewerReady', 'keepsRestarting'],
  ],
  [
    'a paused one waits on purpose',
    () =>
      workloadFindings({
        workload: read('deployment', 'd', { spec: { replicas: 2, paused: true }, status: { replicas: 1 } }),
        pods: [],
        now: NOW,
      }),
    [],
  ],
  [
    'a job that failed',
    () =>
      jobFindings(
        {
          job: run('j', 30, {
            failed: 2,
            conditions: [condition('Failed', 'True', { reason: 'BackoffLimitExceeded' })],
          }),
          pods: [pod('p', { status: { phase: 'Failed' }, containers: [{ status: { state: ended(7) } }] })],
        },
        NOW,
      ),
    ['jobFailed'],
    /after 2 tries: container c0 ended with code 7/,
  ],
  [
    'a job that waits for an image',
    () =>
      jobFindings(
        {
          job: run('j', 30, { active: 1 }),
          pods: [
            pod('p', { status: { phase: 'Pending' }, containers: [{ status: { state: waiting('ErrImagePull') } }] }),
          ],
        },
        NOW,
      ),
    ['imageNotPulled'],
  ],
  [
    'runs that fail one after the other',
    () =>
      cronJobFindings(
        ['a', 'b'].map((name, i) => ({
          job: run(name, 30 + i, { failed: 1, conditions: [condition('Failed', 'True')] }),
          pods: [],
        })),
        NOW,
      ),
    ['runsFail'],
    /last 2 runs failed/,
  ],
  [
    'a run that did not begin',
    () => cronJobFindings([], NOW, { cron: cron({ lastScheduleTime: ago(120) }), due: NOW - 60 * MINUTE }),
    ['runsMissed'],
    /has not begun\./,
  ],
  [
    'a run that waits for the one before',
    () =>
      cronJobFindings([{ job: run('a', 70, { active: 1 }), pods: [] }], NOW, {
        cron: cron({ lastScheduleTime: ago(70) }),
        due: NOW - 10 * MINUTE,
      }),
    ['runsMissed'],
    /the one before still goes on/,
  ],
  [
    'runs beside each other',
    () =>
      cronJobFindings(
        ['a', 'b'].map((name, i) => ({ job: run(name, 30 + i * 60, { active: 1 }), pods: [] })),
        NOW,
      ),
    ['runsOverlap'],
    /2 of its runs go on at once/,
  ],
  [
    'a suspended schedule misses nothing',
    () => cronJobFindings([], NOW, { cron: cron({}, { suspend: true }), due: NOW - 60 * MINUTE }),
    [],
  ],
  ['a run that is only just due', () => cronJobFindings([], NOW, { cron: cron({}), due: NOW - MINUTE }), []],
  ['a node without trouble', () => nodeFindings(node('n')), []],
  [
    'a node that has few file entries left, and says it is short of disk',
    () =>
      nodeFindings(node('n', { status: { conditions: [condition('DiskPressure', 'True')] } }), {
        entries: { used: 950, count: 1000 },
        skew: null,
      }),
    ['nodePressure', 'nodeEntries'],
    /95 % of its file entries/,
  ],
  [
    'a node with room for files',
    () => nodeFindings(node('n'), { entries: { used: 850, count: 1000 }, skew: 4000 }),
    [],
  ],
  [
    'a node whose clock is ahead',
    () => nodeFindings(node('n'), { entries: { used: null, count: null }, skew: 90_000 }),
    ['clockSkew'],
    /clock is 90 s ahead/,
  ],
  [
    'a node whose clock is behind',
    () => nodeFindings(node('n'), { entries: { used: null, count: null }, skew: -3_600_000 }),
    ['clockSkew'],
    /clock is 1 h behind/,
  ],
  [
    'a page that tells what was measured a minute ago',
    () => nodeFindings(node('n'), { entries: { used: null, count: null }, skew: -60_000 }),
    [],
  ],
  [
    'a node that is not ready',
    () =>
      nodeFindings(
        node('n', { status: { conditions: [condition('Ready', 'False', { message: 'runtime is down' })] } }),
      ),
    ['nodeNotReady'],
    /runtime is down/,
  ],
  [
    'a node that is silent',
    () => nodeFindings(node('n', { status: { conditions: [condition('Ready', 'Unknown')] } })),
    ['unknown'],
  ],
  [
    'a node short of processes and disk at once',
    () =>
      nodeFindings(
        node('n', { status: { conditions: [condition('DiskPressure', 'True'), condition('PIDPressure', 'True')] } }),
      ),
    ['nodePressure', 'nodePressure'],
    /process numbers/,
  ],
  [
    'a disk that can only be read',
    () =>
      nodeFindings(
        node('n', { status: { conditions: [condition('ReadonlyFilesystem', 'True', { message: 'remounted' })] } }),
      ),
    ['nodeProblem'],
    /trouble with its disk: readonly filesystem/,
  ],
  [
    'few inodes',
    () => nodeFindings(node('n', { status: { conditions: [condition('InodesLow', 'True')] } })),
    ['nodeProblem'],
    /its disk: inodes low/,
  ],
  [
    'a node without network',
    () => nodeFindings(node('n', { status: { conditions: [condition('NetworkUnavailable', 'True')] } })),
    ['nodeProblem'],
    /reach nobody/,
  ],
  [
    'something that a program on the node reports',
    () => nodeFindings(node('n', { status: { conditions: [condition('FrequentRuntimeRestart', 'True')] } })),
    ['nodeProblem'],
    /frequent runtime restart/,
  ],
  ['a slow API', () => apiFindings([1200, 1400, 2000], null), ['apiSlow'], /it takes 1\.?4? s/],
  ['one slow answer of an API', () => apiFindings([20, 3000, 30], null), []],
  ['an API that was asked too seldom to say', () => apiFindings([5000], null), []],
  [
    'a name service that is down',
    () =>
      nameServiceFindings(
        deployment(2, { readyReplicas: 0 }, { labels: Object.fromEntries(NAME_SERVICE_LABELS) }),
        NOW,
      ),
    ['nameServiceDown'],
    /is down/,
  ],
  [
    'a name service that is short',
    () =>
      nameServiceFindings(
        deployment(2, { readyReplicas: 1 }, { labels: Object.fromEntries(NAME_SERVICE_LABELS) }),
        NOW,
      ),
    ['nameServiceDown'],
    /1 of 2/,
  ],
  [
    'another workload that is down is no name service',
    () => nameServiceFindings(deployment(2, { readyReplicas: 0 }), NOW),
    [],
  ],
  [
    'a claim without a volume',
    () => claimFindings(read('volume claim', 'c', { spec: {}, status: { phase: 'Pending' } }), NOW),
    ['claimNotBound'],
  ],
  [
    'a claim whose volume is gone',
    () => claimFindings(read('volume claim', 'c', { spec: {}, status: { phase: 'Lost' } }), NOW),
    ['claimNotBound'],
    /is gone/,
  ],
  [
    'a volume that is nearly full',
    () => volumeFindings('archive', { use: 95, size: 100, fullIn: null }),
    ['volumeFilling'],
    /95 % full/,
  ],
  [
    'a volume that will be full',
    () => volumeFindings('archive', { use: 50, size: 100, fullIn: 4 * 86_400_000 }),
    ['volumeFilling'],
    /4 d/,
  ],
  [
    'a volume that fills and has hardly an entry left: two causes at once',
    () => volumeFindings('archive', { use: 95, size: 100, fullIn: null, entries: { used: 980, count: 1000 } }),
    ['volumeFilling', 'volumeEntries'],
    /98 % of its file entries/,
  ],
  [
    'a volume that takes no more files though it has space',
    () => volumeFindings('archive', { use: 5, size: 100, fullIn: null, entries: { used: 1000, count: 1000 } }),
    ['volumeEntries'],
    /takes no more files/,
  ],
  [
    'a volume whose entries are not read',
    () => volumeFindings('archive', { use: 5, size: 100, fullIn: null, entries: { used: null, count: 1000 } }),
    [],
  ],
  [
    'a quota nearly spent, and one spent',
    () =>
      quotaFindings(
        read('quota', 'q', {
          spec: { hard: { 'requests.cpu': '10', pods: '4' } },
          status: { hard: { 'requests.cpu': '10', pods: '4' }, used: { 'requests.cpu': '9600m', pods: '4' } },
        }),
      ),
    ['quotaSpent', 'quotaSpent'],
    /96 % of requests\.cpu/,
  ],
  [
    'an autoscaler at its most',
    () =>
      autoscalerFindings(
        read('autoscaler', 'a', {
          spec: { minReplicas: 1, maxReplicas: 4, scaleTargetRef: { kind: 'Deployment', name: 'd' } },
          status: {
            currentReplicas: 4,
            desiredReplicas: 4,
            conditions: [condition('ScalingLimited', 'True', { reason: 'TooManyReplicas' })],
          },
        }),
        NOW,
      ),
    ['atMost'],
  ],
  [
    'a budget that lets nobody go',
    () =>
      budgetFindings(
        read('disruption budget', 'b', {
          spec: { minAvailable: 2 },
          status: { currentHealthy: 2, desiredHealthy: 2, disruptionsAllowed: 0 },
        }),
        2,
      ),
    ['budgetBlocks'],
    /at least 2/,
  ],
  [
    'a budget that waits for a pod that is not well',
    () =>
      budgetFindings(
        read('disruption budget', 'b', {
          spec: { minAvailable: 2 },
          status: { currentHealthy: 2, desiredHealthy: 2, disruptionsAllowed: 0 },
        }),
        3,
      ),
    [],
  ],
  [
    'over-asking',
    () => askingFindings({ cpu: { request: 12, peak: 0.9 }, memory: { request: 4 * GIB, peak: GIB } }, 'cpu'),
    ['overAsking'],
    /asks for 12\.0 cores of CPU and uses 7\.5 % of it/,
  ],
  [
    'asking for a little more than is used',
    () => askingFindings({ cpu: { request: 3, peak: 0.1 }, memory: { request: 40 * GIB, peak: 20 * GIB } }, 'memory'),
    [],
  ],
  [
    'asking while nothing was read is not known',
    () => askingFindings({ cpu: { request: 12, peak: null }, memory: { request: null, peak: null } }, 'cpu'),
    [],
  ],
];

describe('findings of objects as a cluster gives them', () => {
  it.each(FIXTURES)('%s', (_name, found, codes, words) => {
    const findings = found();
    expect(findings.map(({ code }) => code)).toEqual(codes);
    for (const { reason, nextStep } of findings) {
      expect(reason).toMatch(/[.:]/);
      expect(nextStep).not.toBe('');
    }
    if (words) expect(findings.map(({ reason, evidence }) => `${reason} ${evidence}`).join(' | ')).toMatch(words);
  });
  it('a pod is asked for its place only when it has none', () => {
    let asked = 0;
    podFindings(pod('p'), NOW, {
      rooms: () => {
        asked++;
        return [];
      },
    });
    expect(asked).toBe(0);
  });
  it('a node with room takes the pod', () => {
    expect(whyNot(unplaced(), roomsOf([node('a')], [])[0]!)).toBeNull();
  });
});

describe('one cause, one entry', () => {
  const lost = node('lost', { status: { conditions: [condition('Ready', 'Unknown')] } });
  const away = (name: string, on: string) => pod(name, { spec: { nodeName: on } });
  it('forty pods of a lost node stand in its line', () => {
    const failing = Array.from({ length: 10 }, (_, i) => ({
      key: `tides/deployment:w${i}`,
      pods: Array.from({ length: 4 }, (__, n) => away(`w${i}-${n}`, 'lost')),
    }));
    const [cause, ...others] = causedByNodes([lost, node('well')], failing, (one) => nodeFindings(one)[0]);
    expect(others).toEqual([]);
    expect(cause!.explains.size).toBe(10);
    expect(cause!.finding.reason).toMatch(/40 pods of 10 workloads are not ready because of it/);
  });
  it('a workload that fails elsewhere, too, keeps its own entry', () => {
    const failing = [{ key: 'a', pods: [away('p', 'lost'), away('q', 'well')] }];
    const [cause] = causedByNodes([lost, node('well')], failing, (one) => nodeFindings(one)[0]);
    expect(cause!.explains.has('a')).toBe(false);
    expect(cause!.finding.reason).toMatch(/1 pod of 1 workload is not ready/);
  });
  it('without a lost node nothing is explained away', () => {
    expect(causedByNodes([node('well')], [{ key: 'a', pods: [away('p', 'well')] }], () => undefined)).toEqual([]);
  });
});
