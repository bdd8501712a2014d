import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_PAGE_LIMITS, type Page, PageMemory, PageReader, readPage } from './index.ts';
import { scanNumber } from './scanNumber.ts';

const bytesOf = (text: string) => new TextEncoder().encode(text);

describe('a number scanned from bytes', () => {
  // what stands before and after it belongs to others
  const scanned = (text: string) => scanNumber(bytesOf(`x ${text}12`), 2, 2 + text.length);
  it('is the double that Number makes of the same text', () => {
    const digits = fc.string({ unit: fc.constantFrom(...'0123456789'), maxLength: 20 });
    const decimal = fc
      .tuple(
        fc.constantFrom('', '+', '-'),
        digits,
        fc.constantFrom('', '.'),
        digits,
        fc.constantFrom('', 'e5', 'E-7', 'e+300', 'e-320', 'e99999'),
      )
      .map((parts) => parts.join(''));
    fc.assert(
      fc.property(fc.oneof(decimal, fc.double({ noNaN: true, noDefaultInfinity: true }).map(String)), (text) => {
        const plain = /^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?$/.test(text);
        expect(scanned(text)).toEqual(plain ? Number(text) : null);
      }),
      { numRuns: 3000 },
    );
  });
  it('is nothing else', () => {
    for (const text of ['', '-', '.', 'NaN', '+Inf', '1 2', '1 # {} 1', '1e', '0x10', '1_000', '1.2.3'])
      expect(scanned(text)).toBeNull();
    expect(Object.is(scanned('-0'), -0)).toBe(true);
  });
});

/** Lines of pages as endpoints serve them, good and bad; the value varies from reading to reading. */
const value = fc.oneof(
  fc.integer({ min: 0, max: 1e6 }).map(String),
  fc.double({ min: 0, max: 1e9, noNaN: true }).map(String),
  fc.constantFrom('NaN', '+Inf', '-1', '1e3', '5 1700000000', '7 # {trace="a b"} 1', '1 x', ''),
);
const STEMS = [
  'up',
  'work_total',
  'work_total{pod="a"}',
  'work_total{pod="b c} 1"}',
  'work_sum',
  'heat{place="Mærsk ☂"}',
  'heat{place="x",empty=""}',
  'loose{a="1"}',
] as const;
const OTHERS = [
  '# TYPE work counter',
  '# TYPE heat gauge',
  '# HELP heat how warm',
  '# UNIT heat celsius',
  '# TYPE up gauge',
  '# comment of no kind',
  '',
  'no value at all',
  '# EOF',
] as const;
const line = fc.oneof(
  { weight: 8, arbitrary: fc.tuple(fc.constantFrom(...STEMS), value).map((parts) => parts.join(' ')) },
  { weight: 3, arbitrary: fc.constantFrom(...OTHERS) },
);
const seen = ({ families, ...page }: Page) => ({ ...page, families: [...families.values()] });

function read(text: string, memory: PageMemory | null, cuts: readonly number[], limits = DEFAULT_PAGE_LIMITS): Page {
  const reader = new PageReader(limits, memory);
  const bytes = bytesOf(text);
  let at = 0;
  for (const cut of [...cuts.map((share) => Math.floor(share * bytes.length)), bytes.length].sort((a, b) => a - b)) {
    if (!reader.push(bytes.subarray(at, cut))) break;
    at = cut;
  }
  return reader.end();
}

describe('a page read warm', () => {
  const good = ['# TYPE work counter', 'work_total{pod="a"} 1', 'work_total{pod="b"} 2', '# TYPE heat gauge', 'heat 3'];
  const page = (lines: readonly string[]) => `${[...lines, '# EOF'].join('\n')}\n`;

  it('is what the full parser makes of it, whatever came before, whatever the pieces', () => {
    const change = fc.record({ at: fc.nat(30), line, how: fc.constantFrom('replace', 'insert', 'remove', 'value') });
    fc.assert(
      fc.property(
        fc.array(line, { maxLength: 14 }),
        fc.array(fc.array(change, { maxLength: 3 }), { minLength: 1, maxLength: 5 }),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { maxLength: 4 }),
        (start, readings, cuts) => {
          const memory = new PageMemory();
          const lines = [...start];
          for (const changes of [[], ...readings]) {
            for (const { at, line: next, how } of changes) {
              const place = at % (lines.length + 1);
              if (how === 'insert') lines.splice(place, 0, next);
              else if (how === 'remove') lines.splice(place, 1);
              else if (how === 'replace' && place < lines.length) lines[place] = next;
              else if (lines[place] !== undefined) lines[place] = lines[place].replace(/[\d.]+$/, String(at));
            }
            const text = page(lines);
            expect(seen(read(text, memory, cuts))).toEqual(seen(readPage(bytesOf(text))));
          }
        },
      ),
      { numRuns: 1500 },
    );
  });

  it('keeps the limits of the full parser', () => {
    const memory = new PageMemory();
    const text = page(good);
    read(text, memory, []);
    for (const limits of [
      { ...DEFAULT_PAGE_LIMITS, samples: 2 },
      { ...DEFAULT_PAGE_LIMITS, pageBytes: 40 },
      { ...DEFAULT_PAGE_LIMITS, lineBytes: 12 },
    ])
      expect(seen(read(text, memory, [0.5], limits))).toEqual(seen(read(text, null, [0.5], limits)));
    for (const torn of [text.slice(0, -6), text.slice(0, 40), `${text}more\n`, text.slice(0, -1), ''])
      expect(seen(read(torn, memory, [0.3]))).toEqual(seen(read(torn, null, [0.3])));
  });

  it('remembers good pages only, and stays warm after a bad one', () => {
    const memory = new PageMemory();
    read(page(good), memory, []);
    const { last } = memory;
    expect(last?.samples).toHaveLength(6);
    read(page([...good, 'not good']), memory, []);
    read(page(good.slice(0, 2)).slice(0, -6), memory, []);
    expect(memory.last).toBe(last);
    // the same lines with other values need no new memory
    read(page(good.map((text) => text.replace(/ (\d)$/, ' 4$1'))), memory, []);
    expect(memory.last).toBe(last);
    read(page([...good, 'heat{a="1"} 5']), memory, []);
    expect(memory.last?.samples).toHaveLength(7);
  });
});
