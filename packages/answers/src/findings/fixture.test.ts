import { FIXTURE_LINES } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { type FixtureFinding, findingsOfFixture } from './index.ts';

const NOW = Date.parse('2026-11-25T12:00:00Z');
const ago = (minutes: number) => new Date(NOW - minutes * 60_000).toISOString();
type Json = Record<string, unknown>;

const object = (kind: string, name: string, rest: Json = {}, meta: Json = {}): Json => ({
  kind,
  metadata: { name, namespace: 'tides', uid: `uid-${kind}-${name}`, creationTimestamp: ago(600), ...meta },
  ...rest,
});
const condition = (type: string, status: string, more: Json = {}) => ({
  type,
  status,
  lastTransitionTime: ago(20),
  ...more,
});
const owned = (kind: string, name: string) => ({
  ownerReferences: [{ kind, name, uid: `uid-${kind}-${name}`, controller: true }],
});
interface PodPlan {
  readonly spec?: Json;
  readonly container?: Json;
  readonly status?: Json;
  readonly state?: Json;
  readonly meta?: Json;
  readonly initial?: { readonly spec: Json; readonly status: Json };
}
const pod = (name: string, { spec, container, status, state, meta, initial }: PodPlan = {}) =>
  object(
    'Pod',
    name,
    {
      spec: {
        nodeName: 'n1',
        containers: [{ name: 'main', image: 'r/tide:1', ...container }],
        ...(initial ? { initContainers: [initial.spec] } : {}),
        ...spec,
      },
      status: {
        phase: 'Running',
        conditions: [condition('Ready', 'False')],
        containerStatuses: [
          { name: 'main', ready: false, restartCount: 0, state: { running: { startedAt: ago(20) } }, ...state },
        ],
        ...(initial ? { initContainerStatuses: [initial.status] } : {}),
        ...status,
      },
    },
    meta,
  );
const ready = (name: string, meta: Json = {}) =>
  pod(name, { status: { conditions: [condition('Ready', 'True')] }, state: { ready: true }, meta });
const restarting = (exitCode: number, more: Json = {}, restartCount = 6) => ({
  state: { waiting: { reason: 'CrashLoopBackOff', message: 'back-off 5m0s restarting failed container' } },
  lastState: { terminated: { exitCode, finishedAt: ago(3), startedAt: ago(4), ...more } },
  restartCount,
});
const event = (about: Json, reason: string, message: string, more: Json = {}) => ({
  kind: 'Event',
  metadata: {
    name: `${reason}-${Math.abs(message.length)}`,
    namespace: 'tides',
    uid: `event-${reason}-${message.length}`,
  },
  involvedObject: {
    kind: about['kind'],
    name: (about['metadata'] as Json)['name'],
    namespace: 'tides',
    uid: (about['metadata'] as Json)['uid'],
  },
  type: 'Warning',
  reason,
  message,
  firstTimestamp: ago(18),
  lastTimestamp: ago(1),
  count: 9,
  ...more,
});
const deployment = (desired: number, status: Json, more: Json = {}) =>
  object('Deployment', 'model', { spec: { replicas: desired, ...more }, status });
const set = object(
  'ReplicaSet',
  'model-1',
  { spec: { replicas: 2 }, status: { replicas: 0 } },
  owned('Deployment', 'model'),
);
const unplaced = (message: string) =>
  pod('lone', {
    spec: { nodeName: undefined },
    status: {
      phase: 'Pending',
      containerStatuses: [],
      conditions: [condition('PodScheduled', 'False', { reason: 'Unschedulable', message })],
    },
  });
const beginning = pod('lone', {
  status: { phase: 'Pending' },
  state: { state: { waiting: { reason: 'ContainerCreating' } } },
});
const claim = (status: Json, spec: Json = {}) =>
  object('PersistentVolumeClaim', 'tables', {
    spec: { resources: { requests: { storage: '10Gi' } }, ...spec },
    status,
  });
const pending = claim({ phase: 'Pending' }, { storageClassName: 'quick' });
const scaler = (conditions: Json[], status: Json = {}) =>
  object('HorizontalPodAutoscaler', 'model', {
    spec: { maxReplicas: 6, scaleTargetRef: { kind: 'Deployment', name: 'model' } },
    status: { currentReplicas: 3, desiredReplicas: 3, conditions, ...status },
  });

interface Case {
  readonly name: string;
  readonly objects: Json[];
  readonly lines?: Json[];
  readonly usage?: Json[];
  /** `Kind/name code`, in any order; exactly these. */
  readonly found: string[];
  /** What one of them has to say. */
  readonly says?: RegExp;
}
const lone = (state: Json, more: PodPlan = {}): Json => pod('lone', { ...more, state });
const CASES: Case[] = [
  { name: 'a pod without an owner that is well', objects: [ready('lone')], found: [] },
  {
    name: 'a pod without an owner that keeps ending',
    objects: [lone(restarting(3))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /code 3, 6 times so far/,
  },
  {
    name: 'a pod of an owner of a kind that nobody here knows',
    objects: [pod('lamp-0', { state: restarting(1), meta: owned('LampRing', 'lamp') })],
    found: ['Pod/tides/lamp-0 keepsRestarting'],
  },
  {
    name: 'memory that is not its own',
    objects: [lone(restarting(139))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /code 139, signal 11 \(memory that is not its own\)/,
  },
  {
    name: 'asked to end, by nobody that is known',
    objects: [lone(restarting(143))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /signal 15 \(asked to end\)/,
  },
  {
    name: 'out of memory',
    objects: [lone(restarting(137, { reason: 'OOMKilled' }))],
    found: ['Pod/tides/lone outOfMemory'],
    says: /out of memory/,
  },
  {
    name: 'killed, and nobody says why',
    objects: [lone(restarting(137, { reason: 'Error' }))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /signal 9 \(killed\)/,
  },
  {
    name: 'killed by its check',
    objects: [
      lone(restarting(137, { reason: 'Error' }), {
        container: { livenessProbe: { httpGet: { path: '/alive', port: 8080 }, periodSeconds: 5 } },
      }),
      event(pod('lone'), 'Killing', 'Container main failed liveness probe, will be restarted'),
      event(
        pod('lone'),
        'Unhealthy',
        'Liveness probe failed: Get "http://10.0.0.1:8080/alive": context deadline exceeded',
      ),
    ],
    found: ['Pod/tides/lone killedByCheck'],
    says: /liveness check \(GET \/alive at port 8080, every 5 s\)[\s\S]*deadline exceeded \(said 9 times\)/,
  },
  {
    name: 'a program that is done, and is started again',
    objects: [lone(restarting(0))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /ending by itself with code 0/,
  },
  {
    name: 'a command that is not there',
    objects: [lone(restarting(127))],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /its command is not found/,
  },
  {
    name: 'last lines of what ended',
    objects: [lone(restarting(1))],
    lines: [{ pod: 'lone', container: 'main', previous: true, lines: ['begins', '', 'no such gauge: quay-4'] }],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /begins\nno such gauge: quay-4/,
  },
  {
    name: 'a start-up container that keeps ending',
    objects: [
      pod('lone', {
        status: { phase: 'Pending' },
        state: { state: { waiting: { reason: 'PodInitializing' } } },
        initial: {
          spec: { name: 'migrate', image: 'r/migrate:1' },
          status: { name: 'migrate', ready: false, ...restarting(2) },
        },
      }),
    ],
    found: ['Pod/tides/lone startUpFailed'],
    says: /Start-up container migrate keeps ending with code 2.*the pod cannot begin/,
  },
  {
    name: 'a helper that keeps ending',
    objects: [
      pod('lone', {
        initial: {
          spec: { name: 'relay', image: 'r/relay:1', restartPolicy: 'Always' },
          status: { name: 'relay', ready: false, ...restarting(2) },
        },
      }),
    ],
    found: ['Pod/tides/lone keepsRestarting'],
    says: /Helper container relay/,
  },
  {
    name: 'an image that the registry does not know',
    objects: [
      lone({ state: { waiting: { reason: 'ImagePullBackOff', message: 'Back-off pulling image "r/tide:1"' } } }),
      event(
        pod('lone'),
        'Failed',
        'Failed to pull image "r/tide:1": rpc error: code = NotFound desc = manifest unknown',
      ),
    ],
    found: ['Pod/tides/lone imageNotPulled'],
    says: /the registry does not know it[\s\S]*manifest unknown/,
  },
  {
    name: 'a registry that does not let the cluster in',
    objects: [
      lone({ state: { waiting: { reason: 'ErrImagePull', message: 'pull access denied, authorization failed' } } }),
    ],
    found: ['Pod/tides/lone imageNotPulled'],
    says: /does not let this cluster in[\s\S]*pull secret/,
  },
  {
    name: 'a registry that is not reached',
    objects: [
      lone({
        state: {
          waiting: { reason: 'ErrImagePull', message: 'dial tcp: lookup registry.skerrivale.test: no such host' },
        },
      }),
    ],
    found: ['Pod/tides/lone imageNotPulled'],
    says: /the registry is not reached/,
  },
  {
    name: 'settings that are not there',
    objects: [
      lone({ state: { waiting: { reason: 'CreateContainerConfigError', message: 'configmap "gauges" not found' } } }),
    ],
    found: ['Pod/tides/lone cannotStart'],
    says: /config map gauges does not exist/,
  },
  {
    name: 'a key that a secret lacks',
    objects: [
      lone({
        state: {
          waiting: { reason: 'CreateContainerConfigError', message: "couldn't find key token in Secret tides/relay" },
        },
      }),
    ],
    found: ['Pod/tides/lone cannotStart'],
    says: /secret tides\/relay has no key token/,
  },
  {
    name: 'a reason to wait that nobody here knows',
    objects: [lone({ state: { waiting: { reason: 'LampNotLit', message: 'the lamp is out' } } })],
    found: ['Pod/tides/lone cannotStart'],
    says: /LampNotLit[\s\S]*the lamp is out/,
  },
  {
    name: 'a young pod that is being made ready',
    objects: [
      pod('lone', {
        meta: { creationTimestamp: ago(0.5) },
        status: { phase: 'Pending', conditions: [condition('Ready', 'False', { lastTransitionTime: ago(0.5) })] },
        state: { state: { waiting: { reason: 'ContainerCreating' } } },
      }),
    ],
    found: [],
  },
  {
    name: 'a volume that is attached elsewhere',
    objects: [
      beginning,
      event(
        beginning,
        'FailedAttachVolume',
        'Multi-Attach error for volume "pv-1" Volume is already exclusively attached to one node',
      ),
    ],
    found: ['Pod/tides/lone cannotMount'],
    says: /attached to another node[\s\S]*Multi-Attach/,
  },
  {
    name: 'a config map that is to be mounted and is not there',
    objects: [
      beginning,
      event(beginning, 'FailedMount', 'MountVolume.SetUp failed for volume "own": configmap "gauges" not found'),
    ],
    found: ['Pod/tides/lone cannotMount'],
    says: /Config map gauges, which it mounts, does not exist/,
  },
  {
    name: 'a network that cannot be set up',
    objects: [beginning, event(beginning, 'FailedCreatePodSandBox', 'failed to set up pod network: no addresses left')],
    found: ['Pod/tides/lone cannotSetUp'],
    says: /Node n1 cannot set the pod up[\s\S]*no addresses left/,
  },
  {
    name: 'no node has room, as the scheduler says',
    objects: [
      unplaced(
        '0/14 nodes are available: 9 Insufficient cpu, 3 node(s) had untolerated taint {harbour/only: cranes}, 2 Too many pods. preemption: 0/14 nodes are available.',
      ),
    ],
    found: ['Pod/tides/lone cannotBePlaced'],
    says: /9 have too little CPU left to ask for, 3 are kept for others \(harbour\/only\), 2 have no pod slot left/,
  },
  {
    name: 'affinity, volume zone and ports, as the scheduler says',
    objects: [
      unplaced(
        "0/6 nodes are available: 3 node(s) didn't match Pod's node affinity/selector, 2 node(s) had volume node affinity conflict, 1 node(s) didn't have free ports for the requested pod ports.",
      ),
    ],
    found: ['Pod/tides/lone cannotBePlaced'],
    says: /3 are not of the kind that it asks for, 2 do not reach its volume.*, 1 have its port in use already/,
  },
  {
    name: 'words of a scheduler that nobody here knows stand as they are',
    objects: [unplaced('0/2 nodes are available: 2 node(s) are at low tide.')],
    found: ['Pod/tides/lone cannotBePlaced'],
    says: /2 node\(s\) are at low tide/,
  },
  {
    name: 'a claim that is not there',
    objects: [unplaced('persistentvolumeclaim "tables" not found')],
    found: ['Pod/tides/lone cannotBePlaced'],
    says: /its volume claim tables does not exist/,
  },
  {
    name: 'put out for a pod of higher priority',
    objects: [
      pod('lone', {
        status: {
          phase: 'Failed',
          reason: 'Preempting',
          conditions: [
            condition('DisruptionTarget', 'True', { reason: 'PreemptionByScheduler', message: 'preempted' }),
          ],
        },
      }),
    ],
    found: ['Pod/tides/lone preempted'],
    says: /higher priority/,
  },
  {
    name: 'a node that did not take it',
    objects: [
      pod('lone', { status: { phase: 'Failed', reason: 'OutOfcpu', message: 'Node did not have enough cpu' } }),
    ],
    found: ['Pod/tides/lone failed'],
    says: /did not take the pod: OutOfcpu/,
  },
  {
    name: 'a condition from outside that holds a pod back',
    objects: [
      pod('lone', {
        status: {
          conditions: [condition('Ready', 'False'), condition('harbour/lit', 'False', { message: 'no light yet' })],
        },
        state: { ready: true },
      }),
    ],
    found: ['Pod/tides/lone notReady'],
    says: /harbour\/lit does not hold[\s\S]*no light yet/,
  },
  {
    name: 'creation that a policy forbids, said of the replica set',
    objects: [
      deployment(2, { replicas: 0 }),
      set,
      event(
        set,
        'FailedCreate',
        'Error creating: pods "model-1-" is forbidden: violates PodSecurity "restricted:latest"',
      ),
    ],
    found: ['Deployment/tides/model cannotCreate'],
    says: /a policy of the cluster refuses them[\s\S]*PodSecurity/,
  },
  {
    name: 'creation without a service account',
    objects: [
      deployment(2, { replicas: 0 }),
      set,
      event(
        set,
        'FailedCreate',
        'Error creating: pods "model-1-" is forbidden: error looking up service account tides/relay: serviceaccount "relay" not found',
      ),
    ],
    found: ['Deployment/tides/model cannotCreate'],
    says: /there is no service account relay/,
  },
  {
    name: 'seconds after a scale-up',
    objects: [
      deployment(3, { replicas: 3, readyReplicas: 2 }),
      object('ReplicaSet', 'model-1', { spec: { replicas: 3 } }, owned('Deployment', 'model')),
      ready('model-1-a', owned('ReplicaSet', 'model-1')),
      ready('model-1-b', owned('ReplicaSet', 'model-1')),
      pod('model-1-c', {
        meta: { ...owned('ReplicaSet', 'model-1'), creationTimestamp: ago(0.3) },
        status: { phase: 'Pending', conditions: [condition('Ready', 'False', { lastTransitionTime: ago(0.3) })] },
        state: { state: { waiting: { reason: 'ContainerCreating' } } },
      }),
    ],
    found: [],
  },
  {
    name: 'an ordered start that one pod holds up',
    objects: [
      object('StatefulSet', 'ledger', { spec: { replicas: 3 }, status: { replicas: 2, readyReplicas: 1 } }),
      ready('ledger-0', owned('StatefulSet', 'ledger')),
      pod('ledger-1', { meta: owned('StatefulSet', 'ledger'), state: restarting(1) }),
    ],
    found: ['StatefulSet/tides/ledger fewerReady'],
    says: /ledger-1 holds the others up/,
  },
  { name: 'a claim that is bound', objects: [claim({ phase: 'Bound' })], found: [] },
  {
    name: 'a claim that waits for its first pod',
    objects: [
      pending,
      event(pending, 'WaitForFirstConsumer', 'waiting for first consumer to be created before binding', {
        type: 'Normal',
      }),
    ],
    found: [],
  },
  {
    name: 'a class that is not there',
    objects: [pending, event(pending, 'ProvisioningFailed', 'storageclass.storage.k8s.io "quick" not found')],
    found: ['PersistentVolumeClaim/tides/tables claimNotBound'],
    says: /there is no storage class quick/,
  },
  {
    name: 'no class, and no default one',
    objects: [
      claim({ phase: 'Pending' }),
      event(pending, 'FailedBinding', 'no persistent volumes available for this claim and no storage class is set'),
    ],
    found: ['PersistentVolumeClaim/tides/tables claimNotBound'],
    says: /there is no default one/,
  },
  {
    name: 'storage without room',
    objects: [
      pending,
      event(pending, 'ProvisioningFailed', 'rpc error: code = ResourceExhausted desc = not enough free capacity'),
    ],
    found: ['PersistentVolumeClaim/tides/tables claimNotBound'],
    says: /no room left for its size/,
  },
  {
    name: 'a volume that fills, from what was read of it',
    objects: [
      claim({ phase: 'Bound' }),
      pod('lone', {
        spec: { volumes: [{ name: 'own', persistentVolumeClaim: { claimName: 'tables' } }] },
        status: { conditions: [condition('Ready', 'True')] },
        state: { ready: true },
      }),
    ],
    usage: Array.from({ length: 73 }, (_, i) => ({
      at: ago(360 - i * 5),
      kind: 'volume',
      namespace: 'tides',
      claim: 'tables',
      usedBytes: (8 + i / 40) * 2 ** 30,
      capacityBytes: 10 * 2 ** 30,
    })),
    found: ['PersistentVolumeClaim/tides/tables volumeFilling'],
    says: /98 %|will be full in about/,
  },
  {
    name: 'a deletion that a finalizer holds',
    objects: [
      claim({ phase: 'Bound' }),
      object(
        'Namespace',
        'old',
        {
          status: {
            phase: 'Terminating',
            conditions: [
              condition('NamespaceFinalizersRemaining', 'True', {
                message: 'Some content has finalizers remaining: harbour/berth in 2 resources',
              }),
            ],
          },
        },
        { namespace: undefined, deletionTimestamp: ago(40), finalizers: ['harbour/berth'] },
      ),
    ],
    found: ['Namespace/old deletionStuck'],
    says: /a finalizer holds it \(harbour\/berth\)[\s\S]*2 resources/,
  },
  {
    name: 'a deletion that has just begun',
    objects: [
      object(
        'Namespace',
        'old',
        { status: { phase: 'Terminating' } },
        { namespace: undefined, deletionTimestamp: ago(1), finalizers: ['harbour/berth'] },
      ),
    ],
    found: [],
  },
  {
    name: 'an autoscaler that cannot read its figure',
    objects: [
      scaler([
        condition('ScalingActive', 'False', {
          reason: 'FailedGetResourceMetric',
          message: 'unable to get metrics for resource cpu',
        }),
      ]),
    ],
    found: ['HorizontalPodAutoscaler/tides/model figureNotRead'],
    says: /cannot read what it follows[\s\S]*unable to get metrics/,
  },
  {
    name: 'an autoscaler that somebody switched off',
    objects: [scaler([condition('ScalingActive', 'False', { reason: 'ScalingDisabled' })])],
    found: [],
  },
  {
    name: 'a lost node stands for its pods',
    objects: [
      object('Node', 'n1', { status: { conditions: [condition('Ready', 'Unknown')] } }, { namespace: undefined }),
      deployment(1, { replicas: 1, readyReplicas: 0 }),
      object('ReplicaSet', 'model-1', { spec: { replicas: 1 } }, owned('Deployment', 'model')),
      pod('model-1-a', {
        meta: owned('ReplicaSet', 'model-1'),
        status: { conditions: [condition('Ready', 'Unknown')] },
      }),
    ],
    found: ['Node/n1 unknown'],
    says: /1 pod of 1 workload is not ready because of it/,
  },
];
const find = ({ objects, lines = [], usage = [] }: Case): FixtureFinding[] =>
  findingsOfFixture({ now: new Date(NOW).toISOString(), objects, usage, [FIXTURE_LINES]: lines });

describe('what is found of a cluster that stands so', () => {
  it.each(CASES.map((one) => [one.name, one] as const))('%s', (_name, one) => {
    const found = find(one);
    expect(found.map(({ object: of, code }) => `${of} ${code}`).sort()).toEqual([...one.found].sort());
    if (one.says) expect(found.map(({ text }) => text).join('\n\n')).toMatch(one.says);
    for (const { since, text } of found) {
      expect(text).not.toMatch(/undefined|null|NaN|nothing known/);
      // it began in the past, and where objects prove it that is told
      if (since !== null) expect(Date.parse(since)).toBeLessThanOrEqual(NOW);
    }
  });
  it('is the same for events of the newer form', () => {
    const {
      kind: _kind,
      involvedObject,
      message,
      firstTimestamp,
      lastTimestamp,
      count,
      ...rest
    } = event(beginning, 'FailedMount', 'MountVolume.SetUp failed: secret "own" not found');
    const newer = {
      ...rest,
      kind: 'Event',
      regarding: involvedObject,
      note: message,
      eventTime: firstTimestamp,
      series: { count, lastObservedTime: lastTimestamp },
    };
    const of = (told: Json) => find({ name: '', objects: [beginning, told], found: [] });
    expect(of(newer)).toEqual(of(event(beginning, 'FailedMount', message as string)));
    expect(of(newer)[0]?.text).toMatch(/said 9 times/);
  });
  it('an event is of its object by name where it bears no uid', () => {
    const told = event(beginning, 'FailedMount', 'secret "own" not found');
    const { uid: _uid, ...about } = told.involvedObject;
    expect(find({ name: '', objects: [beginning, { ...told, involvedObject: about }], found: [] })[0]?.code).toBe(
      'cannotMount',
    );
  });
  it('what was said long ago holds no more', () => {
    const told = event(beginning, 'FailedMount', 'secret "own" not found', {
      lastTimestamp: ago(200),
      firstTimestamp: ago(300),
    });
    expect(find({ name: '', objects: [beginning, told], found: [] }).map(({ code }) => code)).toEqual(['notReady']);
  });
  it('a file that is none is refused with what is wrong', () => {
    expect(() => findingsOfFixture({ now: 'yesterday', objects: [] })).toThrow(/now/);
    expect(() => findingsOfFixture({ now: new Date(NOW).toISOString() })).toThrow(/objects/);
    expect(
      findingsOfFixture({ now: new Date(NOW).toISOString(), objects: [{}, { kind: 'Pod' }, { kind: 'Lamp' }] }),
    ).toEqual([]);
  });
});
