import { describe, expect, it } from 'vitest';
import { type InventoryKind, type InventoryObject, readObject } from '../inventory/index.ts';
import { DAY } from '../units/index.ts';
import {
  autoscalerFindings,
  claimFindings,
  cronJobFindings,
  jobFindings,
  quotaFindings,
  volumeFindings,
  workloadFindings,
} from './index.ts';

const T = Date.parse('2026-11-25T02:00:00Z');
const NOW = T + 6 * 3_600_000;
const iso = (at: number) => new Date(at).toISOString();
function read<K extends InventoryKind>(
  kind: K,
  name: string,
  rest: object,
  createdAt = T,
): Extract<InventoryObject, { kind: K }> {
  return readObject(kind, {
    metadata: { name, namespace: 'boarding', uid: `u-${name}`, creationTimestamp: iso(createdAt) },
    ...rest,
  }) as Extract<InventoryObject, { kind: K }>; // read by its kind
}
const run = (name: string, at: number, outcome: 'Failed' | 'Complete') =>
  read(
    'job',
    name,
    {
      status: {
        startTime: iso(at),
        failed: outcome === 'Failed' ? 3 : 0,
        conditions: [
          {
            type: outcome,
            status: 'True',
            reason: 'BackoffLimitExceeded',
            message: 'limit reached',
            lastTransitionTime: iso(at + 60_000),
          },
        ],
      },
    },
    at,
  );
const podThatEnded = (code: number) =>
  read('pod', 'p', {
    spec: { containers: [{ name: 'replan' }] },
    status: {
      phase: 'Failed',
      containerStatuses: [{ name: 'replan', state: { terminated: { exitCode: code, message: 'no such berth' } } }],
    },
  });

describe('jobs', () => {
  it('a failed one says how its last pod ended', () => {
    const [finding] = jobFindings({ job: run('replan-1', T, 'Failed'), pods: [podThatEnded(3)] }, NOW);
    expect(finding).toMatchObject({
      code: 'jobFailed',
      severity: 'critical',
      reason: 'The job failed after 3 tries: container replan ended with code 3: no such berth.',
      evidence: 'limit reached',
      since: T + 60_000,
    });
    expect(jobFindings({ job: run('ok', T, 'Complete'), pods: [] }, NOW)).toEqual([]);
  });
  it('a schedule is judged by what failed after its last success', () => {
    const of = (...jobs: ReturnType<typeof run>[]) =>
      cronJobFindings(
        jobs.map((job) => ({ job, pods: [] })),
        NOW,
      );
    expect(of(run('a', T, 'Failed'), run('b', T + 1000, 'Complete'))).toEqual([]);
    expect(of(run('a', T, 'Complete'), run('b', T + 1000, 'Failed'), run('c', T + 2000, 'Failed'))[0]).toMatchObject({
      code: 'runsFail',
      reason: 'Its last 2 runs failed; of the newest: the job failed after 3 tries.',
      since: T + 61_000,
    });
    expect(of(run('b', T + 1000, 'Failed'))[0]?.reason).toBe('Its last run failed: the job failed after 3 tries.');
  });
});

describe('bounds', () => {
  it('a deployment that cannot create pods says which quota', () => {
    const deployment = read('deployment', 'kiosk', {
      spec: { replicas: 4 },
      status: {
        replicas: 2,
        readyReplicas: 2,
        conditions: [
          {
            type: 'ReplicaFailure',
            status: 'True',
            reason: 'FailedCreate',
            message: 'pods "x" is forbidden: exceeded quota: compute',
            lastTransitionTime: iso(T),
          },
        ],
      },
    });
    expect(workloadFindings({ workload: deployment, pods: [], now: NOW })).toEqual([
      expect.objectContaining({
        code: 'cannotCreate',
        severity: 'critical',
        reason: '2 of 4 pods cannot be created: the quota of boarding is spent.',
        since: T,
      }),
    ]);
  });
  it('a quota nearly spent, and one with room', () => {
    const quota = (used: string) =>
      quotaFindings(
        read('quota', 'compute', {
          spec: { hard: { 'requests.cpu': '8' } },
          status: { used: { 'requests.cpu': used } },
        }),
      );
    expect(quota('7680m')[0]).toMatchObject({
      severity: 'warning',
      reason: expect.stringContaining('96 % of requests.cpu'),
    });
    expect(quota('8')[0]).toMatchObject({ severity: 'critical', reason: expect.stringContaining('is spent') });
    expect(quota('4')).toEqual([]);
  });
  it('a volume that fills, one that is full, one that is neither, one that was not read', () => {
    expect(volumeFindings('v', { use: 50, size: 100, fullIn: 4 * DAY })[0]).toMatchObject({
      severity: 'warning',
      reason: expect.stringContaining('in about 4 d'),
    });
    expect(volumeFindings('v', { use: 98, size: 100, fullIn: null })[0]?.severity).toBe('critical');
    expect(volumeFindings('v', { use: 50, size: 100, fullIn: 40 * DAY })).toEqual([]);
    expect(volumeFindings('v', { use: null, size: 100, fullIn: null })).toEqual([]);
  });
  it('claims that wait, autoscalers at their most', () => {
    expect(claimFindings(read('volume claim', 'c', { status: { phase: 'Pending' } }), NOW)[0]?.code).toBe(
      'claimNotBound',
    );
    expect(claimFindings(read('volume claim', 'c', { status: { phase: 'Bound' } }), NOW)).toEqual([]);
    const scaler = (desired: number, limited: string) =>
      autoscalerFindings(
        read('autoscaler', 's', {
          spec: { maxReplicas: 6 },
          status: { desiredReplicas: desired, conditions: [{ type: 'ScalingLimited', status: limited }] },
        }),
        NOW,
      );
    expect(scaler(6, 'True')[0]?.code).toBe('atMost');
    expect(scaler(6, 'False')).toEqual([]);
    expect(scaler(3, 'True')).toEqual([]);
  });
});
