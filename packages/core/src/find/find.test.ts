import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ranked, rankOf, readMoment } from './index.ts';

const names = [
  'booking-front',
  'front-door',
  'seat-ledger',
  'booking-front-7c9-x2x',
  'tide-model',
  'tide-gauge-reader',
];
const found = (typed: string) =>
  ranked(
    typed,
    names.map((name) => ({ name })),
    10,
  ).map(({ name }) => name);

describe('finding by name', () => {
  it('puts the whole name first, then beginnings, then words inside', () => {
    expect(found('booking-front')).toEqual(['booking-front', 'booking-front-7c9-x2x']);
    expect(found('front')).toEqual(['front-door', 'booking-front', 'booking-front-7c9-x2x']);
    expect(found('led')).toEqual(['seat-ledger']);
  });
  it('takes words in any order, and any sign between them', () => {
    expect(found('reader tide')).toEqual(['tide-gauge-reader']);
    expect(found('Tide Model')).toEqual(['tide-model']);
    expect(found('tide_model')).toEqual(['tide-model']);
  });
  it('forgives a letter that is wrong, missing, too many or swapped', () => {
    for (const typed of ['bokking', 'boking', 'bookking', 'obok', 'bookign', 'ledgr'])
      expect([typed, found(typed).length > 0]).toEqual([typed, true]);
    expect(found('zzzz')).toEqual([]);
    // what is short is meant as it is typed
    expect(found('xy')).toEqual([]);
  });
  it('is 1 for a name itself, and never more', () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^[a-z0-9][a-z0-9-]{0,20}[a-z0-9]$/),
        fc.string({ maxLength: 12 }),
        (name, typed) => {
          expect(rankOf(name, name)).toBe(1);
          const rank = rankOf(typed, name);
          expect(rank).toBeGreaterThanOrEqual(0);
          expect(rank).toBeLessThanOrEqual(1);
        },
      ),
    );
  });
  it('one typed letter wrong is found wherever the name is found', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z]{6,12}$/), fc.nat(), fc.constantFrom('q', 'x'), (name, place, letter) => {
        const i = 1 + (place % (name.length - 1));
        expect(rankOf(name.slice(0, i) + letter + name.slice(i + 1), name)).toBeGreaterThan(0);
      }),
    );
  });
  it('puts what is gone behind what is there', () => {
    const both = ranked('tide', [{ name: 'tide', gone: true }, { name: 'tide-model' }], 5);
    expect(both.map(({ name }) => name)).toEqual(['tide-model', 'tide']);
  });
});

describe('moments', () => {
  const utc = (...[year, month, day, hour, minute]: [number, number, number, number, number]) =>
    Date.UTC(year, month, day, hour, minute);
  const now = Date.UTC(2026, 10, 25, 12, 30);
  const read = (typed: string) => {
    const at = readMoment(typed, now, utc);
    return at === null ? null : new Date(at).toISOString().slice(0, 16);
  };
  it.each([
    ['03:12', '2026-11-25T03:12'],
    ['23:50', '2026-11-24T23:50'],
    ['yesterday 03:12', '2026-11-24T03:12'],
    ['24 nov 03:12', '2026-11-24T03:12'],
    ['28 december 03:12', '2025-12-28T03:12'],
    ['2026-11-20 03:12', '2026-11-20T03:12'],
    ['2 h ago', '2026-11-25T10:30'],
    ['40 min ago', '2026-11-25T11:50'],
    ['today 23:50', null],
    ['25:00', null],
    ['tide-model', null],
    ['2030-01-01 00:00', null],
  ])('%s', (typed, wanted) => {
    expect(read(typed)).toBe(wanted);
  });
});
