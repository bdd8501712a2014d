import { describe, expect, it } from 'vitest';
import { type ObjectVersion, type PodObject, readObject } from '../inventory/index.ts';
import { isEndMarker } from '../samples/index.ts';
import { HOUR, MINUTE } from '../units/index.ts';
import { PARTIAL, type SeriesIn } from './evaluate/lines.ts';
import {
  INVENTORY_VITALS,
  inventorySeries,
  inventoryVital,
  isInventoryVital,
  kindsOfVital,
  TOLD_EVERY,
} from './inventoryVitals.ts';

const START = Date.parse('2026-11-29T10:00:00Z');
const pod = (limit: string, phase = 'Running') =>
  readObject('pod', {
    metadata: { name: 'web-1', namespace: 'tides', uid: 'u1', creationTimestamp: new Date(START).toISOString() },
    spec: { nodeName: 'n1', containers: [{ name: 'main', resources: { limits: { memory: limit } } }] },
    status: { phase },
  })!;
/** Read where it stands: an ordinary list may lose a marker's tag. */
const endsWithMarker = ({ values }: SeriesIn): boolean => isEndMarker(values[values.length - 1]!);
const containerOf = (object: ObjectVersion['object']) => (object as PodObject).containers[0]!;
const version = (object: ObjectVersion['object'], from: number, to: number | null): ObjectVersion => ({
  object,
  from,
  fromEarliest: from,
  to,
  toEarliest: to,
});
const MOST = { series: 10, samples: 1000 };
const told = (name: string, versions: readonly ObjectVersion[], from = START, to = START + HOUR, most = MOST) => {
  const work = inventorySeries({ name, versions, from, to, extra: { cluster: 'seaward' }, most });
  for (;;) {
    const step = work.next();
    if (step.done) return step.value;
  }
};
const series = (...of: Parameters<typeof told>) => told(...of)!;

describe('what the inventory knows', () => {
  it('is a gauge that changes when the object did, and ends when it went', () => {
    const [one] = series('container.memory.limit', [
      version(pod('1Gi'), START + MINUTE, START + 20 * MINUTE),
      version(pod('2Gi'), START + 20 * MINUTE, START + 40 * MINUTE),
    ]);
    expect(one?.labels).toEqual({
      cluster: 'seaward',
      k8s_namespace_name: 'tides',
      k8s_pod_name: 'web-1',
      k8s_pod_uid: 'u1',
      k8s_node_name: 'n1',
      k8s_container_name: 'main',
    });
    const times = Array.from(one!.times);
    const at = (minute: number) => one!.values[times.findLastIndex((time) => time <= START + minute * MINUTE)];
    expect([at(1), at(19), at(20), at(39)]).toEqual([2 ** 30, 2 ** 30, 2 ** 31, 2 ** 31]);
    expect(one!.times[0]).toBe(START + MINUTE);
    expect(endsWithMarker(one!)).toBe(true);
    expect(times.at(-1)).toBe(START + 40 * MINUTE);
    // known all the time, and each sample stands for the time before it: what is computed over time is what held
    let sum = 0;
    for (let i = 1; i < times.length - 1; i++) {
      expect(times[i]! - times[i - 1]!).toBeLessThanOrEqual(TOLD_EVERY);
      sum += one!.values[i]! * (times[i]! - times[i - 1]!);
    }
    expect(sum / (39 * MINUTE)).toBeCloseTo((19 * 2 ** 30 + 20 * 2 ** 31) / 39, -6);
    const later = series('container.memory.limit', [version(pod('1Gi'), START + MINUTE + 7, null)]);
    expect(later[0]!.times[0]).toBe(START + MINUTE + 7);
  });
  it('what people wrote holds since the object was made, partial until it was watched; what the cluster tells does not', () => {
    const later = { ...version(pod('1Gi'), START + 30 * MINUTE, null), fromEarliest: START };
    const [limit] = series('container.memory.limit', [later]);
    expect(limit!.times[0]).toBe(START);
    const times = Array.from(limit!.times);
    const partial = times.filter((_, i) => limit!.marks?.[i] === PARTIAL);
    expect([Math.min(...partial), Math.max(...partial) < START + 30 * MINUTE]).toEqual([START, true]);
    expect(limit!.marks?.at(-1)).toBe(0);
    const [phase] = series('pod.phase', [later]);
    expect([phase!.times[0], phase!.marks]).toEqual([START + 30 * MINUTE, undefined]);
  });
  it('holds up to the end of the window while it holds, from before it', () => {
    const [one] = series(
      'container.memory.limit',
      [version(pod('1Gi'), START - HOUR, null)],
      START,
      START + 10 * MINUTE,
    );
    expect([one!.times[0], Array.from(one!.times).at(-1), Array.from(one!.values).at(-1)]).toEqual([
      START,
      START + 10 * MINUTE,
      2 ** 30,
    ]);
  });
  it('is one series a state where states have a label, and none of what is not set', () => {
    const phases = series('pod.phase', [
      version(pod('1Gi', 'Pending'), START, START + MINUTE),
      version(pod('1Gi'), START + MINUTE, null),
    ]);
    expect(phases.map(({ labels }) => labels['phase'])).toEqual(['pending', 'running']);
    expect(endsWithMarker(phases[0]!)).toBe(true);
    // a pod that ended asks for nothing any more
    const [limit] = series('container.memory.limit', [
      version(pod('1Gi'), START, START + MINUTE),
      version(pod('1Gi', 'Succeeded'), START + MINUTE, null),
    ]);
    expect([limit!.times.length, endsWithMarker(limit!)]).toEqual([4, true]);
    expect(series('container.cpu.limit', [version(pod('1Gi'), START, null)])).toEqual([]);
  });
  it('ends where what was set is set no more, and begins again', () => {
    const none = { ...(pod('1Gi') as PodObject), containers: [] };
    const [one] = series('container.memory.limit', [
      version(pod('1Gi'), START, START + 10 * MINUTE),
      version(none, START + 10 * MINUTE, START + 20 * MINUTE),
      version(pod('1Gi'), START + 20 * MINUTE, null),
    ]);
    const markers = Array.from(one!.times).filter((_, i) => isEndMarker(one!.values[i]!));
    expect(markers).toEqual([START + 10 * MINUTE]);
    const unset = { ...(pod('1Gi') as PodObject), containers: [{ ...containerOf(pod('1Gi')), memoryLimit: null }] };
    const [other] = series('container.memory.limit', [
      version(pod('1Gi'), START, START + 10 * MINUTE),
      version(unset, START + 10 * MINUTE, null),
    ]);
    expect([Array.from(other!.times).at(-1), endsWithMarker(other!)]).toEqual([START + 10 * MINUTE, true]);
  });
  it('is nothing at all beyond what may be made, however long the window', () => {
    expect(told('container.memory.limit', [version(pod('1Gi'), START, null)], START, START + 1e15)).toBeNull();
    expect(
      told('container.memory.limit', [version(pod('1Gi'), START, null)], START, START + HOUR, {
        series: 0,
        samples: 1000,
      }),
    ).toBeNull();
  });
  it('has units and kinds for every name, and none that the language of objects has', () => {
    for (const name of INVENTORY_VITALS) {
      expect([name, isInventoryVital(name), kindsOfVital(name).length > 0]).toEqual([name, true, true]);
      expect(inventoryVital(name).type).toBe('gauge');
    }
    expect(['constructor', 'container.cpu.time'].some(isInventoryVital)).toBe(false);
    expect(inventoryVital('container.memory.limit').unit).toBe('bytes');
  });
});
