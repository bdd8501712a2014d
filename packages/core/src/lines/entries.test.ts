import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ENTRY_LIMITS, Entries, type GivenLine, givenLine, momentOf, Resumed, type UpTo } from './entries.ts';

const stampOf = (i: number) => new Date(1_790_000_000_000 + i * 7).toISOString();
/** The entries of lines that were written 7 ms apart. */
function entriesOf(texts: readonly string[]): string[] {
  const entries = new Entries();
  const ended = texts.flatMap((text, i) => entries.push({ stamp: stampOf(i), text }) ?? []);
  return [...ended, ...[entries.end()].flatMap((one) => one ?? [])].map(({ text }) => text);
}

describe('entries of many lines', () => {
  it.each([
    ['what is indented', ['crane stuck', '\tat quay', '    in step 3', 'crane free'], [3, 1]],
    ['a cause', ['crane stuck', '  at quay', 'Caused by: wind', '  at mole'], [4]],
    ['an empty line within', ['crane stuck', '', '  at quay', 'on'], [3, 1]],
    [
      'what lacks the time that the others begin with',
      [
        '2026-11-24 03:12:00 a',
        '2026-11-24 03:12:01 b',
        '2026-11-24 03:12:02 c',
        'Traceback',
        'WindError: 9',
        '2026-11-24 03:12:03 d',
      ],
      [1, 1, 3, 1],
    ],
    ['what lacks the level', ['INFO a', 'WARN b', 'ERROR c', 'more of c', 'INFO d'], [1, 1, 2, 1]],
    ['nothing, where no line begins in any way', ['a', 'b', 'c', 'd'], [1, 1, 1, 1]],
    ['nothing before it is known how lines begin', ['INFO a', 'b', 'c'], [1, 1, 1]],
    ['nothing to an object', ['{"a":1}', '  {"b":2}', '{"c":3}', ' x'], [1, 1, 1, 1]],
  ] as const)('join %s', (_, texts, lengths) => {
    expect(entriesOf(texts).map((text) => text.split('\n').length)).toEqual(lengths);
  });
  it('are bounded, in lines and in letters', () => {
    const many = entriesOf(['head', ...Array.from({ length: 1200 }, () => ' more')]);
    expect(many.map((text) => text.split('\n').length)).toEqual([ENTRY_LIMITS.lines, ENTRY_LIMITS.lines, 201]);
    const long = entriesOf(['head', ...Array.from({ length: 10 }, () => ` ${'x'.repeat(20_000)}`)]);
    expect(long.every((text) => text.length <= ENTRY_LIMITS.letters)).toBe(true);
  });
  it('lose no line and change their order in none, whatever is written', () => {
    const text = fc.constantFrom('INFO a', ' b', 'c', '{"d":1}', '', 'Caused by: e', '2026-11-24T03:12:00Z f');
    fc.assert(
      fc.property(fc.array(text, { maxLength: 60 }), (texts) => {
        expect(entriesOf(texts).join('\n')).toBe(texts.join('\n'));
      }),
    );
  });
});

describe('a line as the cluster gives it', () => {
  it('has its time and its text', () => {
    expect(givenLine('2026-11-24T03:12:00.123456789Z crane  free ')).toEqual({
      stamp: '2026-11-24T03:12:00.123456789Z',
      text: 'crane  free ',
    });
    expect(momentOf('2026-11-24T03:12:00.5+01:00')).toBe(Date.parse('2026-11-24T02:12:00.500Z'));
    expect(givenLine('2026-11-24T03:12:00Z')?.text).toBe('');
  });
  it.each(['', 'crane free', '2026-11-24 03:12:00 x', '2026-13-44T99:12:00Z x'])('is none: %j', (line) => {
    expect(givenLine(line)).toBeNull();
  });
});

describe('lines after those that were taken', () => {
  /** Stamps that often are the same, and trimmed of their zeros as clusters trim them. */
  const written = fc.array(fc.nat({ max: 2 }), { minLength: 1, maxLength: 60 }).map((steps) => {
    let nanos = 0;
    return steps.map((step, i): GivenLine => {
      nanos += step * 400_000_000;
      const second = new Date(1_790_000_000_000 + Math.floor(nanos / 1e9) * 1000).toISOString().slice(0, 19);
      const fraction = `.${String(nanos % 1e9).padStart(9, '0')}`.replace(/\.?0+$/, '');
      return { stamp: `${second}${fraction}Z`, text: `line ${i}` };
    });
  });
  it('are taken once each, wherever it was stopped and however often', () => {
    fc.assert(
      fc.property(written, fc.array(fc.nat({ max: 70 }), { maxLength: 5 }), (lines, stops) => {
        const taken: string[] = [];
        let upTo: UpTo | null = null;
        for (const stop of [...stops, lines.length]) {
          const after = upTo as UpTo | null; // it changes below

          // the cluster begins at the second of the last one
          const since: number = after === null ? 0 : Math.floor(momentOf(after.stamp) / 1000) * 1000;
          const given = lines.filter(({ stamp }) => momentOf(stamp) >= since).slice(0, stop);
          const resumed = new Resumed(after);
          const entries = new Entries(after);
          const ended = given.filter((line) => resumed.isNew(line)).flatMap((line) => entries.push(line) ?? []);
          for (const entry of [...ended, ...[entries.end()].flatMap((one) => one ?? [])]) {
            taken.push(...entry.text.split('\n'));
            upTo = entry.upTo;
          }
          expect(resumed.missed).toBe(false);
        }
        expect(taken).toEqual(lines.map(({ text }) => text));
      }),
    );
  });
  it('are joined as before the break', () => {
    const before = new Entries();
    const ended = ['INFO a', 'INFO b', 'INFO c', 'INFO d'].flatMap(
      (text, i) => before.push({ stamp: stampOf(i), text }) ?? [],
    );
    const after = new Entries(ended.at(-1)!.upTo); // three of them
    after.push({ stamp: stampOf(9), text: 'INFO e' });
    after.push({ stamp: stampOf(10), text: 'more of e' });
    expect(after.end()?.text).toBe('INFO e\nmore of e');
  });
  it('are known to miss some where the last one is not there any more', () => {
    const resumed = new Resumed({ stamp: '2026-11-24T03:12:00.5Z', same: 1 });
    expect(resumed.isNew({ stamp: '2026-11-24T03:12:00.4Z', text: '' })).toBe(false);
    expect(resumed.isNew({ stamp: '2026-11-24T03:12:09Z', text: '' })).toBe(true);
    expect(resumed.missed).toBe(true);
  });
});
