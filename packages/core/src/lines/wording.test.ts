import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LINE_STYLES, rightShare } from '../../testing/lineStyles.ts';
import { MOST_WORDINGS, OTHER, Wordings, wordsOf } from './wording.ts';

/** A number as letters: digits are changing parts. */
const word = (n: number): string => [...String(n)].map((digit) => 'abcdefghij'[Number(digit)]!).join('');
const numbers = (wordings: Wordings, lines: readonly string[]) => lines.map((line) => wordings.numberOf(wordsOf(line)));

describe('the words of a line', () => {
  it.each([
    ['2026-11-24T03:12:00.123Z INFO [main] booked berth 7 for "MV Kelp" in 12.5 ms', 'booked berth … for … in … ms'],
    ['GET /api/berths/42/slots?x=1 HTTP/1.1 200', 'GET /api/berths/…/slots?x=… HTTP/… …'],
    ['peer 10.0.3.4:8080 and [fe80::1]:80 gone', 'peer … and […]:… gone'],
    ['ids=[1, 2, 3] done', 'ids=[…] done'],
    ['ids=[1] done', 'ids=[…] done'],
    ['job 4bf92f35-77b3-4da6-a3ce-929d0e0e4736 deadbeefcafe ended.', 'job … ended.'],
  ])('%s', (line, words) => {
    expect(wordsOf(line).join(' ')).toBe(words);
  });
  it('of an entry of many lines are those of the first, and the first exception', () => {
    expect(wordsOf('request failed\n  at x\nCaused by: harbour.BerthTakenException: 7').join(' ')).toBe(
      'request failed harbour.BerthTakenException',
    );
  });
});

describe('wordings', () => {
  it('of one word that changes are one, under the lowest number, and stay so', () => {
    const wordings = new Wordings();
    const ships = ['Kelp', 'Orca', 'Tern', 'Gull', 'Eider', 'Skua', 'Auk', 'Puffin', 'Heron', 'Crane'];
    const first = wordings.numberOf(wordsOf('lights on'));
    const given = numbers(
      wordings,
      ships.map((ship) => `ship ${ship} has left`),
    );
    expect(new Set(given.map((number) => wordings.standingOf(number)))).toEqual(new Set([given[0]]));
    expect(wordings.textOf(given[0]!)).toBe('ship … has left');
    expect(wordings.numberOf(wordsOf('ship Dunlin has left'))).toBe(given[0]);
    expect(wordings.numberOf(wordsOf('lights on'))).toBe(first);
  });
  it('never lose their last word', () => {
    const wordings = new Wordings();
    const given = numbers(
      wordings,
      'alpha beta gamma delta epsilon zeta eta theta iota kappa lambda'.split(' ').map((word) => `${word} 7`),
    );
    expect(new Set(given).size).toBe(11);
  });
  it('are the same after a restart: numbers, aliases and what is learned', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('ship', 'crane', 'tug'), fc.integer({ min: 0, max: 30 })), {
          maxLength: 120,
        }),
        fc.nat(120),
        (seen, cut) => {
          const lines = seen.map(
            ([what, n]) => `${what} ${String.fromCharCode(97 + (n % 26))}${n > 25 ? 'z' : 'y'} left port`,
          );
          const whole = new Wordings();
          const before = numbers(whole, lines.slice(0, cut));
          const again = Wordings.of(whole.toKeep());
          for (const [i, number] of numbers(again, lines.slice(0, cut)).entries())
            expect(again.standingOf(number)).toBe(whole.standingOf(before[i]!));
          for (const number of before) expect(again.textOf(number)).toBe(whole.textOf(number));
        },
      ),
    );
  });
  it('are bounded: what comes after is other, and counted', () => {
    const wordings = new Wordings();
    const words = Array.from({ length: 40 }, (_, i) => `w${'abcdefghij'[i % 10]}${'xyzt'[Math.floor(i / 10)]}`);
    for (let i = 0; i < 4000; i++)
      wordings.numberOf(
        [0, 1, 2, 3].map((at) => words[(i * (at + 3) + (i >> at)) % 40]!).concat(`t${i % 7 ? 'a' : 'b'}`),
      );
    expect(wordings.size).toBeLessThanOrEqual(MOST_WORDINGS);
    const full = new Wordings();
    // no two of them have all words but one in common
    const pairs = Array.from({ length: MOST_WORDINGS + 5 }, (_, i) => [`a${word(i)}`, `b${word(i)}`, `c${word(i)}`]);
    for (let i = 0; i < MOST_WORDINGS + 5; i++) full.numberOf(pairs[i]!);
    expect(full.numberOf(['quite', 'new'])).toBe(OTHER);
    expect(full.others).toBe(6);
  });
  it('give what changed to be kept, and no more once it is', () => {
    const wordings = new Wordings();
    wordings.numberOf(['a', 'b']);
    const some = wordings.toKeep();
    expect(some).toEqual([{ number: 1, text: 'a b', aliasOf: null }]);
    wordings.kept(some);
    expect(wordings.toKeep()).toEqual([]);
  });
  it.each(LINE_STYLES)(
    'of $name: at least nine in ten lines stand with those, and only those, of their kind',
    ({ lines }) => {
      const wordings = new Wordings();
      const given = lines.map(({ text }) => wordings.numberOf(wordsOf(text)));
      const standing = given.map((number) => wordings.standingOf(number));
      expect(rightShare(lines, standing)).toBeGreaterThanOrEqual(0.9);
    },
  );
});
