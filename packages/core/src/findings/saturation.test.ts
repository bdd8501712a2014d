import { describe, expect, it } from 'vitest';
import { MINUTE } from '../units/index.ts';
import type { Grid } from '../usage/index.ts';
import { saturationFindings, type UsedPod } from './index.ts';

const GIB = 2 ** 30;
/** An hour, every half minute. */
const GRID: Grid = { start: 0, step: MINUTE / 2, count: 121 };
const END = 60 * MINUTE;
/** By minutes before the end. */
const line = (value: number | ((minutes: number) => number)) =>
  Float64Array.from({ length: GRID.count }, (_, i) =>
    typeof value === 'number' ? value : value((END - i * GRID.step) / MINUTE),
  );
interface Plan {
  readonly cpu?: number | ((minutes: number) => number);
  readonly memory?: number | ((minutes: number) => number);
  readonly throttled?: number | null;
  readonly cpuLimit?: number;
  readonly name?: string;
}
const used = ({ cpu = 0.1, memory = 0.1 * GIB, throttled = null, cpuLimit = 1, name = 'main' }: Plan) => ({
  name,
  throttled,
  lines: {
    cpu: { use: line(cpu), limit: line(cpuLimit) },
    memory: { use: line(memory), limit: line(GIB) },
  },
});
const pod = (name: string, ...plans: Plan[]): UsedPod => ({ name, containers: plans.map(used) });
const find = (...pods: UsedPod[]) => saturationFindings(pods, GRID);
const noise = (minutes: number) => (minutes % 2 === 0 ? 1 : -1);

describe('saturation', () => {
  it('is a container at its CPU limit and throttled, by itself, never by the sum of its pod', () => {
    const [finding, ...others] = find(
      pod('a', { cpu: (minutes) => (minutes <= 20 ? 0.98 : 0.4), throttled: 0.25 }, { name: 'relay', cpuLimit: 4 }),
    );
    expect(others).toEqual([]);
    expect(finding).toMatchObject({ code: 'cpuAtLimit', severity: 'warning', since: END - 20 * MINUTE });
    expect(finding?.reason).toBe(
      'Container main is at its CPU limit: it uses 98 % of 1.00 core and is throttled 25 % of the time.',
    );
  });
  it.each([
    ['busy, and never kept waiting', { cpu: 0.95, throttled: 0 }],
    ['far from its limit', { cpu: 0.6, throttled: 0.1 }],
    ['at its limit a while ago', { cpu: (minutes: number) => (minutes > 10 ? 0.99 : 0.3), throttled: 0.02 }],
    ['without a limit', { cpu: 40, cpuLimit: Number.NaN, throttled: 0 }],
    ['not read lately', { cpu: (minutes: number) => (minutes < 4 ? Number.NaN : 0.99), throttled: 0.5 - 0.3 }],
    ['steady below its memory limit', { memory: (minutes: number) => (0.85 + 0.01 * noise(minutes)) * GIB }],
    ['growing towards a limit that is far', { memory: (minutes: number) => (0.72 - minutes * 0.0005) * GIB }],
    ['up and down below its memory limit', { memory: (minutes: number) => (0.7 + 0.15 * Math.sin(minutes)) * GIB }],
  ] satisfies [string, Plan][])('is none: %s', (_name, plan) => {
    expect(find(pod('a', plan))).toEqual([]);
  });
  it('is told where nobody tells of throttling, and where bursts are throttled', () => {
    expect(find(pod('a', { cpu: 0.98 }))[0]?.reason).toMatch(/uses 98 % of 1\.00 core\.$/);
    expect(find(pod('a', { cpu: 0.5, throttled: 0.3 }))[0]?.reason).toMatch(
      /is throttled 30 % of the time: it works in bursts above its CPU limit/,
    );
  });
  it('goes back beyond what was looked at where it was so all the time: then nobody knows since when', () => {
    expect(find(pod('a', { cpu: 0.98, throttled: 0.3 }))[0]?.since).toBeNull();
  });
  it('is one for all pods of a workload, since the first of them, with the worst as evidence', () => {
    const [finding, ...others] = find(
      pod('a', { cpu: (minutes) => (minutes <= 10 ? 0.93 : 0.2), throttled: 0.2 }),
      pod('b', { cpu: (minutes) => (minutes <= 30 ? 0.99 : 0.2), throttled: 0.4 }),
      pod('c', {}),
    );
    expect(others).toEqual([]);
    expect(finding?.since).toBe(END - 30 * MINUTE);
    expect(finding?.reason).toMatch(/in 2 of 3 pods: it uses 99 %/);
    expect(finding?.evidence).toMatch(/^pod b: /);
  });
  it('is memory near its limit, with its slope and when it is there', () => {
    const [steady] = find(pod('a', { memory: (minutes) => (minutes <= 15 ? 0.93 : 0.5) * GIB }));
    expect(steady).toMatchObject({ code: 'memoryNearLimit', severity: 'warning', since: END - 15 * MINUTE });
    const [climbs] = find(pod('a', { memory: (minutes) => (0.9 - minutes * 0.005) * GIB }));
    expect(climbs).toMatchObject({ code: 'memoryNearLimit', severity: 'critical' });
    expect(climbs?.reason).toMatch(
      /grows by 307 MiB an hour: at this pace it is at its limit, and ended, within 30 min/,
    );
  });
  it('says when it is there only where that is soon: what runs out later is told by its history', () => {
    const [later] = find(pod('a', { memory: (minutes) => (0.92 - minutes * 0.0015) * GIB }));
    expect(later?.severity).toBe('warning');
    expect(later?.reason).toMatch(/and grows by 92\.2 MiB an hour\.$/);
  });
  it('is never more than all of a limit', () => {
    expect(find(pod('a', { cpu: 1.02, throttled: 0.3 }))[0]?.reason).toMatch(/it uses all of 1\.00 core and/);
  });
  it('is no climb where it only began', () => {
    const young = pod('a', { memory: (minutes) => (minutes > 8 ? Number.NaN : (0.8 - minutes * 0.05) * GIB) });
    expect(find(young)).toEqual([]);
  });
});
