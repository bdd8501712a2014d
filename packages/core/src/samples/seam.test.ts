import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  BESIDE,
  joinedAt,
  mergeSamples,
  type RollUp,
  rolledOn,
  rollUp,
  type Samples,
  samplesOfRollUp,
} from './index.ts';

const BUCKET = 300_000;
const SHORT = 60_000;
const samples = fc.uniqueArray(fc.integer({ min: 0, max: 200 }), { maxLength: 40 }).chain((at) =>
  fc.array(fc.nat(50), { minLength: at.length, maxLength: at.length }).map((values): Samples => {
    const times = [...at].sort((a, b) => a - b).map((t) => t * 15_000);
    return { times, values: values.slice(0, times.length) };
  }),
);
const rising = samples.map(({ times, values }): Samples => {
  let sum = 0;
  return { times, values: values.map((value) => (sum += value)) };
});
const cut = ({ times, values }: Samples, from: number, to: number): Samples => {
  const at = Array.from(times).flatMap((time, i) => (time >= from && time < to ? [i] : []));
  return { times: at.map((i) => times[i]!), values: at.map((i) => values[i]!) };
};
const besideOf = ({ columns }: RollUp) => Object.fromEntries(BESIDE.map((name) => [name, columns[name]]));
const listed = ({ times, values }: Samples) => Array.from(times, (time, i) => [time, values[i]]);

describe('the seam between what is packed and what is in memory', () => {
  it('is not there, wherever the border lies and however much both hold', () => {
    fc.assert(
      fc.property(samples, fc.nat(200), fc.nat(60), (all, at, more) => {
        const border = at * 15_000;
        // packing may have gone on meanwhile: chunks reach beyond the border, and count up to it only
        const packed = cut(all, 0, border + more * 15_000);
        const edge = cut(all, border, Number.POSITIVE_INFINITY);
        expect(listed(joinedAt(packed, edge, border))).toEqual(listed(all));
      }),
    );
  });
  it('takes in what came late and is not packed yet; of two at a moment the packed one counts', () => {
    const packed = { times: [0, 30_000], values: [1, 3] };
    const edge = { times: [15_000, 30_000, 45_000], values: [2, 9, 4] };
    expect(listed(joinedAt(packed, edge, 40_000))).toEqual([
      [0, 1],
      [15_000, 2],
      [30_000, 3],
      [45_000, 4],
    ]);
  });
  it.each([true, false])('of roll-ups is not there either, whether it counts up or not: %s', (cumulative) => {
    fc.assert(
      fc.property(cumulative ? rising : samples, fc.nat(50), (all, buckets) => {
        // packed up to the end of a short bucket, which may lie within a long one
        const border = buckets * SHORT + 1;
        const whole = rollUp(all, BUCKET);
        const packed = rollUp(cut(all, 0, border), BUCKET);
        const seam = rolledOn({
          stored: { ...samplesOfRollUp(packed, BUCKET, cumulative), beside: besideOf(packed) },
          edge: all,
          border,
          bucket: BUCKET,
          cumulative,
        });
        expect(listed(seam)).toEqual(listed(samplesOfRollUp(whole, BUCKET, cumulative)));
        expect(seam.beside).toEqual(besideOf(whole));
      }),
    );
  });
  it('of a counter that began anew in a past that was brought in is no growth of all that it shows', () => {
    fc.assert(
      fc.property(rising, rising, fc.nat(1000), (past, live, more) => {
        fc.pre(past.times.length > 0 && live.times.length > 0);
        // the past had begun anew before: what it had grown to is more than what it showed
        const packed = samplesOfRollUp(rollUp(past, BUCKET), BUCKET, true);
        const stored = { times: packed.times, values: Float64Array.from(packed.values, (value) => value + more) };
        const after = 300 * 15_000;
        const last = past.values.at(-1)!;
        const edge = {
          times: Array.from(live.times, (time) => time + after),
          values: Array.from(live.values, (value) => value + last),
        };
        // nothing that was read is packed: the border lies before everything
        const { values } = rolledOn({ stored, edge, border: 1, bucket: BUCKET, cumulative: true });
        expect([...values]).toEqual([...values].sort((a, b) => a - b));
        const grew = values.at(-1)! - stored.values.at(-1)!;
        expect(grew).toBeLessThanOrEqual(edge.values.at(-1)! - last);
        expect(grew).toBeGreaterThanOrEqual(edge.values.at(-1)! - edge.values[0]! - more);
      }),
    );
  });
  it('merging keeps order and loses nothing', () => {
    fc.assert(
      fc.property(samples, samples, (one, other) => {
        const { samples: both, added, same, other: differing } = mergeSamples(one, other);
        expect([...both.times].sort((a, b) => a - b)).toEqual([...both.times]);
        expect(new Set(both.times)).toEqual(new Set([...one.times, ...other.times]));
        expect(added + same + differing).toBe(other.times.length);
      }),
    );
  });
});
