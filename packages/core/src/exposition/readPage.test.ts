import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_PAGE_LIMITS, type Page, PageReader, readPage } from './index.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (text: string) => readPage(bytes(text));
const codes = (page: Page) => page.problems.map(({ code }) => code);

const PAGE = `# TYPE pier_lamps gauge
# HELP pier_lamps Lamps that burn.
pier_lamps{quay="a",note="line\\none \\"two\\" \\\\ three"} 12
pier_lamps{quay="b"} 3.5e2 1700000000.125
# TYPE crane_moves counter
# UNIT crane_moves seconds
crane_moves_total{crane="1"} 17 # {trace_id="ab"} 1 1700000000
crane_moves_created{crane="1"} 1700000000
# TYPE tide histogram
tide_bucket{le="1"} 2
tide_bucket{le="+Inf"} 3
tide_count 3
tide_sum 4.25
# EOF
`;

describe('reading a page', () => {
  it('reads names, labels, escapes, values, times, types and passes exemplars over', () => {
    const page = read(PAGE);
    expect(page.problems).toEqual([]);
    expect(page.refused).toBeNull();
    expect(page.samples).toHaveLength(8);
    expect(page.samples[0]).toMatchObject({
      name: 'pier_lamps',
      labels: [
        ['note', 'line\none "two" \\ three'],
        ['quay', 'a'],
      ],
      value: 12,
      at: null,
      cumulative: false,
    });
    expect(page.samples[1]).toMatchObject({ value: 350, at: 1_700_000_000_125 });
    expect(page.samples[2]).toMatchObject({ name: 'crane_moves_total', cumulative: true, value: 17 });
    expect(page.families.get('crane_moves')).toMatchObject({ type: 'counter', unit: 'seconds', samples: 2 });
  });

  it('gives the same on any split of the input', () => {
    const whole = bytes(`${PAGE}ü rubbish\n`);
    const expected = readPage(whole);
    fc.assert(
      fc.property(fc.array(fc.nat(whole.length), { maxLength: 12 }), (cuts) => {
        const places = [...new Set([0, ...cuts, whole.length])].sort((a, b) => a - b);
        const reader = new PageReader();
        for (let i = 1; i < places.length; i++) reader.push(whole.slice(places[i - 1], places[i]));
        expect(reader.end()).toEqual(expected);
      }),
    );
    const single = new PageReader();
    for (const byte of whole) single.push(Uint8Array.of(byte));
    expect(single.end()).toEqual(expected);
  });

  it('never throws, whatever comes', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 400 }), (noise) => void readPage(noise)));
    const shards = fc.constantFrom(
      '# TYPE a counter',
      'a_total',
      '{',
      '}',
      'x="',
      '"',
      '\\',
      ' ',
      '1',
      'NaN',
      '\n',
      '# EOF',
      ',',
      '=',
      '#',
      '\u0000',
      'é',
    );
    fc.assert(fc.property(fc.array(shards, { maxLength: 60 }), (parts) => void read(parts.join(''))));
  });

  it('keeps every other line when one is bad', () => {
    const page = read('a{x="1"} 1\na{x="2\n} 2\nb{x="\\q"} 3\nc 4 5 6\nd one\n1e 2\ng{x="1",x="2"} 1\nf 7\n# EOF\n');
    expect(page.samples.map(({ name }) => name)).toEqual(['a', 'f']);
    expect(codes(page)).toEqual([
      'badLabels',
      'badName',
      'badEscape',
      'badTimestamp',
      'badValue',
      'badName',
      'duplicateLabel',
    ]);
    expect(page.problems[2]).toMatchObject({ line: 4, column: 6 });
  });

  it('reads NaN and infinities, and refuses them where a counter cannot have them', () => {
    const page = read('g NaN\nh +Inf\ni -Inf\nj 0x1F\n# TYPE c counter\nc_total NaN\nc_created -1\n# EOF\n');
    expect(page.samples.map(({ value }) => value)).toEqual([Number.NaN, Infinity, -Infinity, -1]);
    expect(codes(page)).toEqual(['badValue', 'counterValue']);
  });

  it('counts the first of doubled series, and series at two times as two samples', () => {
    const page = read('a{x="1",y="2"} 1\na{y="2",x="1"} 2\na{x="1",y="2",z=""} 3\nb 1 10\nb 2 20\nb 3 20\n# EOF\n');
    expect(page.samples.map(({ value }) => value)).toEqual([1, 1, 2]);
    expect(codes(page)).toEqual(['duplicateSample', 'duplicateSample', 'duplicateSample']);
  });

  it('says when declarations are late, families interleave, or an ending does not suit the type', () => {
    const page = read(
      '# TYPE a gauge\na 1\n# TYPE b gauge\nb 1\na{x="1"} 2\n# HELP a late\n# TYPE c counter\nc 1\n# EOF\nd 1\n',
    );
    expect(codes(page)).toEqual(['interleaved', 'lateDeclaration', 'wrongSuffix', 'afterEnd']);
    expect(page.samples).toHaveLength(3);
  });

  it('counts nothing of a page that was cut off', () => {
    const page = read(PAGE.slice(0, -40));
    expect(page.refused?.code).toBe('noEnd');
    expect(page.samples).toEqual([]);
    expect(read('a 1\n# EOF').refused).toBeNull();
  });

  it('ends an endless line, an endless page and too many samples at their limits', () => {
    const limits = { ...DEFAULT_PAGE_LIMITS, lineBytes: 1000, pageBytes: 5000, samples: 3 };
    const endless = new PageReader(limits);
    let pieces = 0;
    while (endless.push(bytes('x'.repeat(100)))) pieces++;
    expect(pieces).toBe(10);
    expect(endless.end().refused?.code).toBe('lineTooLong');
    const large = new PageReader(limits);
    while (large.push(bytes('# HELP a b\n'))) pieces++;
    expect(large.end().refused?.code).toBe('pageTooLarge');
    expect(pieces).toBeLessThan(600);
    expect(readPage(bytes('a 1\nb 1\nc 1\nd 1\n# EOF\n'), limits).refused?.code).toBe('tooManySamples');
  });

  it('refuses labels that are too many, too long or of bad bytes, and names the limit', () => {
    const limits = { ...DEFAULT_PAGE_LIMITS, labelsPerSample: 2, labelValueLength: 10, nameLength: 20 };
    const page = readPage(
      new Uint8Array([
        ...bytes(`a{a="1",b="2",c="3"} 1\na{a="${'v'.repeat(11)}"} 1\n${'n'.repeat(21)} 1\nb{a="`),
        0xff,
        ...bytes('"} 1\nok 1\n# EOF\n'),
      ]),
      limits,
    );
    expect(codes(page)).toEqual(['tooManyLabels', 'tooLong', 'tooLong', 'badText']);
    expect(page.samples.map(({ name }) => name)).toEqual(['ok']);
  });

  it('refuses the one character that cannot be stored, and keeps the other lines', () => {
    const page = read('a{x="1\u00002"} 1\na{x="12"} 1\n# EOF\n');
    expect(codes(page)).toEqual(['badText']);
    expect(page.samples).toHaveLength(1);
  });

  it('keeps at most the wanted number of problems and counts the rest', () => {
    const page = readPage(bytes(`${'?\n'.repeat(200)}# EOF\n`), { ...DEFAULT_PAGE_LIMITS, problemsKept: 5 });
    expect(page.problems).toHaveLength(5);
    expect(page.problemCount).toBe(200);
  });

  it('reads back what it would write, for any label text', () => {
    const quoted = (text: string) => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n');
    const value = fc.string({ minLength: 1, unit: 'grapheme' }).filter((text) => !/[\uD800-\uDFFF]/u.test(text));
    fc.assert(
      fc.property(value, fc.double({ noNaN: true }), (text, number) => {
        const shown = number === Infinity ? '+Inf' : number === -Infinity ? '-Inf' : String(number);
        const [sample] = read(`m{l="${quoted(text)}"} ${shown}\n# EOF\n`).samples;
        expect(sample?.labels).toEqual([['l', text]]);
        expect(sample?.value === number).toBe(true);
      }),
    );
  });
});
