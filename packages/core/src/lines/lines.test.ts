import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type BlockLine, decodeLines, encodeLines } from './block.ts';
import { partBody } from './fields.ts';
import { LINE_LEVELS, LINE_LIMITS, type SentLine } from './line.ts';
import { nothingMasked } from './masking.ts';
import { partLine } from './partLine.ts';
import { mayHold, searchWords, wordFilter } from './wordFilter.ts';

const sent = (text: string, more: Partial<SentLine> = {}): SentLine => ({
  at: 1000,
  severity: 0,
  text,
  fields: [],
  traceId: '',
  spanId: '',
  ...more,
});
const part = (text: string, more: Partial<SentLine> = {}) => partLine(sent(text, more), nothingMasked());
const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';

describe('the level of a line', () => {
  it.each([
    ['ERROR berth is taken', 'error'],
    ['2026-11-24 03:12:00 [warn] slow', 'warning'],
    ['03:12 main info: up', 'info'],
    ['<debug> x', 'debug'],
    ['no error here', null],
    ['a b c d e ERROR', null],
    ['answered 500', null],
  ])('%s: %s', (text, level) => {
    expect(part(text).level).toBe(level);
  });
  it('is the record’s own first, then a field’s, in words or numbers', () => {
    expect(part('ERROR x', { severity: 9 }).level).toBe('info');
    expect(part('{"level":"warn","msg":"ERROR x"}').level).toBe('warning');
    expect(part('{"level":50,"msg":"x"}').level).toBe('error');
    expect(part('{"status":500,"msg":"x"}').level).toBeNull();
    expect([1, 5, 9, 13, 17, 21, 25].map((severity) => part('x', { severity }).level)).toEqual([...LINE_LEVELS, null]);
  });
});

describe('the parts of a line', () => {
  it('are those of a JSON object, what is nested by its path', () => {
    expect(part('{"msg":"booked","http":{"status":200,"tags":["a","b"]},"ok":true,"none":null}')).toMatchObject({
      text: 'booked',
      fields: [
        ['http.status', '200'],
        ['http.tags', 'a, b'],
        ['ok', 'true'],
        ['none', 'null'],
      ],
    });
  });
  it('are pairs of key and value, where nothing else stands there', () => {
    expect(partBody('level=info msg="a \\"b\\" c" took=12ms')).toEqual({
      text: 'a "b" c',
      fields: [
        ['level', 'info'],
        ['took', '12ms'],
      ],
    });
    for (const text of ['a=1', 'done took=12ms', 'a=1 b', '{"a":1', '[1]', 'a="1 b=2'])
      expect(partBody(text)).toBeNull();
  });
  it('name the trace in the usual ways', () => {
    for (const text of [
      `{"trace_id":"${TRACE}"}`,
      `{"traceId":"${TRACE.toUpperCase()}"}`,
      `{"trace":{"id":"${TRACE}"}}`,
      `msg=x traceparent=00-${TRACE}-00f067aa0ba902b7-01`,
    ])
      expect(part(text).traceId).toBe(TRACE);
    expect(part(`{"trace_id":"${'0'.repeat(32)}"}`).traceId).toBe('');
    expect(part(`{"trace_id":"${TRACE}"}`, { traceId: '1'.repeat(32) }).traceId).toBe('1'.repeat(32));
  });
  it('are bounded, whatever was sent', () => {
    const deep = `${'{"a":'.repeat(2000)}1${'}'.repeat(2000)}`;
    expect(part(deep).fields).toEqual([['a.a.a.a.a.a', '…']]);
    const wide = JSON.stringify(
      Object.fromEntries(Array.from({ length: 5000 }, (_, i) => [`f${i}`, 'x'.repeat(9000)])),
    );
    // cut before it is parted, so that it is no object any more
    expect(part(wide).text).toHaveLength(LINE_LIMITS.text);
    const many = JSON.stringify(Object.fromEntries(Array.from({ length: 500 }, (_, i) => [`f${i}`, i])));
    expect(part(many).fields).toHaveLength(LINE_LIMITS.fields);
    expect(part('a\u0000b\ud800').text).toBe('a\ufffdb\ufffd');
    expect(part('{"__proto__":{"x":1},"constructor":"y"}').fields).toEqual([
      ['__proto__.x', '1'],
      ['constructor', 'y'],
    ]);
  });
  it('hold no secret, whether it stands in text, field or name of a field', () => {
    const line = part('{"msg":"to a@harbour.example","password":"quay","b@harbour.example":"c@harbour.example"}');
    expect(JSON.stringify(line)).not.toMatch(/harbour|quay/);
  });
  it('any text is parted into what is parted no further and keeps its letters', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme', maxLength: 300 }), (text) => {
        const line = part(text);
        expect(line.text.length + line.fields.length > 0 || text.trim() === '{}' || text === '').toBe(true);
      }),
    );
  });
});

describe('a block of lines', () => {
  const hex = (length: number) => fc.stringMatching(new RegExp(`^[1-9a-f][0-9a-f]{${length - 1}}$`));
  const line: fc.Arbitrary<BlockLine> = fc.record({
    at: fc.integer({ min: 0, max: 4e15 }).map((micros) => micros / 1000),
    level: fc.constantFrom(null, ...LINE_LEVELS),
    text: fc.string({ unit: 'grapheme' }),
    fields: fc.array(fc.tuple(fc.string({ minLength: 1, maxLength: 8 }), fc.string({ unit: 'grapheme' })), {
      maxLength: 4,
    }),
    traceId: fc.oneof(fc.constant(''), hex(32)),
    spanId: fc.oneof(fc.constant(''), hex(16)),
    wording: fc.integer({ min: 0, max: 1000 }),
    origin: fc.integer({ min: 0, max: 2 ** 31 }),
  });
  it('gives back what it was made of', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 40 }), (lines) => {
        expect(decodeLines(encodeLines(lines))).toEqual(lines);
      }),
    );
  });
  it('keeps texts apart that would join: halves of a pair become a sign each', () => {
    const texts = ['a\ud83d', '\ude00b', 'ä€😀'];
    const lines = texts.map((text) => ({ ...partLine(sent('x'), nothingMasked()), text, wording: 0, origin: 0 }));
    expect(decodeLines(encodeLines(lines)).map(({ text }) => text)).toEqual(['a\ufffd', '\ufffdb', 'ä€😀']);
  });
  it('says that it is damaged where it is, and takes no room by a number in it', () => {
    fc.assert(
      fc.property(fc.array(line, { maxLength: 5 }), fc.nat(), fc.nat(255), (lines, place, byte) => {
        const bytes = encodeLines(lines);
        bytes[place % bytes.length] = byte;
        try {
          expect(decodeLines(bytes).length).toBeLessThanOrEqual(bytes.length);
        } catch (error) {
          expect((error as Error).message).toMatch(/bytes end|not known|not told|too long/);
        }
      }),
    );
  });
});

describe('the filter of words', () => {
  it('finds every word that is there, in upper and lower case', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ unit: 'grapheme' }), { maxLength: 30 }), (texts) => {
        const words = new Set(texts.flatMap((text) => [...searchWords(text)]));
        const filter = wordFilter(words);
        for (const text of texts) for (const word of searchWords(text)) expect(mayHold(filter, word)).toBe(true);
      }),
    );
  });
  it('rarely finds another', () => {
    const filter = wordFilter(new Set(Array.from({ length: 5000 }, (_, i) => `word${i}`)));
    const wrong = Array.from({ length: 5000 }, (_, i) => mayHold(filter, `other${i}`)).filter(Boolean).length;
    expect(wrong).toBeLessThan(150);
  });
});
