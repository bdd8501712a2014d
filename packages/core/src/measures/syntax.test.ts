import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyBody } from '../../testing/bodies.ts';
import { isNear, LONGEST_BODY, nearestOf, parseMeasure, printMeasure } from './index.ts';

const parsed = (text: string) => {
  const read = parseMeasure(text);
  if ('problem' in read) throw new Error(`${read.problem.text} at ${JSON.stringify(read.problem.at)}\n${text}`);
  return read.body;
};
const problem = (text: string) => {
  const read = parseMeasure(text);
  if (!('problem' in read)) throw new Error(`read: ${text}`);
  return read.problem;
};

describe('the steps language', () => {
  it('is printed as text that reads as the same tree', () => {
    fc.assert(
      fc.property(anyBody, (body) => {
        const text = printMeasure(body);
        expect(parsed(text)).toEqual(body);
        // canonical: printed again it is the same
        expect(printMeasure(parsed(text))).toBe(text);
      }),
      { numRuns: 2000 },
    );
  });
  it('reads the design’s own example', () => {
    const body = parsed(`
      # Share of failed answers, per service
      failed = read http_server_answers_total where outcome is "error"
               per second over 5m
               total for each service
               missing counts 0
      all = read http_server_answers_total per second over 5m total for each service
      show failed / all as percent`);
    expect(printMeasure(body)).toBe(`# Share of failed answers, per service
failed = read http_server_answers_total
  where outcome is "error"
  per second over 5m
  total for each service
  missing counts 0
all = read http_server_answers_total
  per second over 5m
  total for each service
show failed / all as percent
`);
  });
  it('reads line breaks and indentation as blanks, and both signs of minus', () => {
    expect(parsed('show a\n-\nb')).toEqual(parsed('show a − b'));
    expect(parsed('read x growth\nover\n1d')).toEqual(parsed('read x growth over 1d'));
  });
  it.each([
    ['', 1, 1, /“read”, “show”, or a name/, null],
    ['raed x', 1, 1, /was expected; “raed” stands here/, 'read'],
    ['a = read x\n  per secnd over 5m\nshow a', 2, 7, /“second”/, null],
    ['a = read x\n  avrage over 5m\nshow a', 2, 3, /a step/, 'average'],
    ['read x average', 1, 15, /“over” and a duration.*the text ends/, null],
    ['read x average over 5', 1, 21, /a number above 0 with s, m, h, d or w/, null],
    ['read x average over 0m', 1, 21, /above 0/, null],
    ['read x average by month in UTC', 1, 19, /“hour”, “day” or “week”/, null],
    ['read x average by day in Europe/Olso', 1, 26, /no time zone/, null],
    ['read x where a like "b"', 1, 16, /“is”, “contains”/, null],
    ['read x where a is b', 1, 19, /a text in double quotes/, null],
    ['read x where a is "b', 1, 19, /has no end/, null],
    ['read x where a is "\\q"', 1, 20, /knows/, null],
    ['read x where a matches /b', 1, 24, /has no end/, null],
    ['read x percentile 101 over 5m', 1, 19, /between 0 and 100/, null],
    ['read x keep above 5Mib', 1, 19, /no unit/, 'MiB'],
    ['read x top 0', 1, 12, /whole number from 1/, null],
    ['show (a + b', 1, 12, /“\)”.*the text ends/, null],
    ['show a b', 1, 8, /the end was expected; “b”/, null],
    ['a = b\nshow a', 1, 5, /“read” or “from”/, null],
    ['show a +', 1, 9, /a name, a number/, null],
    ['read x missing counts 1', 1, 23, /0 was expected/, null],
  ] as const)('says what is wrong in %j, and where', (text, line, column, words, nearest) => {
    const own = problem(text);
    expect(own.text).toMatch(words);
    expect(own.at).toEqual({ line, column });
    expect(own.nearest).toBe(nearest);
  });
  it('answers any text with a tree or a place in it, soon', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ maxLength: 60 }),
          fc
            .array(
              fc.constantFrom(
                'read',
                'x',
                'show',
                'a',
                '=',
                'where',
                'is',
                '"b"',
                'over',
                '5m',
                '(',
                ')',
                '/',
                ',',
                'total',
                'for each',
                '#',
                '\n',
                '1',
              ),
            )
            .map((all) => all.join(' ')),
        ),
        (text) => {
          const read = parseMeasure(text);
          if (!('problem' in read)) expect(parsed(printMeasure(read.body))).toEqual(read.body);
          else expect(read.problem.at!.line).toBeLessThanOrEqual(text.split('\n').length);
        },
      ),
      { numRuns: 2000 },
    );
  });
  it('knows the nearest name among very many, and none where none is near', () => {
    const names = Array.from({ length: 50_000 }, (_, i) => `metric_of_some_length_${i}`);
    expect(nearestOf('metric_of_some_lenght_4711', [...names, 'x'])).toBe('metric_of_some_length_4711');
    expect(nearestOf('nothing_like_it', names)).toBeNull();
    fc.assert(
      fc.property(fc.string({ minLength: 4, maxLength: 30 }), fc.nat(29), (name, at) => {
        const place = Math.min(at, name.length - 1);
        expect(isNear(name.slice(0, place) + name.slice(place + 1), name)).toBe(true);
        expect(isNear(`${name}longer by more`, name)).toBe(false);
      }),
    );
  });
  it('refuses what is too long or nested too deep, instead of running out of stack', () => {
    expect(problem(`show ${'('.repeat(15_000)}`).text).toMatch(/nested more than/);
    expect(problem(`show ${'-'.repeat(15_000)}1`).text).toMatch(/nested more than/);
    expect(problem(`show 1${' + 1'.repeat(4_000)}`).text).toMatch(/in a row/);
    expect(problem(' '.repeat(LONGEST_BODY + 1)).text).toMatch(/at most 20000/);
  });
});
