import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  DEFAULT_PAGE_LIMITS,
  type Page,
  PageBuffer,
  type PageLimits,
  PageMemory,
  readBuffer,
  readPage,
  samplesOf,
} from './index.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (text: string, limits: PageLimits = DEFAULT_PAGE_LIMITS) =>
  readPage(bytes(text), { form: 'openmetrics', limits });
const plain = (text: string) => readPage(bytes(text), { form: 'plain' });
const codes = (page: Page) => page.problems.map(({ code }) => code);

const PAGE = `# TYPE pier_lamps gauge
# HELP pier_lamps Lamps that burn.
pier_lamps{quay="a",note="line\\none \\"two\\" \\\\ three"} 12
pier_lamps{quay="b"} 3.5e2 1700000000.125
# TYPE crane_moves counter
# HELP crane_moves How often.
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
    expect(samplesOf(page)).toHaveLength(8);
    expect(samplesOf(page)[0]).toMatchObject({
      name: 'pier_lamps',
      labels: [
        ['note', 'line\none "two" \\ three'],
        ['quay', 'a'],
      ],
      value: 12,
      at: null,
      cumulative: false,
    });
    expect(samplesOf(page)[1]).toMatchObject({ value: 350, at: 1_700_000_000_125 });
    expect(samplesOf(page)[2]).toMatchObject({ name: 'crane_moves_total', cumulative: true, value: 17 });
    expect(page.exemplars).toEqual([
      { slot: 2, exemplar: { labels: [['trace_id', 'ab']], value: 1, at: 1_700_000_000_000 } },
    ]);
    expect(page.families.get('crane_moves')).toMatchObject({ type: 'counter', help: 'How often.', samples: 2 });
  });

  it('gives the same on any split of the input, and in stretches', async () => {
    const whole = bytes(`${PAGE}ü rubbish\n`);
    const expected = readPage(whole, { form: 'openmetrics' });
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(whole.length), { maxLength: 12 }), async (cuts) => {
        const places = [...new Set([0, ...cuts, whole.length])].sort((a, b) => a - b);
        const buffer = new PageBuffer();
        for (let i = 1; i < places.length; i++) buffer.push(whole.subarray(places[i - 1], places[i]));
        expect(await readBuffer(buffer, { form: 'openmetrics' }, async () => undefined)).toEqual(expected);
      }),
    );
  });

  it('never throws, whatever comes', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 400 }),
        fc.constantFrom('openmetrics' as const, 'plain' as const),
        (noise, form) => {
          readPage(noise, { form });
        },
      ),
    );
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
    const page = read('a{x="1"} 1\na{x="2\n} 2\nb{x="\\\n3\nc 4 5 6\nd one\n1e 2\ng{x="1",x="2"} 1\nf 7\n# EOF\n');
    expect(samplesOf(page).map(({ name }) => name)).toEqual(['a', 'f']);
    expect(codes(page)).toEqual([
      'badLabels',
      'badName',
      'badEscape',
      'badName',
      'badTimestamp',
      'badValue',
      'badName',
      'duplicateLabel',
    ]);
    expect(page.problems[2]).toMatchObject({ line: 4, column: 6 });
  });

  it('reads NaN and infinities, and refuses them where a counter cannot have them', () => {
    const page = read('g NaN\nh +Inf\ni -Inf\nj 0x1F\n# TYPE c counter\nc_total NaN\nc_created 1\n# EOF\n');
    expect(samplesOf(page).map(({ value }) => value)).toEqual([Number.NaN, Infinity, -Infinity, 1]);
    expect(codes(page)).toEqual(['badValue', 'counterValue']);
  });

  it('counts the first of doubled series, and series at two times as two samples', () => {
    const page = read('a{x="1",y="2"} 1\na{y="2",x="1"} 2\na{x="1",y="2",z=""} 3\nb 1 10\nb 2 20\nb 3 20\n# EOF\n');
    expect(samplesOf(page).map(({ value }) => value)).toEqual([1, 1, 2]);
    expect(codes(page)).toEqual(['duplicateSample', 'duplicateSample', 'duplicateSample']);
  });

  it('says when declarations are late, families interleave, or an ending does not suit the type', () => {
    const page = read(
      '# TYPE a gauge\na 1\n# TYPE b gauge\nb 1\na{x="1"} 2\n# HELP a late\n# TYPE c counter\nc 1\n# EOF\nd 1\n',
    );
    expect(codes(page)).toEqual(['interleaved', 'lateDeclaration', 'wrongSuffix', 'afterEnd']);
    expect(samplesOf(page)).toHaveLength(3);
  });

  it('counts nothing of a page that was cut off', () => {
    const page = read(PAGE.slice(0, -40));
    expect(page.refused?.code).toBe('noEnd');
    expect(samplesOf(page)).toEqual([]);
    expect(read('a 1\n# EOF').refused).toBeNull();
  });

  it('ends an endless line, an endless page and too many samples at their limits', () => {
    const limits = { ...DEFAULT_PAGE_LIMITS, lineBytes: 1000, pageBytes: 5000, samples: 3 };
    const endless = new PageBuffer(limits);
    let pieces = 0;
    while (endless.push(bytes('x'.repeat(100)))) pieces++;
    expect(pieces).toBe(10);
    expect(endless.refused?.code).toBe('lineTooLong');
    expect(endless.take()).toHaveLength(0);
    const large = new PageBuffer(limits);
    while (large.push(bytes('# HELP a b\n'))) pieces++;
    expect(large.refused?.code).toBe('pageTooLarge');
    expect(pieces).toBeLessThan(600);
    expect(read(`a ${'1'.repeat(1001)}\n# EOF\n`, limits).refused?.code).toBe('lineTooLong');
    expect(read('a 1\nb 1\nc 1\nd 1\n# EOF\n', limits).refused?.code).toBe('tooManySamples');
  });

  it('refuses labels that are too many, too long or of bad bytes, and names the limit', () => {
    const limits = { ...DEFAULT_PAGE_LIMITS, labelsPerSample: 2, labelValueLength: 10, nameLength: 20 };
    const page = readPage(
      new Uint8Array([
        ...bytes(`a{a="1",b="2",c="3"} 1\na{a="${'v'.repeat(11)}"} 1\n${'n'.repeat(21)} 1\nb{a="`),
        0xff,
        ...bytes('"} 1\nok 1\n# EOF\n'),
      ]),
      { form: 'openmetrics', limits },
    );
    expect(codes(page)).toEqual(['tooManyLabels', 'tooLong', 'tooLong', 'badText']);
    expect(samplesOf(page).map(({ name }) => name)).toEqual(['ok']);
  });

  it('refuses the one character that cannot be stored, and keeps the other lines', () => {
    const page = read('a{x="1\u00002"} 1\na{x="12"} 1\n# EOF\n');
    expect(codes(page)).toEqual(['badText']);
    expect(samplesOf(page)).toHaveLength(1);
  });

  it('keeps at most the wanted number of problems and counts the rest', () => {
    const page = read(`${'?\n'.repeat(200)}# EOF\n`, { ...DEFAULT_PAGE_LIMITS, problemsKept: 5 });
    expect(page.problems).toHaveLength(5);
    expect(page.problemCount).toBe(200);
  });

  it('reads back what it would write, for any label text', () => {
    const quoted = (text: string) => text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n');
    const value = fc.string({ minLength: 1, unit: 'grapheme' }).filter((text) => !/[\uD800-\uDFFF]/u.test(text));
    fc.assert(
      fc.property(value, fc.double({ noNaN: true }), (text, number) => {
        const shown = number === Infinity ? '+Inf' : number === -Infinity ? '-Inf' : String(number);
        const [sample] = samplesOf(read(`m{l="${quoted(text)}"} ${shown}\n# EOF\n`));
        expect(sample?.labels).toEqual([['l', text]]);
        expect(sample?.value === number).toBe(true);
      }),
    );
  });
});

describe('the strict form', () => {
  const wrong = (text: string) => codes(read(`${text}\n# EOF\n`));
  it.each([
    ['a unit that the name does not end with', '# TYPE a gauge\n# UNIT a seconds\na 1', ['badUnit']],
    ['a unit of information', '# TYPE a_seconds info\n# UNIT a_seconds seconds\na_seconds_info 1', ['badUnit']],
    ['a declaration that stands twice', '# TYPE a gauge\n# TYPE a gauge\na 1', ['duplicateDeclaration']],
    ['a type that is none', '# TYPE a untyped\na 1', ['badComment']],
    ['any other comment', '# hello\na 1', ['badComment']],
    ['names that clash', '# TYPE a counter\na_total 1\n# TYPE a_created gauge\na_created 1', ['nameClash']],
    ['more than one blank', 'a  1', ['badValue']],
    ['a tab', 'a\t1', ['badValue']],
    ['a blank at the end', 'a 1 ', ['badTimestamp']],
    ['a comma at the end of the labels', 'a{b="1",} 1', ['badLabels']],
    ['a return before the line break', 'a 1\r', ['badValue']],
    ['an undeclared metric in two places', 'a{b="1"} 1\nc 1\na{b="2"} 1', ['interleaved']],
    ['times that go back', 'a 1 20\na 1 10', ['timeOrder']],
    ['a sample with a time and one without', 'a 1 20\na 1', ['duplicateSample']],
    ['series whose samples stand apart', 'a{b="1"} 1 1\na{b="2"} 1 1\na{b="1"} 1 2', ['interleaved']],
    ['a gauge with an exemplar', '# TYPE a gauge\na 1 # {} 1', ['badExemplar']],
    ['an exemplar with long labels', `# TYPE a counter\na_total 1 # {b="${'x'.repeat(128)}"} 1`, ['badExemplar']],
    ['information that is not 1', '# TYPE a info\na_info{b="1"} 2', ['badState']],
    ['a state that is neither 0 nor 1', '# TYPE a stateset\na{a="x"} 0.5', ['badState']],
    ['a state without its label', '# TYPE a stateset\na{b="x"} 1', ['badState']],
    ['a quantile above 1', '# TYPE a summary\na{quantile="1.5"} 1', ['badQuantile']],
    ['a negative sum of a summary', '# TYPE a summary\na_sum -1', ['counterValue']],
    ['a bucket without a bound', '# TYPE a histogram\na_bucket 1\na_bucket{le="+Inf"} 1', ['badBucket']],
    ['a histogram without its last bucket', '# TYPE a histogram\na_bucket{le="1"} 1', ['badHistogram']],
    ['buckets that fall', '# TYPE a histogram\na_bucket{le="1"} 2\na_bucket{le="+Inf"} 1', ['badHistogram']],
    [
      'buckets out of order',
      '# TYPE a histogram\na_bucket{le="+Inf"} 2\na_bucket{le="1"} 2',
      ['badHistogram', 'badHistogram'],
    ],
    [
      'a count unlike the last bucket',
      '# TYPE a histogram\na_bucket{le="+Inf"} 2\na_count 3\na_sum 1',
      ['badHistogram'],
    ],
    ['a sum without a count', '# TYPE a histogram\na_bucket{le="+Inf"} 2\na_sum 3', ['badHistogram']],
    [
      'metrics that stand apart',
      '# TYPE a summary\na_count{b="1"} 1\na_count{b="2"} 1\na_sum{b="1"} 1',
      ['interleaved'],
    ],
  ])('tells of %s', (_what, text, expected) => {
    expect(wrong(text)).toEqual(expected);
  });
  it.each([
    ['a histogram', '# TYPE a histogram\na_bucket{le="1"} 1\na_bucket{le="+Inf"} 2\na_count 2\na_sum 3\na_created 1'],
    ['a histogram of what may fall', '# TYPE a gaugehistogram\na_bucket{le="+Inf"} 2\na_gcount 2\na_gsum -3'],
    ['a summary', '# TYPE a summary\na{quantile="0.5"} NaN\na{quantile="1"} -1\na_count 1\na_sum 2'],
    ['states', '# TYPE a stateset\na{a="x"} 0\na{a="y"} 1'],
    ['information', '# TYPE a info\na_info{b="1"} 1'],
    ['no samples at all', '# TYPE a gauge'],
    ['an empty help', '# HELP a '],
    ['a help with escapes', '# HELP a one \\n two \\\\'],
    ['a series at several times', 'a 1 10\na 2 20.5'],
    ['a backslash before any character', 'a{b="\\q"} 1'],
    ['a unit', '# TYPE a_seconds gauge\n# UNIT a_seconds seconds\na_seconds 1'],
    ['infinities in any spelling', 'a +Inf\nb -INFINITY\nc inf\nd nAn'],
  ])('takes %s', (_what, text) => {
    expect(wrong(text)).toEqual([]);
  });
});

describe('the plain form', () => {
  it('takes blanks, tabs, other comments, blank lines, no end mark, and times in ms', () => {
    const page = plain(
      '# a word\n#\n  # HELP lamps  How many.\n# TYPE lamps gauge\n\n lamps { quay = "a" , } \t 3  1700000000123 \r\nlamps{quay="b"}4\nother 0x1p-2\nsome -Nan\n',
    );
    expect(page.problems).toEqual([]);
    expect(samplesOf(page).map(({ name, value, at }) => [name, value, at])).toEqual([
      ['lamps', 3, 1_700_000_000_123],
      ['lamps', 4, null],
      ['other', 0.25, null],
      ['some', Number.NaN, null],
    ]);
    expect(page.families.get('lamps')).toMatchObject({ type: 'gauge', help: 'How many.', samples: 2 });
  });
  it('knows a counter by its whole name, and forgives order, values and half a histogram', () => {
    const page = plain(
      '# TYPE moves_total counter\nmoves_total{a="1"} -1\n# TYPE h histogram\nh_bucket{le="1"} 2\nmoves_total{a="2"} 1\nh_sum 3\n# TYPE u untyped\nu 1\n',
    );
    expect(page.problems).toEqual([]);
    expect(samplesOf(page).map(({ name, cumulative }) => [name, cumulative])).toEqual([
      ['moves_total', true],
      ['h_bucket', true],
      ['moves_total', true],
      ['h_sum', true],
      ['u', false],
    ]);
  });
  it('takes no line that may have been cut off, no doubled sample, no exemplar', () => {
    expect(codes(plain('a 1\nb 123'))).toEqual(['tornLine']);
    expect(codes(plain('a 1\na 1\na 1 5\na 2 5\n'))).toEqual(['duplicateSample', 'duplicateSample', 'duplicateSample']);
    expect(codes(plain('a 1 # {} 1\na 1.5 1.5\n# TYPE b what\nb 1\n# TYPE b gauge\n'))).toEqual([
      'badTimestamp',
      'badTimestamp',
      'badComment',
      'lateDeclaration',
    ]);
  });
});

describe('what stands at several times', () => {
  const histogram = (at: number, counts: readonly number[]) =>
    [
      `wait_seconds_bucket{le="1"} ${counts[0]} ${at}`,
      `wait_seconds_bucket{le="+Inf"} ${counts[1]} ${at}`,
      `wait_seconds_sum ${counts[1]} ${at}`,
      `wait_seconds_count ${counts[1]} ${at}`,
    ].join('\n');
  it('points of one metric after each other are in order, whatever lines each has', () => {
    const page = read(
      `# TYPE wait_seconds histogram\n${histogram(10, [1, 2])}\n${histogram(20, [3, 5])}\n# TYPE boats counter\nboats_total 1 10\nboats_created 1 10\nboats_total 2 20\nboats_created 1 20\n# EOF\n`,
    );
    expect([page.problems, page.values.length]).toEqual([[], 12]);
  });
  it('each point is looked at by itself: one that counts otherwise than its buckets is named', () => {
    const wrong = histogram(20, [3, 5]).replace('wait_seconds_count 5', 'wait_seconds_count 6');
    const page = read(`# TYPE wait_seconds histogram\n${histogram(10, [1, 2])}\n${wrong}\n# EOF\n`);
    expect(codes(page)).toEqual(['badHistogram']);
  });
  it('what is not in order is named as that, and kept', () => {
    const lines = [10, 20].map((at) => histogram(at, [1, 2]).split('\n'));
    const apart = [0, 1, 2, 3].flatMap((i) => lines.map((own) => own[i]));
    const page = read(`# TYPE wait_seconds histogram\n${apart.join('\n')}\n# EOF\n`);
    expect(codes(page)[0]).toBe('interleaved');
    expect(page.problems[0]?.text).toContain('all of one time come together');
    expect([page.values.length, page.lost]).toEqual([8, 0]);
  });
  it('the same point twice is counted, and is no problem; another value at that time is', () => {
    const page = read('# TYPE a gauge\na 1 10\na 1 10\na 2 20\na 3 20\n# EOF\n');
    expect([page.doubled, page.lost, [...page.values], codes(page)]).toEqual([1, 1, [1, 2], ['duplicateSample']]);
  });
});

describe('what costs a line only', () => {
  const limits = { ...DEFAULT_PAGE_LIMITS, lineBytes: 60 };
  it('a comment that is too long, in one piece or in many', () => {
    const text = `# HELP a ${'x'.repeat(200)}\na 1\n# EOF\n`;
    const whole = read(text, limits);
    expect([whole.refused, codes(whole), whole.values.length]).toEqual([null, ['tooLong'], 1]);
    const buffer = new PageBuffer(limits);
    const bytes = new TextEncoder().encode(text);
    for (let at = 0; at < bytes.length; at += 7) expect(buffer.push(bytes.subarray(at, at + 7))).toBe(true);
    const sample = new PageBuffer(limits);
    expect(sample.push(new TextEncoder().encode(`${'a'.repeat(80)}`))).toBe(false);
  });
  it('text after the end mark, also where the page was known before', () => {
    const memory = new PageMemory();
    const page = (text: string) => readPage(new TextEncoder().encode(text), { form: 'openmetrics', memory });
    expect(codes(page('a 1\n# EOF\n'))).toEqual([]);
    expect(codes(page('a 2\n# EOF\nb 1\n'))).toEqual(['afterEnd']);
    expect(page('a 2\n# EOF\nb 1\n').values.length).toBe(1);
    expect(memory.warm).toBe(0);
  });
  it('in the plain form a name that nobody declared is kept, whatever it looks like', () => {
    const page = plain('# TYPE berths gauge\nberths 4\nberths_total 9\nberths_info 1\n');
    expect([codes(page), page.values.length]).toEqual([[], 3]);
  });
  it('help is read as it was meant', () => {
    const page = plain('# HELP a one\\nline \\\\ and \\"more\\"\na 1\n');
    expect(page.families.get('a')?.help).toBe('one\nline \\ and \\"more\\"');
    expect(read('# HELP a one\\nline \\\\ and \\"more\\"\na 1\n# EOF\n').families.get('a')?.help).toBe(
      'one\nline \\ and "more"',
    );
  });
});
