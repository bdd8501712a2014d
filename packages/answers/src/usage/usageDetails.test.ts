import type { PodObject } from '@zetopsis/core/inventory';
import { describe, expect, it } from 'vitest';
import { BuiltCluster, harbour, NOW } from '../../testing/builtCluster.ts';

const atOnce = (work: Generator<unknown, void>) => {
  let steps = 0;
  while (!work.next().done) steps++;
  return steps;
};

describe('what follows from a cluster’s usage', () => {
  it('is the same worked out at once or step by step', () => {
    const once = harbour().seen();
    const stepwise = harbour().seen();
    atOnce(stepwise.details.prepare(stepwise));
    atOnce(stepwise.details.find(stepwise, NOW, () => 0));
    const told = ({ details }: typeof once, usage: typeof once) =>
      JSON.stringify([details.findings(usage, NOW), details.nodeUsages(usage).map((node) => [node.name, node.usage])]);
    expect(told(stepwise, stepwise)).toBe(told(once, once));
  });
  it('goes in steps as small as one workload, node or bound', () => {
    const usage = harbour().seen();
    expect(atOnce(usage.details.find(usage, NOW, () => 0))).toBeGreaterThan(8);
    expect(atOnce(usage.details.prepare(usage))).toBeGreaterThan(8);
  });
  it('holds for a second, or for five times as long as it took', () => {
    const usage = harbour().seen();
    expect(usage.details.holds(NOW)).toBe(false);
    atOnce(usage.details.find(usage, NOW, () => 10));
    expect([0, 999, 1000].map((later) => usage.details.holds(NOW + later))).toEqual([true, true, false]);
    expect(usage.details.holds(NOW - 1)).toBe(false);
    const found = usage.details.findings(usage, NOW + 500);
    expect(usage.details.findings(usage, NOW + 999)).toBe(found);
    atOnce(usage.details.find(usage, NOW + 1000, () => 600));
    expect([2999, 3999, 4000].map((later) => usage.details.holds(NOW + later))).toEqual([true, true, false]);
  });
  it('is found step by step, however many pods stand for themselves', () => {
    const cluster = new BuiltCluster().namespace('tides');
    for (let i = 0; i < 40; i++)
      cluster.object({
        kind: 'pod',
        name: `lone-${i}`,
        namespace: 'tides',
        rest: { status: { phase: 'Failed', reason: 'Evicted' } },
      });
    const usage = cluster.seen();
    let steps = 0;
    const work = usage.details.find(usage, NOW, () => 0);
    while (!work.next().done) steps++;
    expect(usage.details.findings(usage, NOW).loose).toHaveLength(40);
    expect(steps).toBeGreaterThanOrEqual(40);
  });
  it('of what somebody may not see is not in what they see', () => {
    const narrowed = harbour().seen((namespace) => namespace === 'tides');
    const found = narrowed.details.findings(narrowed, NOW);
    expect(JSON.stringify([found.workloads, found.bounds])).not.toContain('ticketing');
    // what is left of the nodes would tell of others
    const placed = harbour()
      .seen((namespace) => namespace === 'tides')
      .view.inventory.list('pod')[0]!;
    const unplaced: PodObject = {
      ...placed,
      node: null,
      phase: 'pending',
      conditions: [
        { type: 'PodScheduled', status: 'false', since: 1, reason: 'Unschedulable', message: 'nobody has room' },
      ],
    };
    const evidence = (judge: typeof found.judge) =>
      judge.pod(unplaced).find(({ code }) => code === 'cannotBePlaced')?.evidence;
    expect(evidence(found.judge)).toBe('nobody has room');
    const seen = harbour().seen();
    expect(evidence(seen.details.findings(seen, NOW).judge)).toMatch(/^nobody has room · /);
    expect(narrowed.details.restartsIn(narrowed, [narrowed.tree])).toEqual({ restarts: 0, memoryEnds: 0 });
  });
});
