import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Span } from '../spans/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { endKey, type LinkEnd } from './link.ts';
import { type LinkTrace, LinkTracing } from './traced.ts';
import { CALL } from './wire-names.ts';

const START = 1_790_000_040_000;
const end = (name: string): LinkEnd => ({ cluster: 'seaward', namespace: 'quay', workload: `deployment:${name}` });
const pair = (from: string, to: string) => `${endKey(end(from))} → ${endKey(end(to))}`;
const tools = { named: ({ service, address }: { service: string; address: string }) => end(service || address) };
const linksOf = (traces: readonly LinkTrace[]) => {
  const tracing = new LinkTracing(tools);
  for (const trace of traces) tracing.add(trace);
  return toTheEnd(tracing.toldBySteps());
};
type Own = Partial<Span> & Pick<Span, 'spanId' | 'kind'>;
const step = (who: string, own: Own, pod = `${who}-0`) => ({
  end: end(who),
  pod,
  span: {
    traceId: 't',
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
  },
});
/** A person asks the front, which asks the ledger for something. */
const asked = (traceId: string, weight: number, took: number, failed = false, operation = 'look up'): LinkTrace => ({
  traceId,
  weight,
  spans: [
    step('front', { spanId: 'a', kind: 'server', took: took + 20 }),
    step('front', { spanId: 'b', parentId: 'a', kind: 'client', took, failed, name: 'ask the ledger' }),
    step('ledger', { spanId: 'c', parentId: 'b', kind: 'server', took: took - 1, failed, name: operation }),
  ],
});

it('a link’s operations are the answerer’s, as long as the caller waited, scaled up by what is kept', () => {
  const { links, people } = linksOf([
    ...Array.from({ length: 19 }, (_, i) => asked(`${i}`, 10, 20)),
    asked('slow', 10, 900),
    asked('failed', 1, 50, true),
    asked('other', 4, 30, false, 'print'),
  ]);
  const link = links.get(pair('front', 'ledger'))!;
  expect(people).toBe(205);
  expect([link.requests, link.people]).toEqual([205, 205]);
  expect(link.operations).toEqual([
    { operation: 'look up', requests: 201, failedShare: 1 / 201, nearlyAll: 0.05 },
    { operation: 'print', requests: 4, failedShare: 0, nearlyAll: 0.03 },
  ]);
  expect(link.slowest[0]).toMatchObject({ traceId: 'slow', seconds: 0.9, operation: 'look up' });
  expect(link.failed.map(({ traceId }) => traceId)).toEqual(['failed']);
});

it('what people asked for goes over a link once, however often it asks; work of its own is nobody’s', () => {
  const twice: LinkTrace = {
    traceId: 'twice',
    weight: 1,
    spans: [
      ...asked('twice', 1, 20).spans,
      step('front', { spanId: 'd', parentId: 'a', kind: 'client', fields: [[CALL.peer, 'ledger']] }),
    ],
  };
  const own: LinkTrace = {
    traceId: 'own',
    weight: 1,
    spans: [
      step('front', { spanId: 'a', kind: 'internal' }),
      step('front', { spanId: 'b', parentId: 'a', kind: 'client', fields: [[CALL.peer, 'ledger']] }),
    ],
  };
  const elsewhere: LinkTrace = { traceId: 'else', weight: 2, spans: [step('tide', { spanId: 'a', kind: 'server' })] };
  const { links, people } = linksOf([twice, own, elsewhere]);
  expect(people).toBe(3);
  expect(links.get(pair('front', 'ledger'))).toMatchObject({ requests: 3, people: 1 });
});

it('an answerer whose caller never came counts by itself; names that senders make up are bounded', () => {
  const alone: LinkTrace = {
    traceId: 'alone',
    weight: 1,
    spans: [step('ledger', { spanId: 'c', parentId: 'gone', kind: 'server', fields: [[CALL.caller, 'front']] })],
  };
  expect(linksOf([alone]).links.get(pair('front', 'ledger'))).toMatchObject({ requests: 1, people: 0 });
  const many = Array.from({ length: 500 }, (_, i) => asked(`${i}`, 1, 20, false, `made up ${i}`));
  const { operations } = linksOf(many).links.get(pair('front', 'ledger'))!;
  expect(operations.length).toBe(201);
  expect(operations[0]).toMatchObject({ operation: 'others', requests: 300 });
});

it('operations sum up to their link, and nobody passes more than there are, whatever comes', () => {
  const names = fc.constantFrom('a', 'b', 'c', 'd');
  const spans = fc.array(
    fc.record({
      who: names,
      kind: fc.constantFrom<Span['kind']>('client', 'server', 'producer', 'consumer', 'internal'),
      parent: fc.integer({ min: -1, max: 5 }),
      took: fc.integer({ min: 1, max: 500 }),
      failed: fc.boolean(),
    }),
    { minLength: 1, maxLength: 8 },
  );
  const traces = fc.array(fc.record({ weight: fc.integer({ min: 1, max: 9 }), spans }), { maxLength: 8 });
  fc.assert(
    fc.property(traces, (all) => {
      const { links, people } = linksOf(
        all.map((trace, t) => ({
          traceId: `${t}`,
          weight: trace.weight,
          spans: trace.spans.map(({ who, kind, parent, took, failed }, i) =>
            step(who, {
              spanId: `${i}`,
              parentId: parent < 0 || parent === i ? '' : `${parent}`,
              kind,
              took,
              failed,
              fields: [[CALL.peer, 'd']],
            }),
          ),
        })),
      );
      for (const link of links.values()) {
        expect(link.operations.reduce((sum, { requests }) => sum + requests, 0)).toBeCloseTo(link.requests, 6);
        expect(link.people).toBeLessThanOrEqual(people);
        for (const { failedShare, nearlyAll } of link.operations) {
          expect(failedShare).toBeGreaterThanOrEqual(0);
          expect(failedShare).toBeLessThanOrEqual(1);
          expect(nearlyAll).toBeLessThanOrEqual(0.5);
        }
      }
    }),
  );
});

it('tells from which pod to which, where both told; of one that was not told of, no pod', () => {
  const [a, b, c] = asked('one', 2, 20).spans;
  const other = step('ledger', { spanId: 'c', parentId: 'b', kind: 'server', failed: true }, 'ledger-1');
  const { links } = linksOf([
    { traceId: 'one', weight: 2, spans: [a!, b!, c!] },
    { traceId: 'two', weight: 1, spans: [a!, { ...b!, span: { ...b!.span, failed: true } }, other] },
    { traceId: 'three', weight: 3, spans: [a!, { ...b!, span: { ...b!.span, fields: [[CALL.peer, 'ledger']] } }] },
  ]);
  expect(links.get(pair('front', 'ledger'))?.ways).toEqual([
    { from: 'front-0', to: '', requests: 3, failedShare: 0, nearlyAll: 0.02 },
    { from: 'front-0', to: 'ledger-0', requests: 2, failedShare: 0, nearlyAll: 0.02 },
    { from: 'front-0', to: 'ledger-1', requests: 1, failedShare: 1, nearlyAll: 0.02 },
  ]);
});
it('property: ways make up all requests, and pods that a sender makes up are bounded', () => {
  const pods = fc.array(fc.tuple(fc.nat(40), fc.nat(40)), { maxLength: 400 });
  fc.assert(
    fc.property(pods, (all) => {
      const traces = all.map(
        ([from, to], i): LinkTrace => ({
          traceId: `${i}`,
          weight: 1,
          spans: [
            step('front', { spanId: 'b', kind: 'client' }, `front-${from}`),
            step('ledger', { spanId: 'c', parentId: 'b', kind: 'server' }, `ledger-${to}`),
          ],
        }),
      );
      const ways = linksOf(traces).links.get(pair('front', 'ledger'))?.ways ?? [];
      const kinds = new Set(all.map(([from, to]) => `front-${from} ledger-${to}`));
      expect(ways.length).toBe(Math.min(300, kinds.size));
      const sum = ways.reduce((total, { requests }) => total + requests, 0);
      if (kinds.size <= 300) expect(sum).toBe(all.length);
    }),
    { numRuns: 30 },
  );
});
