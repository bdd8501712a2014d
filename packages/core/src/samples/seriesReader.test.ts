import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { BESIDE, encodeChunk, packRollUp, rollUp, SeriesReader, samplesOfRollUp, sliceRollUp } from './index.ts';

const LENGTH = 100;
const bits = (values: ArrayLike<number>) => [...new BigUint64Array(Float64Array.from(values).buffer)];
/** Few steps and few starts, so that series often were read at the same moments, or at some of them. */
const times = fc
  .tuple(fc.constantFrom(0, 1000), fc.array(fc.constantFrom(15, 15, 15, 40), { maxLength: 60 }))
  .map(([start, steps]) => {
    let time = start;
    return steps.map((step) => (time += step));
  });
const read = times.chain((own) =>
  fc.record({
    times: fc.constant(own),
    values: fc.array(fc.oneof(fc.nat(1000), fc.double({ noNaN: true, min: -1e9, max: 1e9 }), fc.nat(2 ** 45)), {
      minLength: own.length,
      maxLength: own.length,
    }),
    cuts: fc.array(fc.nat(60), { maxLength: 3 }),
  }),
);
const partsOf = ({ times: own, cuts }: { times: number[]; cuts: number[] }) => {
  const places = [0, ...[...cuts].sort((a, b) => a - b), own.length];
  return places.slice(1).map((to, i) => [Math.min(places[i]!, own.length), Math.min(to, own.length)] as const);
};
const partOf = (reader: SeriesReader, series: number, found: ReturnType<SeriesReader['finish']>) => {
  expect(reader).toBeDefined();
  const count = found.starts[series + 1]! - found.starts[series]!;
  const from = found.timeStarts[series]!;
  return {
    times: [...found.times.subarray(from, from + count)],
    values: found.values.subarray(found.starts[series], found.starts[series + 1]),
  };
};

describe('series that are read one after the other', () => {
  it('are their chunks, however these were cut, though they share their times', () => {
    fc.assert(
      fc.property(fc.array(read, { minLength: 1, maxLength: 6 }), (all) => {
        const reader = new SeriesReader(all.length);
        all.forEach((one, i) => {
          reader.begin(i);
          for (const [from, to] of partsOf(one))
            reader.chunk(encodeChunk({ times: one.times.slice(from, to), values: one.values.slice(from, to) }));
        });
        const found = reader.finish();
        all.forEach((one, i) => {
          const part = partOf(reader, i, found);
          expect(part.times).toEqual(one.times);
          expect(bits(part.values)).toEqual(bits(one.values));
        });
      }),
    );
  });

  it('are their roll-ups as samples, packed or not', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(read, fc.boolean(), fc.boolean()), { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 0, max: 30 }),
        (all, at) => {
          const reader = new SeriesReader(all.length, BESIDE);
          const wholes = all.map(([one]) => rollUp(one, LENGTH));
          all.forEach(([, cumulative, packed], i) => {
            reader.begin(i);
            for (const part of [
              sliceRollUp(wholes[i]!, 0, at * LENGTH),
              sliceRollUp(wholes[i]!, at * LENGTH, Number.POSITIVE_INFINITY),
            ]) {
              if (packed) reader.row(packRollUp(part), LENGTH, cumulative);
              else reader.rolled(part, LENGTH, cumulative);
            }
          });
          const found = reader.finish();
          all.forEach(([, cumulative], i) => {
            const part = partOf(reader, i, found);
            const expected = samplesOfRollUp(wholes[i]!, LENGTH, cumulative);
            expect(part.times).toEqual([...expected.times]);
            expect([...part.values]).toEqual([...expected.values]);
            for (const name of BESIDE)
              expect(bits(found.beside[name]!.subarray(found.starts[i], found.starts[i + 1]))).toEqual(
                bits(wholes[i]!.columns[name]),
              );
          });
        },
      ),
    );
  });

  it('of the same moments stand over one list of times', () => {
    const reader = new SeriesReader(100);
    const own = Array.from({ length: 50 }, (_, i) => i * 15);
    for (let i = 0; i < 100; i++) {
      reader.begin(i);
      reader.chunk(encodeChunk({ times: own, values: own.map((time) => time * i) }));
    }
    const found = reader.finish();
    expect([found.times.length, found.values.length]).toEqual([50, 5000]);
  });

  it('of damaged rows are an error', () => {
    const { buckets, first } = packRollUp(rollUp({ times: [1, 2], values: [1, 2] }, LENGTH));
    const reader = new SeriesReader(1);
    expect(() =>
      reader.row({ buckets, first: first!.slice(0, 2), last: null, increase: null }, LENGTH, true),
    ).toThrow();
  });
});
