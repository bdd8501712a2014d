import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nothingMasked } from '../lines/index.ts';
import { readSpans } from '../telemetry/index.ts';
import { decodeSpans, encodeSpans } from './block.ts';
import { maskedSpan } from './mask.ts';
import { EVERYTHING_KEPT, OpenTraces, type SamplingChoice, weightOf } from './openTraces.ts';
import { MOST_OPERATIONS, OTHER_OPERATIONS, REQUEST_BOUNDS, RequestCounts } from './requests.ts';
import { type BlockSpan, SPAN_KINDS } from './span.ts';
import { summaryOf } from './summary.ts';

const hex = (length: number) => fc.stringMatching(new RegExp(`^[1-9a-f][0-9a-f]{${length - 1}}$`));
const micros = (max: number) => fc.integer({ min: 0, max }).map((whole) => whole / 1000);
const field = fc.tuple(fc.string({ minLength: 1, maxLength: 8 }), fc.string({ unit: 'grapheme', maxLength: 20 }));
const fields = fc.array(field, { maxLength: 3 });
const anySpan: fc.Arbitrary<BlockSpan> = fc.record({
  traceId: fc.constantFrom('a'.repeat(32), 'b'.repeat(32)),
  spanId: hex(16),
  parentId: fc.oneof(fc.constant(''), hex(16)),
  name: fc.string({ unit: 'grapheme', maxLength: 20 }),
  kind: fc.constantFrom(...SPAN_KINDS),
  at: micros(4e15),
  took: micros(4e9),
  failed: fc.boolean(),
  message: fc.string({ maxLength: 20 }),
  fields,
  events: fc.array(fc.record({ at: micros(4e15), name: fc.string({ maxLength: 10 }), fields }), { maxLength: 3 }),
  links: fc.array(hex(32), { maxLength: 2 }),
  origin: fc.nat(9),
});
/** Spans where parents are really there, too. */
const related = fc.array(anySpan, { maxLength: 20 }).chain((spans) =>
  fc
    .tuple(
      fc.constant(spans),
      fc.array(fc.option(fc.nat(Math.max(0, spans.length - 1))), { minLength: spans.length, maxLength: spans.length }),
    )
    .map(([all, parents]) =>
      all.map((own, i) => {
        const parent = parents[i] === null || parents[i] === undefined ? undefined : all[parents[i]];
        return parent ? { ...own, parentId: parent.spanId } : own;
      }),
    ),
);
const span = (more: Partial<BlockSpan> = {}): BlockSpan => ({
  traceId: '4bf92f3577b34da6a3ce929d0e0e4736',
  spanId: '00f067aa0ba902b7',
  parentId: '',
  name: 'GET /seats',
  kind: 'server',
  at: 1000,
  took: 20,
  failed: false,
  message: '',
  fields: [],
  events: [],
  links: [],
  origin: 0,
  ...more,
});

describe('a block of spans', () => {
  it('gives back what it was made of', () => {
    fc.assert(
      fc.property(related, (spans) => {
        expect(decodeSpans(encodeSpans(spans))).toEqual(spans);
      }),
    );
  });
  it('says that it is damaged where it is, and takes no room by a number in it', () => {
    fc.assert(
      fc.property(related, fc.nat(), fc.nat(255), (spans, place, byte) => {
        const bytes = encodeSpans(spans);
        bytes[place % bytes.length] = byte;
        try {
          expect(decodeSpans(bytes).length).toBeLessThanOrEqual(bytes.length);
        } catch (error) {
          expect((error as Error).message).toMatch(/bytes end|not known|not told|too long/);
        }
      }),
    );
  });
});

describe('traces that are open', () => {
  it('are complete a minute after their last span, and five after the first at the latest', () => {
    const open = new OpenTraces<BlockSpan>();
    const came = [0, 50_000, 100_000, 150_000, 200_000, 250_000, 299_000];
    came.forEach((at, i) => {
      open.add(span({ spanId: `${i + 1}`.padStart(16, '0') }), at, EVERYTHING_KEPT);
      expect(open.due(at, 1000)).toEqual([]);
    });
    expect(open.due(299_999, 1000)).toEqual([]);
    expect(open.due(300_000, 1000)[0]!.spans).toHaveLength(7);
    open.add(span(), 400_000, EVERYTHING_KEPT);
    expect(open.due(459_999, 1000)).toEqual([]);
    expect(open.due(460_000, 1000)).toHaveLength(1);
    expect(open.spans).toBe(0);
  });
  it('have every span once, however often and in whatever order it comes', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(9), { maxLength: 60 }), (sent) => {
        const open = new OpenTraces<BlockSpan>();
        for (const n of sent) open.add(span({ spanId: `${n + 1}`.padStart(16, '0') }), 0, EVERYTHING_KEPT);
        expect(open.spans).toBe(new Set(sent).size);
      }),
    );
  });
  it('are bounded: those that began first are decided when there is no room', () => {
    const open = new OpenTraces<BlockSpan>();
    for (let i = 1; i <= 20; i++) open.add(span({ traceId: `${i}`.padStart(32, '0') }), i, EVERYTHING_KEPT);
    const decided = open.due(30, 12);
    expect(decided.map(({ traceId }) => Number(traceId))).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    expect(open.spans).toBe(12);
  });
});

describe('a sampling choice', () => {
  const choice: SamplingChoice = { oneIn: 8, slow: 500 };
  it('keeps all that failed or was slow, and of the rest so many that their weights add up', () => {
    const ids = Array.from({ length: 8000 }, (_, i) => ((i * 2_654_435_761) % 2 ** 32).toString(16).padStart(32, '0'));
    expect(ids.every((traceId) => weightOf({ traceId, spans: [span({ failed: true })], choice }) === 1)).toBe(true);
    expect(ids.every((traceId) => weightOf({ traceId, spans: [span({ took: 500 })], choice }) === 1)).toBe(true);
    const weights = ids.map((traceId) => weightOf({ traceId, spans: [span()], choice }));
    expect(new Set(weights)).toEqual(new Set([0, 8]));
    expect(weights.reduce((sum, weight) => sum + weight, 0)).toBeGreaterThan(7200);
    expect(weights.reduce((sum, weight) => sum + weight, 0)).toBeLessThan(8800);
  });
  it('of two keys is the wider one', () => {
    const open = new OpenTraces<BlockSpan>();
    open.add(span(), 0, { oneIn: 1000, slow: 5000 });
    open.add(span({ spanId: '1'.padStart(16, '0') }), 0, { oneIn: 1, slow: 5000 });
    expect(open.due(1e9, 0)[0]!.weight).toBe(1);
  });
});

describe('what lists tell of a trace', () => {
  it('is where the request came in at each origin, how long it all took, and what is missing', () => {
    const root = span({ took: 100 });
    const calls = span({ spanId: '1'.padStart(16, '0'), parentId: root.spanId, kind: 'client', at: 1010, took: 80 });
    const answers = span({
      spanId: '2'.padStart(16, '0'),
      parentId: calls.spanId,
      name: 'book',
      at: 1020,
      took: 90,
      origin: 1,
      failed: true,
    });
    const lost = span({
      spanId: '3'.padStart(16, '0'),
      parentId: 'f'.repeat(16),
      kind: 'internal',
      at: 1030,
      origin: 1,
    });
    const summary = summaryOf(root.traceId, [lost, calls, answers, root], 4);
    expect(summary).toMatchObject({ at: 1000, took: 110, failed: true, spans: 4, weight: 4, orphans: 1 });
    expect(summary.parts).toEqual(
      expect.arrayContaining([
        { origin: 0, operation: 'GET /seats', at: 1000, took: 100, failed: false },
        { origin: 1, operation: 'book', at: 1020, took: 90, failed: true },
      ]),
    );
  });
});

describe('requests from spans', () => {
  it('are counted where they come in, each in one bucket, with its newest trace', () => {
    fc.assert(
      fc.property(fc.array(anySpan, { maxLength: 60 }), (spans) => {
        const counts = new RequestCounts();
        for (const own of spans) counts.count(own);
        const entries = spans.filter(({ kind }) => kind === 'server' || kind === 'consumer');
        const all = counts.all();
        const sum = (of: (own: (typeof all)[number]) => number) => all.reduce((total, own) => total + of(own), 0);
        expect(sum(({ requests }) => requests)).toBe(entries.length);
        expect(sum(({ failures }) => failures)).toBe(entries.filter(({ failed }) => failed).length);
        expect(sum(({ buckets }) => buckets.reduce((a, b) => a + b, 0))).toBe(entries.length);
        for (const { buckets, examples } of all)
          examples.forEach((example, i) => {
            expect(example !== null).toBe(buckets[i]! > 0);
            if (example) expect(example.seconds).toBeLessThanOrEqual(REQUEST_BOUNDS[i] ?? Number.POSITIVE_INFINITY);
          });
      }),
    );
  });
  it('of too many operations are those of others, and starts from nothing stand apart', () => {
    const counts = new RequestCounts();
    for (let i = 0; i < 200; i++) counts.count(span({ name: `op ${i}` }));
    expect(counts.all()).toHaveLength(MOST_OPERATIONS + 1);
    expect(counts.all().find(({ operation }) => operation === OTHER_OPERATIONS)!.requests).toBe(200 - MOST_OPERATIONS);
    const few = new RequestCounts();
    few.count(span());
    few.count(span({ fields: [['faas.coldstart', 'true']] }));
    expect(few.all().map(({ cold, requests }) => [cold, requests])).toEqual([
      [false, 1],
      [true, 1],
    ]);
  });
});

describe('spans that are pushed', () => {
  const NOW = 1_764_500_000_000;
  const sent = (more: object) => ({
    resourceSpans: [
      {
        resource: { attributes: [{ key: 'service.name', value: { stringValue: 'gate' } }] },
        scopeSpans: [
          {
            spans: [
              {
                traceId: '4bf92f3577b34da6a3ce929d0e0e4736',
                spanId: '00f067aa0ba902b7',
                name: 'GET',
                kind: 2,
                startTimeUnixNano: `${NOW}000000`,
                endTimeUnixNano: `${NOW + 5}250000`,
                ...more,
              },
            ],
          },
        ],
      },
    ],
  });
  it('are read with all that they say', () => {
    const { resources, refused } = readSpans(
      sent({
        parentSpanId: '1'.repeat(16),
        status: { code: 2, message: 'no seat' },
        attributes: [
          { key: 'http', value: { kvlistValue: { values: [{ key: 'status', value: { intValue: '503' } }] } } },
        ],
        events: [{ timeUnixNano: `${NOW}500000`, name: 'retry', attributes: [] }],
        links: [{ traceId: 'c'.repeat(32) }, { traceId: 'x' }],
      }),
      NOW,
    );
    expect(refused).toBe(0);
    expect(resources[0]!.items).toEqual([
      {
        traceId: '4bf92f3577b34da6a3ce929d0e0e4736',
        spanId: '00f067aa0ba902b7',
        parentId: '1'.repeat(16),
        name: 'GET',
        kind: 'server',
        at: NOW,
        took: 5.25,
        failed: true,
        message: 'no seat',
        fields: [['http.status', '503']],
        events: [{ at: NOW + 0.5, name: 'retry', fields: [] }],
        links: ['c'.repeat(32)],
      },
    ]);
  });
  it.each([
    [{ traceId: '0'.repeat(32) }, 'no trace id'],
    [{ spanId: 'zz' }, 'no trace id'],
    [{ endTimeUnixNano: '1' }, 'ends before it begins'],
    [{ startTimeUnixNano: '0' }, 'says no time'],
    [{ endTimeUnixNano: `${NOW + 3_600_000}000000` }, 'in the future'],
    [{ startTimeUnixNano: '1000000000', endTimeUnixNano: '1000000000' }, 'older than'],
  ])('are refused one by one: %o', (more, why) => {
    const { resources, refused, problem } = readSpans(sent(more), NOW);
    expect([resources, refused]).toEqual([[], 1]);
    expect(problem).toContain(why);
  });
  it('hold no secret', () => {
    const counts = nothingMasked();
    const out = maskedSpan(
      span({
        name: 'GET /x?token=quay7',
        message: 'to a@harbour.example',
        fields: [['http.request.header.authorization', 'quay7']],
        events: [{ at: 1, name: 'key=quay7', fields: [['password', 'quay7']] }],
      }),
      counts,
    );
    expect(JSON.stringify(out)).not.toMatch(/quay7|harbour\.example/);
    expect(counts).toMatchObject({ token: 4, mail: 1 });
  });
});
