import { describe, expect, it } from 'vitest';
import { type NodeObject, type PodObject, readObject, type WorkloadObject } from '../inventory/index.ts';
import { fewerReadySince, nodeFindings, podFindings, workloadFindings, worstSeverity } from './index.ts';

const NOW = Date.parse('2026-11-25T12:00:00Z');
const ago = (minutes: number) => new Date(NOW - minutes * 60_000).toISOString();

interface PodPlan {
  readonly name?: string;
  readonly state?: object;
  readonly last?: object;
  readonly ready?: boolean;
  readonly since?: number;
  readonly phase?: string;
  readonly more?: object;
  readonly node?: string | null;
  readonly conditions?: object[];
}
function pod({
  name = 'p',
  state = { running: { startedAt: ago(60) } },
  last = {},
  ready = true,
  since = 60,
  phase = 'Running',
  more = {},
  node = 'n',
  conditions = [],
}: PodPlan): PodObject {
  return readObject('pod', {
    metadata: { name, namespace: 'ns', uid: `uid-${name}`, creationTimestamp: ago(since) },
    spec: {
      ...(node === null ? {} : { nodeName: node }),
      containers: [{ name: 'main', image: 'r/checker:2.9.l', resources: { limits: { memory: '2Gi' } } }],
    },
    status: {
      phase,
      conditions: [
        {
          type: 'Ready',
          status: ready ? 'True' : 'False',
          lastTransitionTime: ago(since),
          message: 'containers with unready status: [main]',
        },
        ...conditions,
      ],
      containerStatuses: [{ name: 'main', ready, restartCount: 4, state, lastState: last }],
      ...more,
    },
  }) as PodObject;
}
const deployment = (
  desired: number,
  ready: number,
  more: { present?: number; updated?: number; stuck?: boolean } = {},
): WorkloadObject =>
  readObject('deployment', {
    metadata: { name: 'checker', namespace: 'ns', uid: 'uid-d', creationTimestamp: ago(9999) },
    spec: { replicas: desired },
    status: {
      replicas: more.present ?? desired,
      readyReplicas: ready,
      updatedReplicas: more.updated ?? desired,
      conditions: more.stuck
        ? [{ type: 'Progressing', status: 'False', reason: 'ProgressDeadlineExceeded', lastTransitionTime: ago(40) }]
        : [],
    },
  }) as WorkloadObject;

const IMAGE = {
  waiting: { reason: 'ImagePullBackOff', message: 'Back-off pulling image "r/checker:2.9.l": not found' },
};
const memoryEnd = (minutes: number) => ({
  terminated: { exitCode: 137, reason: 'OOMKilled', finishedAt: ago(minutes) },
});

describe('pods', () => {
  const cases: [string, PodPlan, string[]][] = [
    ['a healthy pod has none', {}, []],
    ['image not there', { state: IMAGE, ready: false, since: 50, phase: 'Pending' }, ['imageNotPulled']],
    [
      'keeps restarting',
      {
        state: { waiting: { reason: 'CrashLoopBackOff' } },
        last: { terminated: { exitCode: 3, finishedAt: ago(2) } },
        ready: false,
      },
      ['keepsRestarting'],
    ],
    [
      'keeps running out of memory',
      { state: { waiting: { reason: 'CrashLoopBackOff' } }, last: memoryEnd(2), ready: false },
      ['outOfMemory'],
    ],
    ['ran out of memory and runs again', { last: memoryEnd(20) }, ['outOfMemory']],
    ['ran out of memory and does not run yet', { state: memoryEnd(1), ready: false, since: 1 }, ['outOfMemory']],
    ['an end long ago is history', { last: memoryEnd(600) }, []],
    ['a clean end is none', { last: { terminated: { exitCode: 0, finishedAt: ago(5) } } }, []],
    [
      'settings missing',
      { state: { waiting: { reason: 'CreateContainerConfigError', message: 'no such secret' } }, ready: false },
      ['cannotStart'],
    ],
    ['not ready after its grace', { ready: false, since: 10 }, ['notReady']],
    ['not ready yet', { ready: false, since: 1 }, []],
    [
      'no node takes it',
      {
        node: null,
        ready: false,
        phase: 'Pending',
        state: {},
        conditions: [
          {
            type: 'PodScheduled',
            status: 'False',
            reason: 'Unschedulable',
            message: '0 of 14 nodes',
            lastTransitionTime: ago(9),
          },
        ],
      },
      ['cannotBePlaced'],
    ],
    [
      'evicted',
      { phase: 'Failed', ready: false, more: { reason: 'Evicted', message: 'node was low on memory' } },
      ['evicted'],
    ],
    ['done', { phase: 'Succeeded', ready: false }, []],
    ['nobody knows', { phase: 'Unknown', ready: false }, ['unknown']],
  ];
  it.each(cases)('%s', (_name, plan, codes) => {
    const found = podFindings(pod(plan), NOW);
    expect(found.map(({ code }) => code)).toEqual(codes);
    for (const finding of found) {
      expect(finding.reason).not.toBe('');
      expect(finding.nextStep).not.toBe('');
      expect(finding.since).not.toBeNull();
    }
  });
});

it('a pod that is not ready while its containers are points to its node', () => {
  const lost = pod({ ready: false, since: 10 });
  const [finding] = podFindings(
    { ...lost, containers: lost.containers.map((container) => ({ ...container, ready: true })) },
    NOW,
  );
  expect(finding).toMatchObject({ code: 'notReady', nextStep: 'Look at the node.' });
  expect(finding?.reason).toContain('its node may have stopped reporting');
});

describe('workloads', () => {
  const old = ['a', 'b', 'c'].map((name) => pod({ name }));
  const fresh = ['x', 'y'].map((name) => pod({ name, state: IMAGE, ready: false, since: 50, phase: 'Pending' }));
  it('name the cause, what still serves, and since when', () => {
    const [finding, ...rest] = workloadFindings({
      workload: deployment(5, 3, { updated: 2, stuck: true }),
      pods: [...old, ...fresh],
      now: NOW,
    });
    expect(finding).toMatchObject({ code: 'rolloutStuck', severity: 'critical', since: NOW - 50 * 60_000 });
    expect(finding?.reason).toBe(
      '2 of 5 pods are not ready and the rollout does not go on: image r/checker:2.9.l of container main cannot be pulled: the registry does not know it. The 3 old pods still serve.',
    );
    expect(finding?.evidence).toContain('not found');
    expect(rest).toEqual([]);
  });
  it('are fine when enough are ready', () => {
    expect(workloadFindings({ workload: deployment(3, 3), pods: old, now: NOW })).toEqual([]);
  });
  it('without pods have no proven beginning but a finding', () => {
    const [finding] = workloadFindings({ workload: deployment(2, 0, { present: 0 }), pods: [], now: NOW });
    expect(finding).toMatchObject({ code: 'fewerReady', severity: 'critical', since: null });
  });
  it('prove since when it began: with the first that had to be there and was not', () => {
    expect(fewerReadySince(deployment(5, 3), [...old, ...fresh])).toBe(NOW - 50 * 60_000);
    expect(fewerReadySince(deployment(5, 5), old)).toBeNull();
    // pods that are counted and not there, and pods that were never made
    expect(fewerReadySince(deployment(5, 3, { present: 7 }), [...old, ...fresh])).toBeNull();
    expect(fewerReadySince(deployment(9, 3, { present: 5 }), [...old, ...fresh])).toBeNull();
    const later = pod({ name: 'z', state: IMAGE, ready: false, since: 5 });
    expect(fewerReadySince(deployment(5, 3), [...old, fresh[0]!, later])).toBe(NOW - 50 * 60_000);
    // one more than desired could stand in for the first
    expect(fewerReadySince(deployment(4, 3), [...old, fresh[0]!, later])).toBe(NOW - 5 * 60_000);
  });
});

it('nodes tell trouble and pressure, and silence is unknown', () => {
  const node = (conditions: object[]) =>
    readObject('node', { metadata: { name: 'n', uid: 'u' }, status: { conditions } }) as NodeObject;
  expect(nodeFindings(node([{ type: 'Ready', status: 'True' }]))).toEqual([]);
  const found = nodeFindings(
    node([
      { type: 'MemoryPressure', status: 'True' },
      { type: 'Ready', status: 'Unknown' },
    ]),
  );
  expect(found.map(({ code }) => code)).toEqual(['unknown', 'nodePressure']);
  expect(worstSeverity(found)).toBe('critical');
  expect(worstSeverity([])).toBeNull();
});
