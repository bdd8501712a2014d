import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_PAGE_LIMITS, type Form, type Page, PageMemory, readPage } from './index.ts';
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

/** Gives every series a number once, as a store does, and says what a page held. */
class Owner {
  private readonly numbers = new Map<string, number>();
  private readonly known: string[] = [''];
  take(page: Page, memory: PageMemory) {
    for (const { slot, key, name, labels, cumulative } of page.fresh) {
      let id = this.numbers.get(key);
      if (id === undefined) {
        id = this.known.length;
        this.numbers.set(key, id);
        this.known.push('');
      }
      this.known[id] = JSON.stringify([name, labels, cumulative]);
      memory.ids[slot] = id;
    }
    const { values, slots, times, families, problems, problemCount, bytes, lines, refused, exemplars } = page;
    return {
      ids: Array.from(slots, (slot) => memory.ids[slot]),
      series: Array.from(slots, (slot) => this.known[memory.ids[slot]!]),
      values: [...values],
      times: times && [...times],
      exemplars: exemplars.map(({ slot, exemplar }) => [memory.ids[slot], exemplar]),
      families: [...families.values()].map((family) => ({ ...family })).sort((a, b) => (a.name < b.name ? -1 : 1)),
      problems,
      problemCount,
      bytes,
      lines,
      refused,
    };
  }
}

const value = fc.oneof(
  fc.integer({ min: 0, max: 1e6 }).map(String),
  fc.double({ min: 0, max: 1e9, noNaN: true }).map(String),
  fc.constantFrom('NaN', '+Inf', '-1', '1e3', '5 1700000000', '7 # {trace="a b"} 1', '1 x', '', '1 ', '\t2', '0x1p3'),
);
const STEMS = [
  'up',
  'work_total',
  'work_total{pod="a"}',
  'work_total{pod="b c} 1"}',
  'work_total{pod="a",}',
  'work_sum',
  'work_created',
  'heat{place="Mærsk ☂"}',
  'heat{place="x",empty=""}',
  'heat{place="x"}',
  'loose{a="1"}',
  'loose{b="1",a="1"}',
  'loose{a="1",b="1"}',
  'span_bucket{le="1"}',
  'span_bucket{le="+Inf"}',
  'span_count',
  'span_sum',
  'ages{quantile="0.5"}',
  'ages_count',
] as const;
const OTHERS = [
  '# TYPE work counter',
  '# TYPE work_total counter',
  '# TYPE heat gauge',
  '# HELP heat how warm',
  '# UNIT heat celsius',
  '# TYPE up gauge',
  '# TYPE span histogram',
  '# TYPE ages summary',
  '# comment of no kind',
  '',
  'no value at all',
  '# EOF',
] as const;
const line = fc.oneof(
  { weight: 8, arbitrary: fc.tuple(fc.constantFrom(...STEMS), value).map((parts) => parts.join(' ')) },
  { weight: 3, arbitrary: fc.constantFrom(...OTHERS) },
);
/** Pages that are right, with many lines, as most are. */
const goodPage = fc
  .tuple(fc.uniqueArray(fc.nat(30), { minLength: 2, maxLength: 30 }), fc.nat(1000))
  .map(([pods, seed]) => [
    '# TYPE work counter',
    ...pods.map((pod) => `work_total{pod="p${pod}"} ${seed + pod}`),
    '# TYPE heat gauge',
    '# HELP heat how warm',
    ...pods.map((pod) => `heat{pod="p${pod}"} ${seed / (pod + 1)}`),
    '# TYPE span histogram',
    `span_bucket{le="1"} ${seed}`,
    `span_bucket{le="+Inf"} ${seed + 3}`,
    `span_count ${seed + 3}`,
    `loose{a="${pods.length}"} 1`,
  ]);
const change = fc.record({
  at: fc.nat(80),
  line,
  how: fc.constantFrom('replace', 'insert', 'insert', 'remove', 'value', 'value', 'swap', 'double'),
});

function changed(lines: readonly string[], changes: readonly { at: number; line: string; how: string }[]): string[] {
  const next = [...lines];
  for (const { at, line: fresh, how } of changes) {
    const place = at % (next.length + 1);
    const here = next[place];
    if (how === 'insert') next.splice(place, 0, fresh);
    else if (here === undefined) continue;
    else if (how === 'remove') next.splice(place, 1);
    else if (how === 'replace') next[place] = fresh;
    else if (how === 'double') next.splice(place, 0, here);
    else if (how === 'swap') next.splice(place, 2, next[place + 1] ?? here, here);
    else next[place] = here.replace(/[\d.]+$/, String(at));
  }
  return next;
}
const textOf = (lines: readonly string[], form: Form) =>
  bytesOf(`${(form === 'plain' ? lines : [...lines, '# EOF']).join('\n')}\n`);

describe('a page read warm', () => {
  it.each(['openmetrics', 'plain'] as const)(
    'in the form %s is what reading in full makes of it, numbers of series included, whatever came before',
    (form) => {
      let warm = 0;
      fc.assert(
        fc.property(
          fc.oneof(goodPage, fc.array(line, { maxLength: 14 })),
          fc.array(fc.array(change, { maxLength: 3 }), { minLength: 1, maxLength: 5 }),
          (start, readings) => {
            const memory = new PageMemory();
            const owner = new Owner();
            let lines: readonly string[] = start;
            for (const changes of [[], ...readings]) {
              lines = changed(lines, changes);
              const bytes = textOf(lines, form);
              const fast = owner.take(readPage(bytes, { form, memory }), memory);
              const plainMemory = new PageMemory();
              expect(fast).toEqual(owner.take(readPage(bytes, { form, memory: plainMemory }), plainMemory));
            }
            warm += memory.warm;
          },
        ),
        { numRuns: 1300 },
      );
      // of some 5,000 readings of pages that change this much
      expect(warm).toBeGreaterThan(400);
    },
    60_000,
  );

  const good = ['# TYPE work counter', 'work_total{pod="a"} 1', 'work_total{pod="b"} 2', '# TYPE heat gauge', 'heat 3'];
  const read = (lines: readonly string[], memory: PageMemory, limits = DEFAULT_PAGE_LIMITS) =>
    readPage(textOf(lines, 'openmetrics'), { form: 'openmetrics', memory, limits });

  it('looks nothing up while the page keeps its shape, and only what is new when pods come and go', () => {
    const memory = new PageMemory();
    expect(read(good, memory)).toMatchObject({ unchanged: false, fresh: [{}, {}, {}] });
    const same = read(
      good.map((text) => text.replace(/ (\d)$/, ' 4$1')),
      memory,
    );
    expect(same).toMatchObject({ unchanged: true, fresh: [] });
    expect([...same.values]).toEqual([41, 42, 43]);
    const come = read(good.toSpliced(2, 0, 'work_total{pod="c"} 9'), memory);
    expect(come).toMatchObject({ unchanged: false, fresh: [{ slot: 3, name: 'work_total' }] });
    expect([...come.slots]).toEqual([0, 3, 1, 2]);
    const gone = read(good.toSpliced(1, 1, 'work_total{pod="c"} 9'), memory);
    expect(gone).toMatchObject({ unchanged: false, fresh: [] });
    expect([...gone.slots]).toEqual([3, 1, 2]);
    expect(read(good.toSpliced(1, 1, 'work_total{pod="c"} 9'), memory).unchanged).toBe(true);
    expect([memory.full, memory.warm]).toEqual([1, 4]);
  });
  it('reads what is wrong in itself beside the rest, and what is wrong by its place in full', () => {
    const memory = new PageMemory();
    read(good, memory);
    expect(read(good.toSpliced(2, 0, 'work_total{pod=c} 9'), memory).problems).toMatchObject([
      { code: 'badLabels', line: 3 },
    ]);
    expect(memory.full).toBe(1);
    expect(read([...good, 'work_total{pod="b"} 2'], memory).problems.map(({ code }) => code)).toEqual([
      'interleaved',
      'duplicateSample',
    ]);
    expect([memory.full, memory.table]).toEqual([2, null]);
  });
  it('keeps the limits of the full parser, and its memory when a page is torn', () => {
    const memory = new PageMemory();
    read(good, memory);
    for (const limits of [
      { ...DEFAULT_PAGE_LIMITS, samples: 2 },
      { ...DEFAULT_PAGE_LIMITS, pageBytes: 40 },
      { ...DEFAULT_PAGE_LIMITS, lineBytes: 12 },
    ])
      expect(read(good, memory, limits).refused).toEqual(read(good, new PageMemory(), limits).refused);
    const whole = textOf(good, 'openmetrics');
    for (const torn of [whole.slice(0, -6), whole.slice(0, 40), new Uint8Array()])
      expect(readPage(torn, { form: 'openmetrics', memory }).refused?.code).toBe('noEnd');
    expect(readPage(whole.slice(0, -1), { form: 'openmetrics', memory }).unchanged).toBe(true);
    expect(memory.full).toBe(1);
  });
});
