import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { END_MARKER, isEndMarker } from './endMarker.ts';
import {
  AGGREGATES,
  type Aggregate,
  columnsFor,
  firstOfSteady,
  grown,
  joinRollUps,
  packRollUp,
  type RollUp,
  rollUp,
  samplesOfRollUp,
  sliceRollUp,
  unpackRollUp,
} from './rollUp.ts';

const LENGTH = 100;
const value = fc.oneof(
  fc.integer({ min: 0, max: 1000 }),
  fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 }),
  fc.constantFrom(-0, END_MARKER, Number.NaN, Number.POSITIVE_INFINITY),
);
const series = fc.array(fc.tuple(fc.integer({ min: 1, max: 90 }), value), { maxLength: 120 }).map((steps) => {
  let at = 0;
  return { times: steps.map(([step]) => (at += step)), values: Float64Array.from(steps, ([, one]) => one) };
});
const whole = fc
  .array(fc.tuple(fc.integer({ min: 1, max: 90 }), fc.integer({ min: 0, max: 500 })), { maxLength: 120 })
  .map((steps) => {
    let at = 0;
    return { times: steps.map(([step]) => (at += step)), values: steps.map(([, one]) => one) };
  });
const bits = (list: ArrayLike<number>) => Array.from(new BigUint64Array(Float64Array.from(list).buffer));
const same = (one: RollUp, other: RollUp) => {
  expect([...one.starts]).toEqual([...other.starts]);
  for (const name of AGGREGATES) expect([name, bits(one.columns[name])]).toEqual([name, bits(other.columns[name])]);
};

/** The plain way: each bucket on its own. */
function plainly({ times, values }: { times: ArrayLike<number>; values: ArrayLike<number> }) {
  const buckets = new Map<number, { at: number; value: number }[]>();
  for (let i = 0; i < times.length; i++) {
    if (isEndMarker(values[i]!)) continue;
    const start = Math.ceil(times[i]! / LENGTH) * LENGTH - LENGTH;
    const list = buckets.get(start) ?? [];
    buckets.set(start, list);
    list.push({ at: times[i]!, value: values[i]! });
  }
  return [...buckets].flatMap(([start, all]) => {
    const known = all.filter(({ value }) => !Number.isNaN(value));
    if (known.length === 0) return [];
    const list = known.map(({ value }) => value);
    const own: Record<Aggregate, number> = {
      count: list.length,
      sum: list.reduce((a, b) => a + b),
      squares: list.map((one) => one * one).reduce((a, b) => a + b),
      min: Math.min(...list),
      max: Math.max(...list),
      first: list[0]!,
      last: list.at(-1)!,
      increase:
        list.length === 1
          ? 0
          : list.at(-1)! -
            list[0]! +
            list.reduce((lost, one, i) => (one < list[i - 1]! ? lost + list[i - 1]! : lost), 0),
      nans: all.length - known.length,
      gap: start + LENGTH - known.at(-1)!.at,
    };
    return [[start, ...AGGREGATES.map((name) => own[name])]];
  });
}

describe('roll-ups', () => {
  it('are what their samples say, bucket by bucket', () => {
    fc.assert(
      fc.property(series, (samples) => {
        const { starts, columns } = rollUp(samples, LENGTH);
        expect([...starts].map((start, i) => [start, ...AGGREGATES.map((name) => columns[name][i])])).toEqual(
          plainly(samples),
        );
      }),
    );
  });
  it('are the same from parts, wherever they were cut, and in longer buckets', () => {
    fc.assert(
      fc.property(whole, fc.array(fc.nat(120), { maxLength: 4 }), ({ times, values }, cuts) => {
        const places = [0, ...cuts.sort((a, b) => a - b), times.length];
        const parts = places
          .slice(1)
          .map((to, i) => rollUp({ times: times.slice(places[i], to), values: values.slice(places[i], to) }, LENGTH));
        const all = { times, values };
        same(joinRollUps(parts, LENGTH), rollUp(all, LENGTH));
        same(joinRollUps([rollUp(all, LENGTH)], LENGTH * 12, LENGTH), rollUp(all, LENGTH * 12));
      }),
    );
  });
  it('come back from their packed columns bit by bit, and single columns without the others', () => {
    fc.assert(
      fc.property(fc.oneof(series, whole), fc.uniqueArray(fc.constantFrom(...AGGREGATES)), (samples, wanted) => {
        const made = rollUp(samples, LENGTH);
        const packed = packRollUp(made);
        same(unpackRollUp(packed), made);
        const some = Object.fromEntries(columnsFor(wanted).map((name) => [name, packed[name]]));
        const part = unpackRollUp({ buckets: packed.buckets, ...some }, wanted);
        for (const name of wanted) expect(bits(part.columns[name])).toEqual(bits(made.columns[name]));
      }),
    );
  });
  it('store nothing that follows from the rest: a value that stands still, a counter without reset', () => {
    const times = Array.from({ length: 48 }, (_, i) => i * 25);
    const still = packRollUp(rollUp({ times, values: times.map(() => 7) }, LENGTH));
    expect(AGGREGATES.filter((name) => still[name] !== null)).toEqual(['count', 'first', 'increase', 'gap']);
    const counter = packRollUp(rollUp({ times, values: times.map((_, i) => i * i) }, LENGTH));
    expect(AGGREGATES.filter((name) => counter[name] !== null)).toEqual([
      'count',
      'sum',
      'squares',
      'first',
      'last',
      'increase',
      'gap',
    ]);
  });
  it('of a counter that never begins anew need nothing but its last values, whatever its decimals', () => {
    const times = Array.from({ length: 200 }, (_, i) => i * 25 + 1);
    let sum = 0;
    const values = times.map((_, i) => {
      sum += 0.1 + (i % 7) / 3;
      return sum;
    });
    for (const made of [
      rollUp({ times, values }, LENGTH),
      joinRollUps([rollUp({ times, values }, LENGTH)], 5 * LENGTH, LENGTH),
    ]) {
      expect(firstOfSteady(packRollUp(made).increase)).toBe(values[0]);
      expect(made.columns.increase).toEqual(made.columns.last.map((last, i) => last - made.columns.first[i]!));
    }
    const anew = packRollUp(rollUp({ times, values: values.map((one, i) => (i === 100 ? 0 : one)) }, LENGTH));
    expect(firstOfSteady(anew.increase)).toBeNull();
    expect(firstOfSteady(null)).toBeNull();
  });
  it('say what a counter grew by, across resets and borders, as its samples do', () => {
    fc.assert(
      fc.property(whole, ({ times, values }) => {
        const back = samplesOfRollUp(rollUp({ times, values }, LENGTH), LENGTH, true);
        let total = values[0] ?? 0;
        const grownTo = values.map((one, i) => {
          if (i > 0) total += grown(values[i - 1]!, one);
          return total;
        });
        const plain = samplesOfRollUp(rollUp({ times, values }, LENGTH), LENGTH, false);
        // each is one that was read, at the moment that it was read
        back.times.forEach((at, i) => {
          const place = times.indexOf(at);
          expect(back.values[i]).toBeCloseTo(grownTo[place]!, 6);
          expect(plain.values[i]).toBe(values[place]);
        });
        expect(back.times.at(-1)).toBe(times.at(-1));
        expect(plain.times).toEqual(back.times);
      }),
    );
  });
  it('give a part', () => {
    const made = rollUp({ times: [50, 150, 250, 350], values: [1, 2, 3, 4] }, LENGTH);
    expect([...sliceRollUp(made, 100, 300).columns.sum]).toEqual([2, 3]);
  });
});
