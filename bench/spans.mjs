// Spans that are pushed: rows a second until durable, and bytes a span at rest, against COPY into a plain table of the same columns with and
// without indexes, in the same run. npm run bench -- spans [thousands of spans]
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import copyStreams from 'pg-copy-streams';
import protobuf from 'protobufjs';
import { PUSH_SCHEMA } from '../apps/server/dist/inflow/push/wire-names.js';
import { sizeOf } from './database.mjs';
import { report } from './measure.mjs';
import { pause, product } from './product.mjs';
import { pushAll } from './pushAll.mjs';

const [THOUSANDS = 200] = process.argv.slice(2).map(Number);
const STEPS = [
  'ingress',
  'booking-front',
  'booking-front',
  'seat-ledger',
  'seat-ledger',
  'fare-tables',
  'payment-relay',
  'receipt-mailer',
];
const NAMES = [
  'POST /bookings',
  'POST /bookings',
  'call hold a seat',
  'hold a seat',
  'call fares',
  'fares of a day',
  'charge',
  'process receipts',
];
const AT_ONCE = 125; // traces
const SENDERS = 8;
const TRACES = Math.ceil((THOUSANDS * 1000) / STEPS.length / AT_ONCE) * AT_ONCE;
const SPANS = TRACES * STEPS.length;
const TracesRequest = protobuf.Root.fromJSON(PUSH_SCHEMA).lookupType('TracesRequest');

let state = 11;
const below = (n) => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return Math.floor((state / 2 ** 32) * n);
};
const hex = (length) => Array.from({ length }, () => '0123456789abcdef'[below(16)]).join('');
const START = Date.now() - 3_600_000;
const all = Array.from({ length: TRACES }, (_, i) => {
  const trace = hex(32);
  let at = START + Math.floor((i / TRACES) * 3_000_000);
  let parent = '';
  return STEPS.map((service, step) => {
    const span = {
      trace,
      id: hex(16),
      parent,
      service,
      name: NAMES[step],
      kind: step % 2 === 0 ? 2 : 3,
      at,
      took: 1 + below(80),
      failed: below(100) === 0,
      attributes: {
        'http.response.status_code': below(50) ? '200' : '503',
        'server.address': service,
        'user.tier': `${below(4)}`,
      },
    };
    parent = span.id;
    at += 1 + below(5);
    return span;
  });
});
const bodies = [];
for (let from = 0; from < TRACES; from += AT_ONCE) {
  const of = new Map();
  for (const span of all.slice(from, from + AT_ONCE).flat())
    of.set(span.service, [...(of.get(span.service) ?? []), span]);
  bodies.push(
    Buffer.from(
      TracesRequest.encode(
        TracesRequest.fromObject({
          resourceSpans: [...of].map(([service, spans]) => ({
            resource: { attributes: [{ key: 'service.name', value: { stringValue: service } }] },
            scopeSpans: [
              {
                spans: spans.map(({ trace, id, parent, name, kind, at, took, failed, attributes }) => ({
                  traceId: Buffer.from(trace, 'hex').toString('base64'),
                  spanId: Buffer.from(id, 'hex').toString('base64'),
                  parentSpanId: Buffer.from(parent, 'hex').toString('base64'),
                  name,
                  kind,
                  startTimeUnixNano: `${at}000000`,
                  endTimeUnixNano: `${at + took}000000`,
                  attributes: Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } })),
                  ...(failed && { status: { code: 2, message: 'gives up' } }),
                })),
              },
            ],
          })),
        }),
      ).finish(),
    ),
  );
}

const { ask, base, databaseUrl, processor, memory, end } = await product(
  { harbour: { nodes: 1 } },
  { port: 25_791, intervalSeconds: 60, readFor: 5000 },
);
const { made } = JSON.parse(await ask('/api/push-keys/bench', 'PUT', {}));
const client = new pg.Client(databaseUrl);
await client.connect();
const cpu = processor();
const { ms: pushedMs, slowed } = await pushAll({ base, token: made.token, signal: 'traces', bodies, senders: SENDERS });
const spent = processor().all - cpu.all;
// traces are complete a minute after their last span; then they wait for others to be packed with
const packed = async () =>
  (await client.query('select coalesce(sum(spans), 0)::int as spans, count(*)::int as blocks from trace_block'))
    .rows[0];
for (let tries = 0; tries < 80 && (await packed()).spans < SPANS; tries++) await pause(3000);
const { spans, blocks } = await packed();
const packedBytes = await sizeOf(client, 'trace_block');

const columns =
  'trace_id text, span_id text, parent_id text, service text, name text, kind int, at timestamptz, took_ms float8, failed boolean, attributes jsonb';
const iso = (at) => new Date(at).toISOString();
const rowOf = ({ trace, id, parent, service, name, kind, at, took, failed, attributes }) =>
  `${[trace, id, parent, service, name, kind, iso(at), took, failed, JSON.stringify(attributes)].join('\t')}\n`;
async function copied(table) {
  const at = performance.now();
  for (let from = 0; from < TRACES; from += AT_ONCE)
    await pipeline(
      Readable.from([
        all
          .slice(from, from + AT_ONCE)
          .flat()
          .map(rowOf)
          .join(''),
      ]),
      client.query(copyStreams.from(`copy ${table} from stdin`)),
    );
  return performance.now() - at;
}
await client.query(`create table plain (${columns})`);
const plainMs = await copied('plain');
const plainBytes = await sizeOf(client, 'plain');
await client.query(`create table indexed (${columns})`);
for (const index of ['(trace_id)', '(service, at)', '(name, took_ms)'])
  await client.query(`create index on indexed ${index}`);
const indexedMs = await copied('indexed');
const indexedBytes = await sizeOf(client, 'indexed');
const rate = (ms) => Math.round((SPANS / ms) * 1000);
report(
  'spans until durable',
  `COPY without indexes ${rate(plainMs)}/s, with indexes ${rate(indexedMs)}/s`,
  `${(indexedMs / pushedMs).toFixed(2)} ×`,
  `${rate(pushedMs)} spans/s by ${SENDERS} senders, ${spent.toFixed(1)} s of processor for ${SPANS} spans, slowed ${slowed} times, memory ${memory().toFixed(2)} GiB`,
);
const perSpan = packedBytes / spans;
report(
  'bytes a span at rest',
  `plain ${(plainBytes / SPANS).toFixed(0)} B, indexed ${(indexedBytes / SPANS).toFixed(0)} B`,
  `${(indexedBytes / SPANS / perSpan).toFixed(1)} ×`,
  `${perSpan.toFixed(1)} B a span in ${blocks} blocks of ${spans} of ${SPANS} spans; aim 6 × smaller than indexed`,
);
await client.end();
await end();
