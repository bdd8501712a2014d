import { describe, expect, it } from 'vitest';
import type { Samples } from '../samples/index.ts';
import { gridFor } from './grid.ts';
import { type HostSamples, hostUsage } from './hostUsage.ts';

const grid = gridFor(0, 600_000, 15_000);
const every = (value: (second: number) => number): Samples => {
  const times = Array.from({ length: 41 }, (_, i) => i * 15_000);
  return { times, values: times.map((at) => value(at / 1000)) };
};
const host: HostSamples = {
  cpu: [
    { mode: 'user', processor: '', samples: every((second) => second * 0.75) },
    { mode: 'system', processor: '', samples: every((second) => second * 0.25) },
    { mode: 'idle', processor: '', samples: every((second) => second * 2.9) },
    { mode: 'iowait', processor: '', samples: every((second) => second * 0.1) },
  ],
  cpuCount: [],
  memory: [
    { state: 'used', samples: every(() => 3e9) },
    { state: 'free', samples: every(() => 5e9) },
  ],
  memoryLimit: [],
};
const of = (more: Partial<HostSamples>) =>
  hostUsage({ name: 'keep', grid, interval: 15_000, host: { ...host, ...more } }).usage;

describe('a machine outside clusters', () => {
  it('uses what its processors work, against the time in all modes when it gives no count', () => {
    expect(of({}).cpu).toMatchObject({ use: 1, limit: 4, limitIs: 'size', tightness: 0.25 });
    expect(of({}).memory).toMatchObject({ use: 3e9, limit: 8e9 });
  });
  it('says its size itself, or by the processors that it tells apart', () => {
    expect(of({ cpuCount: [every(() => 6)], memoryLimit: [every(() => 9e9)] }).cpu.limit).toBe(6);
    expect(of({ memoryLimit: [every(() => 9e9)] }).memory.limit).toBe(9e9);
    const apart = ['0', '1'].map((processor) => ({ mode: 'user', processor, samples: every((second) => second / 2) }));
    expect(of({ cpu: apart }).cpu).toMatchObject({ use: 1, limit: 2 });
  });
  it('has no limit where nothing says its size, and no use where nothing was read', () => {
    const work = [{ mode: 'user', processor: '', samples: every((second) => second) }];
    expect(of({ cpu: work, memory: [{ state: '', samples: every(() => 1e9) }] }).memory).toMatchObject({
      use: 1e9,
      limit: null,
      tightness: null,
    });
    expect(of({ cpu: work }).cpu.limit).toBeNull();
    expect(of({ cpu: [], memory: [] }).cpu).toMatchObject({ use: null, limit: null });
  });
  it('is a gap where one of its modes was not read', () => {
    const torn = every((second) => second * 0.75);
    const cpu = [{ ...host.cpu[0]!, samples: { times: torn.times.slice(0, 20), values: torn.values.slice(0, 20) } }];
    expect(of({ cpu: [...cpu, ...host.cpu.slice(1)] }).cpu.use).toBeNull();
  });
});
