import fc from 'fast-check';
import { expect, it } from 'vitest';
import { parseQuantity, quantityNumber } from './index.ts';

const E9 = 1_000_000_000n;

it('is exact for every suffix', () => {
  const cases: [string, bigint][] = [
    ['250m', 250_000_000n],
    ['1.5Gi', 1_610_612_736n * E9],
    ['1e3', 1000n * E9],
    ['1E3', 1000n * E9],
    ['1E', 1_000_000_000_000_000_000n * E9],
    ['1Ei', (1n << 60n) * E9],
    ['0.1', 100_000_000n],
    ['.5', 500_000_000n],
    ['5.', 5n * E9],
    ['100n', 100n],
    ['7u', 7000n],
    ['12k', 12_000n * E9],
    ['-2M', -2_000_000n * E9],
    ['9007199254740993', 9_007_199_254_740_993n * E9],
    ['1.25e-2', 12_500_000n],
    ['0.0000000001', 1n],
  ];
  for (const [text, nano] of cases) expect([text, parseQuantity(text)]).toEqual([text, nano]);
});

it('refuses what is no amount', () => {
  for (const text of ['', 'abc', '1.2.3', '1Kb', '1 m', 'Gi', '1e', '1e9999', '--1', '1mi', 'NaN', 'Infinity'])
    expect([text, parseQuantity(text)]).toEqual([text, null]);
  expect(quantityNumber(undefined)).toBeNull();
});

it('follows arithmetic: milli is a thousandth, Ki is 1024', () => {
  fc.assert(
    fc.property(fc.nat(10_000_000), (n) => {
      expect(parseQuantity(`${n}m`)! * 1000n).toBe(parseQuantity(`${n}`)!);
      expect(parseQuantity(`${n}Ki`)!).toBe(parseQuantity(`${n * 1024}`)!);
      expect(parseQuantity(`${n}e3`)!).toBe(parseQuantity(`${n}k`)!);
      expect(quantityNumber(`${n}Mi`)).toBe(n * 1_048_576);
    }),
  );
});
