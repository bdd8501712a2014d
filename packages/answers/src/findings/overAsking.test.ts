import { describe, expect, it } from 'vitest';
import { BuiltCluster, GIB, NOW } from '../../testing/builtCluster.ts';

/** Workloads of one namespace: cores asked for, and used. */
function found(workloads: Readonly<Record<string, readonly [asked: number, used: number]>>) {
  const cluster = new BuiltCluster().namespace('crew').node('seaward-01', { cpu: '64', memory: '64Gi' });
  for (const [name, [asked, used]] of Object.entries(workloads))
    cluster.deployment('crew', name).pod('crew', `${name}-1-a`, {
      workload: name,
      node: 'seaward-01',
      cpu: used,
      memory: GIB,
      requests: { cpu: String(asked), memory: '1Gi' },
    });
  const usage = cluster.seen();
  const { workloads: states, asking } = usage.details.findings(usage, NOW);
  return {
    workloads: states
      .filter(({ findings }) => findings.some(({ code }) => code === 'overAsking'))
      .map(({ key }) => key),
    namespaces: [...asking.keys()],
    reason: states.flatMap(({ findings }) => findings)[0]?.reason,
  };
}

describe('asking for what is not used', () => {
  it('stands at the workload that does it', () => {
    const { workloads, namespaces, reason } = found({ rota: [12, 0.9], small: [0.5, 0.1] });
    expect([workloads, namespaces]).toEqual([['deployment:rota'], []]);
    expect(reason).toMatch(/asks for 12\.0 cores of CPU and uses 7\.5 % of it/);
  });
  it('stands at each of two that share in it', () => {
    expect(found({ rota: [4, 0.2], board: [3, 0.2] }).workloads).toEqual(['deployment:rota', 'deployment:board']);
  });
  it('stands at the namespace where no one stands out', () => {
    const many = Object.fromEntries(Array.from({ length: 12 }, (_, i) => [`w${i}`, [0.5, 0.02] as const]));
    expect(found(many)).toMatchObject({ workloads: [], namespaces: ['crew'] });
  });
  it('is none where it is used, or is little', () => {
    expect(found({ rota: [12, 6], small: [1, 0.01] })).toMatchObject({ workloads: [], namespaces: [] });
  });
});
