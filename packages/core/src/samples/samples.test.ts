import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DamagedBytes, decodeChunk, decodeFrame, END_MARKER, encodeChunk, encodeFrame, isEndMarker } from './index.ts';

/** The 64 bits of each number: what "exact" means. */
const bits = (values: ArrayLike<number>) => Array.from(new BigUint64Array(Float64Array.from(values).buffer));

/** A quiet NaN with any payload, as other programs may send them. */
const quietNaN = fc.nat(0xffff_ffff).map((low) => {
  const words = new Uint32Array([low, 0x7ff8_0000]);
  return new Float64Array(words.buffer)[0]!;
});
const anyDouble = fc.oneof(
  fc.double(),
  quietNaN,
  fc.constantFrom(-0, 0, Number.MIN_VALUE, Number.MAX_VALUE, 2 ** 53 + 2, END_MARKER, Infinity, -Infinity),
);
const anyTime = fc.oneof(fc.integer({ min: 0, max: 2 ** 45 }), fc.maxSafeInteger());

describe('chunks', () => {
  it('give back any doubles at any times, bit by bit', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(anyTime, anyDouble), { maxLength: 60 }), (samples) => {
        const times = samples.map(([time]) => time);
        const values = samples.map(([, value]) => value);
        const back = decodeChunk(encodeChunk({ times, values }));
        expect(Array.from(back.times)).toEqual(times);
        expect(bits(back.values)).toEqual(bits(values));
      }),
      { numRuns: 500 },
    );
  });

  it('give back regular readings with repeats and late ones', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ jitter: fc.constantFrom(0, 0, 0, 1, -3, 15000), value: fc.constantFrom(1, 1, 1, 1.5, 1e9) }),
          { minLength: 1, maxLength: 500 },
        ),
        (steps) => {
          let time = 1_700_000_000_000;
          const times = steps.map(({ jitter }) => (time += 15_000 + jitter));
          const values = steps.map(({ value }) => value);
          const back = decodeChunk(encodeChunk({ times, values }));
          expect(Array.from(back.times)).toEqual(times);
          expect(Array.from(back.values)).toEqual(values);
        },
      ),
    );
  });

  it('pack a steady gauge far below its 16 bytes a sample', () => {
    const times = Array.from({ length: 480 }, (_, i) => 1_700_000_000_000 + i * 15_000);
    const flat = encodeChunk({ times, values: times.map(() => 42) });
    const counter = encodeChunk({ times, values: times.map((_, i) => i * 17) });
    expect(flat.length).toBeLessThan(40);
    expect(counter.length / 480).toBeLessThan(4);
  });

  it('pack decimals, pages of memory and counters to a byte or two, whatever exceptions stand among them', () => {
    const times = Array.from({ length: 480 }, (_, i) => 1_700_000_000_000 + i * 15_000);
    let seed = 7;
    const roll = () => {
      seed = (seed * 16_807) % 2_147_483_647;
      return seed / 2_147_483_647;
    };
    const sizes = (next: (i: number) => number) => {
      const values = Float64Array.from(times, (_, i) => next(i));
      const clean = encodeChunk({ times, values }).length / 480;
      values[100] = END_MARKER;
      values[200] = Number.POSITIVE_INFINITY;
      const bytes = encodeChunk({ times, values });
      expect(bits(decodeChunk(bytes).values)).toEqual(bits(values));
      return [clean, bytes.length / 480] as const;
    };
    for (const [next, most] of [
      [() => Math.round(roll() * 400) / 100 + 50, 1.4],
      [() => 3e8 - (3e8 % 4096) + Math.floor(roll() * 100) * 4096, 1.2],
      [(i: number) => i * 40 + Math.floor(roll() * 20), 1.0],
    ] as const) {
      const [clean, spoilt] = sizes(next);
      expect(clean).toBeLessThan(most);
      expect(spoilt - clean).toBeLessThan(0.1);
    }
  });

  it('give back decimals of any places and size, and multiples of any power of two', () => {
    const decimal = fc
      .tuple(fc.integer({ min: -(2 ** 31), max: 2 ** 31 }), fc.nat(9))
      .map(([whole, places]) => whole / 10 ** places);
    const multiple = fc.tuple(fc.integer({ min: -(2 ** 30), max: 2 ** 30 }), fc.nat(22)).map(([n, k]) => n * 2 ** k);
    fc.assert(
      fc.property(
        fc.array(fc.oneof(decimal, multiple, fc.maxSafeInteger(), fc.constantFrom(END_MARKER, -0)), { maxLength: 100 }),
        (list) => {
          const values = Float64Array.from(list);
          const back = decodeChunk(encodeChunk({ times: list.map((_, i) => i), values }));
          expect(bits(back.values)).toEqual(bits(values));
        },
      ),
      { numRuns: 500 },
    );
  });

  it('still read what version 1 wrote', () => {
    const old = Buffer.from('01040000008056febc7842b0ea010001060000000000004540214003404d800465cdc581', 'hex');
    const { times, values } = decodeChunk(old);
    expect(Array.from(times)).toEqual([1_700_000_000_000, 1_700_000_015_000, 1_700_000_030_000, 1_700_000_045_003]);
    expect(Array.from(values)).toEqual([42, 42.5, -3, 1e9]);
  });

  it('refuse damaged bytes instead of inventing samples', () => {
    const whole = encodeChunk({ times: [1, 2, 3], values: [1, 2, 3] });
    for (let length = 0; length < whole.length; length++)
      expect(() => decodeChunk(whole.slice(0, length))).toThrow(DamagedBytes);
    expect(() => decodeChunk(Uint8Array.of(99, 0))).toThrow(/not known to this version/);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (noise) => {
        try {
          decodeChunk(noise);
        } catch (error) {
          expect(error).toBeInstanceOf(DamagedBytes);
        }
      }),
    );
  });

  it('refuse lists of unequal length', () => {
    expect(() => encodeChunk({ times: [1], values: [] })).toThrow(RangeError);
  });
});

describe('frames', () => {
  it('give back values, ended series and times', () => {
    const frame = fc.array(fc.tuple(anyDouble, anyTime), { maxLength: 40 });
    fc.assert(
      fc.property(frame, fc.array(fc.nat(2 ** 31 - 1), { maxLength: 5 }), fc.boolean(), (samples, ended, timed) => {
        const values = samples.map(([value]) => value);
        const times = timed ? samples.map(([, time]) => time) : null;
        const back = decodeFrame(encodeFrame({ values, ended, times }));
        expect(bits(back.values)).toEqual(bits(values));
        expect(back.ended).toEqual(ended);
        expect(back.times && Array.from(back.times)).toEqual(times);
      }),
    );
  });
  it('refuse torn bytes', () => {
    const whole = encodeFrame({ values: [1, 2], ended: [7], times: null });
    for (let length = 0; length < whole.length; length++)
      expect(() => decodeFrame(whole.slice(0, length))).toThrow(DamagedBytes);
  });
});

it('the end marker is a NaN unlike every other', () => {
  expect(END_MARKER).toBeNaN();
  expect(isEndMarker(END_MARKER)).toBe(true);
  expect([Number.NaN, 0, Infinity].some(isEndMarker)).toBe(false);
  expect(isEndMarker(decodeChunk(encodeChunk({ times: [1, 2], values: [5, END_MARKER] })).values[1]!)).toBe(true);
});
