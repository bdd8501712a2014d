import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_PAGE_LIMITS, writePage } from '../exposition/index.ts';
import type { Span } from '../spans/index.ts';
import { MINUTE } from '../units/index.ts';
import { endKey, type LinkEnd, type LinkRequest, OUTSIDE, pairKey } from './link.ts';
import { LinkFolder, MOST_HELD } from './pairing.ts';
import { KEPT_FOR, LinkTotals } from './totals.ts';
import { CALL } from './wire-names.ts';

const START = 1_790_000_040_000;
const end = (name: string): LinkEnd => ({ cluster: 'seaward', namespace: 'quay', workload: `deployment:${name}` });
const span = (own: Partial<Span> & Pick<Span, 'spanId' | 'kind'>): Span => ({
  traceId: 'f'.repeat(32),
  parentId: '',
  name: 'x',
  at: START,
  took: 10,
  failed: false,
  message: '',
  fields: [],
  events: [],
  links: [],
  ...own,
});
const folder = () => new LinkFolder({ named: ({ service, address }) => end(service || address || 'unnamed') });
const LATER = START + 10 * MINUTE;
const told = (requests: readonly LinkRequest[]) =>
  requests.map(({ link, seenBy, failed, own, calls }) => ({ pair: pairKey(link), seenBy, failed, own, calls }));

describe('requests between two ends', () => {
  it('are told once by each side, in the minute in which the caller’s span ended', () => {
    const folding = folder();
    folding.add(end('crane'), [span({ spanId: 'a', kind: 'client', at: START, took: 2 * MINUTE })], START);
    folding.add(
      end('store'),
      [
        span({ spanId: 'b', parentId: 'a', kind: 'server', at: START + 5, took: 100, failed: true }),
        span({ spanId: 'c', parentId: 'b', kind: 'internal', at: START + 10, took: 80 }),
        span({ spanId: 'd', parentId: 'c', kind: 'client', at: START + 20, took: 40, fields: [[CALL.peer, 'base']] }),
        span({ spanId: 'e', parentId: 'b', kind: 'client', at: START + 40, took: 40, fields: [[CALL.peer, 'base']] }),
      ],
      START,
    );
    const requests = folding.fold(LATER, LATER);
    const pair = `${endKey(end('crane'))} → ${endKey(end('store'))}`;
    expect(told(requests).filter((one) => one.pair === pair)).toEqual([
      { pair, seenBy: 'caller', failed: false, own: null, calls: 0 },
      // it waited for others from 20 to 80: 40 of its 100 ms are its own
      { pair, seenBy: 'answerer', failed: true, own: 0.04, calls: 2 },
    ]);
    const minutes = requests.filter(({ link }) => pairKey(link) === pair).map(({ minute }) => minute);
    expect(new Set(minutes)).toEqual(new Set([Math.floor((START + 2 * MINUTE) / MINUTE) * MINUTE]));
    expect(folding.fold(LATER, LATER + MINUTE)).toEqual([]);
  });
  it('that reached nobody are refused where they say so; the other end is who was meant', () => {
    const folding = folder();
    const call = (spanId: string, error: string) =>
      span({
        spanId,
        kind: 'client',
        failed: true,
        fields: [
          [CALL.address, 'store'],
          [CALL.error, error],
        ],
      });
    folding.add(end('crane'), [call('a', 'ECONNREFUSED'), call('b', '500')], START);
    const requests = folding.fold(LATER, LATER);
    expect(requests.map(({ refused, link }) => [refused, link.to.workload])).toEqual([
      [true, 'deployment:store'],
      [false, 'deployment:store'],
    ]);
  });
  it('from nobody who tells are from outside; a caller that is to come is waited for', () => {
    const folding = folder();
    folding.add(end('store'), [span({ spanId: 'a', kind: 'server' })], START);
    folding.add(end('store'), [span({ spanId: 'b', parentId: 'later', kind: 'server' })], START);
    expect(told(folding.fold(LATER, START + 30_000)).map(({ pair }) => pair)).toEqual([
      `${endKey(OUTSIDE)} → ${endKey(end('store'))}`,
    ]);
    folding.add(end('crane'), [span({ spanId: 'later', kind: 'client' })], START + 40_000);
    expect(told(folding.fold(LATER, START + 50_000)).map(({ seenBy }) => seenBy)).toEqual(['caller', 'answerer']);
  });
  it('through a queue count messages, and take from published to taken', () => {
    const folding = folder();
    const batch: Span['fields'] = [
      [CALL.queueName, 'receipts'],
      [CALL.messages, '4'],
    ];
    folding.add(end('till'), [span({ spanId: 'a', kind: 'producer', took: 2, fields: batch })], START);
    folding.add(
      end('mailer'),
      [span({ spanId: 'b', parentId: 'a', kind: 'consumer', at: START + 502, fields: batch })],
      START,
    );
    const [sent, taken] = folding.fold(LATER, LATER);
    expect([sent?.messages, taken?.messages, taken?.link.protocol]).toEqual([4, 4, 'queue']);
    expect(taken?.seconds).toBeCloseTo(0.5);
  });
  it('of a program to itself are no link', () => {
    const folding = folder();
    folding.add(
      end('a'),
      [span({ spanId: 'a', kind: 'client' }), span({ spanId: 'b', parentId: 'a', kind: 'server' })],
      START,
    );
    expect(folding.fold(LATER, LATER)).toEqual([]);
  });
  it('are counted once each, in whatever order and pieces their spans come, some of them twice', () => {
    const calls = fc.array(fc.record({ from: fc.nat(3), to: fc.nat(3), failed: fc.boolean() }), {
      minLength: 1,
      maxLength: 20,
    });
    fc.assert(
      fc.property(calls, fc.infiniteStream(fc.double({ min: 0, max: 1, noNaN: true })), (all, chance) => {
        const roll = () => chance.next().value as number;
        const pieces = all.flatMap(({ from, to, failed }, i) => {
          const own = { traceId: `${i}`.padStart(32, 'e'), failed };
          return [
            { at: end(`p${from}`), span: span({ ...own, spanId: `c${i}`, kind: 'client', took: 20 }) },
            {
              at: end(`p${to}`),
              span: span({ ...own, spanId: `s${i}`, parentId: `c${i}`, kind: 'server', at: START + 3 }),
            },
          ];
        });
        const shuffled = [...pieces, ...pieces.filter(() => roll() < 0.3)].sort(() => roll() - 0.5);
        const folding = folder();
        const totals = new LinkTotals();
        for (const [i, piece] of shuffled.entries()) {
          folding.add(piece.at, [piece.span], START + i);
          if (roll() < 0.2) for (const one of folding.fold(START - 1, START + i)) totals.add(one, one.minute);
        }
        for (const one of folding.fold(LATER, LATER)) totals.add(one, one.minute);
        const counted = (name: string) => {
          const family = totals.families(LATER).find((own) => own.name === name);
          return [...(family?.samples ?? [])].reduce((sum, { value }) => sum + value, 0);
        };
        const real = all.filter(({ from, to }) => from !== to);
        expect(counted('link_requests')).toBe(2 * real.length);
        expect(counted('link_failures')).toBe(2 * real.filter(({ failed }) => failed).length);
      }),
    );
  });
  it('fit on a page, however many links there are: what comes after the bound is one between others', () => {
    const totals = new LinkTotals();
    const request = (i: number): LinkRequest => ({
      link: {
        from: end(`caller-of-a-long-name-${i}`),
        to: end(`answerer-of-a-long-name-${i}`),
        toService: '',
        protocol: 'http',
        port: '8080',
      },
      seenBy: 'caller',
      spanId: '',
      minute: START,
      failed: false,
      refused: false,
      seconds: 0.02,
      own: null,
      calls: 0,
      messages: 1,
      seen: 1,
    });
    for (let i = 0; i < 4000; i++) totals.add(request(i), START);
    expect(writePage(totals.families(START)).length).toBeLessThan(DEFAULT_PAGE_LIMITS.pageBytes);
    const [requests] = totals.families(START);
    const values = [...(requests?.samples ?? [])].map(({ value }) => value);
    expect(values.reduce((sum, value) => sum + value, 0)).toBe(4000);
    expect(values.length).toBeLessThan(4000);
    // after a day without anything each leaves its place to others
    const later = START + KEPT_FOR + 60_000;
    totals.families(later);
    totals.add(request(9000), later);
    expect([...(totals.families(later)[0]?.samples ?? [])].map(({ labels }) => labels?.['to_workload'])).toEqual([
      'deployment:answerer-of-a-long-name-9000',
    ]);
  });
  it('tell what nearly all stayed below, of the last five minutes, whatever goes between two', () => {
    const totals = new LinkTotals();
    const M = 60_000;
    const add = (ago: number, seconds: number, count: number, protocol = 'http') => {
      for (let i = 0; i < count; i++)
        totals.add(
          {
            link: { from: end('a'), to: end('b'), toService: '', protocol, port: '' },
            seenBy: 'caller',
            spanId: '',
            minute: START - ago * M,
            failed: false,
            refused: false,
            seconds,
            own: null,
            calls: 0,
            messages: 1,
            seen: 1,
          },
          START - ago * M,
        );
    };
    const told = (at: number) => [...totals.families(at).find(({ name }) => name === 'link_p95_seconds')!.samples];
    add(7, 9, 50);
    add(5, 0.02, 90);
    add(1, 0.3, 4);
    add(1, 0.3, 6, 'rpc');
    const [one, ...more] = told(START);
    expect(more).toEqual([]);
    // half of the slow tenth lies above it: within 9 %
    expect(Math.abs(Math.log(one!.value / 0.3))).toBeLessThan(Math.log(1.091));
    expect(Object.keys(one!.labels!)).not.toContain('protocol');
    expect(told(START + 4 * M)[0]!.value).toBeGreaterThan(0.25);
    expect(told(START + 9 * M)).toEqual([]);
  });
  it('property: what nearly all stayed below is within 9 % of what it was', () => {
    const lengths = fc.array(fc.double({ min: 0.0011, max: 60, noNaN: true }), { minLength: 1, maxLength: 200 });
    fc.assert(
      fc.property(lengths, (all) => {
        const totals = new LinkTotals();
        const link = { from: end('a'), to: end('b'), toService: '', protocol: '', port: '' };
        for (const seconds of all)
          totals.add(
            {
              ...{ link, seenBy: 'caller', spanId: '', minute: START, failed: false, refused: false, seconds },
              ...{ own: null, calls: 0, messages: 1, seen: 1 },
            },
            START,
          );
        const [told] = [...totals.families(START).find(({ name }) => name === 'link_p95_seconds')!.samples];
        const truth = all.sort((a, b) => a - b)[Math.ceil(0.95 * all.length) - 1]!;
        expect(Math.abs(Math.log(told!.value / truth))).toBeLessThan(Math.log(1.0906));
      }),
    );
  });
  it('hold a bounded number of spans, and say how many were let go', () => {
    const folding = folder();
    const many = (from: number, count: number) =>
      Array.from({ length: count }, (_, i) =>
        span({ traceId: `${from + i}`.padStart(32, 'd'), spanId: `${from + i}`, kind: 'client' }),
      );
    folding.add(end('a'), many(0, MOST_HELD), START);
    expect(folding.overflowed).toBe(0);
    folding.add(end('a'), many(MOST_HELD, 100), START);
    expect(folding.overflowed).toBe(100);
  });
});
