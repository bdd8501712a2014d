import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readWrittenAmount, writeAmount } from './writtenAmount.ts';

describe('numbers that people write', () => {
  it('bear a unit, or none', () => {
    expect(readWrittenAmount('200MiB')).toEqual({ value: 209_715_200, unit: 'bytes' });
    expect(readWrittenAmount(' 1,5 h ')).toEqual({ value: 5400, unit: 'seconds' });
    expect(readWrittenAmount('250 ms')).toEqual({ value: 0.25, unit: 'seconds' });
    expect(readWrittenAmount('85%')).toEqual({ value: 0.85, unit: '' });
    expect(readWrittenAmount('-3e2')).toEqual({ value: -300, unit: null });
    for (const wrong of [
      '',
      'MiB',
      '12 apples',
      '1 mib',
      '1.2.3',
      '0x10',
      'NaN',
      'Infinity',
      '1e999',
      '1 2',
      '9'.repeat(80),
    ])
      expect([wrong, readWrittenAmount(wrong)]).toEqual([wrong, null]);
  });
  it('are written in what is shortest, and read as they were', () => {
    expect(writeAmount(209_715_200, 'bytes')).toBe('200 MiB');
    expect(writeAmount(1_610_612_736, 'bytes')).toBe('1.5 GiB');
    expect(writeAmount(209_715_201, 'bytes')).toBe('209715201');
    expect(writeAmount(0.25, 'seconds')).toBe('250 ms');
    expect(writeAmount(90, 'seconds')).toBe('1.5 m');
    expect(writeAmount(0.85, '')).toBe('0.85');
    expect(writeAmount(0, 'bytes')).toBe('0');
    expect(writeAmount(14_600_000_000, 'bytes')).toBe('14600000000');
    expect(writeAmount(14_600_000_000, 'bytes', 5)).toBe('13.597 GiB');
    expect(writeAmount(0.123456, 'cores', 5)).toBe('0.12346');
    fc.assert(
      fc.property(
        fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e18, max: 1e18 }),
        fc.constantFrom('bytes', 'seconds', 'cores', '', null),
        (value, unit) => {
          const read = readWrittenAmount(writeAmount(value, unit));
          expect(read?.value).toBe(value === 0 ? 0 : value);
          expect([null, unit]).toContain(read?.unit);
        },
      ),
    );
  });
});
