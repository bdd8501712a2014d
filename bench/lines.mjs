// Log lines that are pushed: rows a second until durable (masked, parted, worded), and bytes a line at rest, against COPY into a plain
// table of the same columns with and without indexes, in the same run. npm run bench -- lines [thousands of lines] [senders]
// With more senders than a key may have pushes in hand, the protocol slows them: what is told is how often, and the most memory.
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

const [THOUSANDS = 400, SENDERS = 8] = process.argv.slice(2).map(Number);
const AT_ONCE = 1000;
const SERVICES = 20;
const LINES = Math.ceil((THOUSANDS * 1000) / AT_ONCE) * AT_ONCE;
const LogsRequest = protobuf.Root.fromJSON(PUSH_SCHEMA).lookupType('LogsRequest');

const SHIPS = 'Kelp Orca Tern Gull Eider Skua Auk Puffin Heron Crane Dunlin Plover Petrel Gannet'.split(' ');
let state = 7;
const below = (n) => {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return Math.floor((state / 2 ** 32) * n);
};
const hex = (length) => Array.from({ length }, () => '0123456789abcdef'[below(16)]).join('');
const iso = (at) => new Date(at).toISOString();
const styles = [
  (at) => ({
    text: JSON.stringify({
      time: iso(at),
      level: below(20) ? 'info' : 'warn',
      msg: `seat held for ${SHIPS[below(14)]}`,
      path: '/seats',
      took_ms: below(900),
      trace_id: hex(32),
    }),
  }),
  (at) => ({
    text: `ts=${iso(at)} level=info msg="manifest received" pages=${below(40)} ship=${SHIPS[below(14)]} took=${below(900)}ms`,
  }),
  (at) => ({
    text: `${iso(at)} INFO [planner-${below(8)}] Planned ${SHIPS[below(14)]} for berth ${below(30)} in ${below(900)} ms`,
  }),
  () => ({ text: `step ${below(5000)} done in ${below(9)}.${below(10)} s, grid 400 by 220`, severity: 9 }),
  (at) => ({
    text: `${iso(at)} WARN answer is slow: /sailings took ${below(9000)} ms, ${below(30)} waiting`,
    trace: hex(32),
  }),
];
const START = Date.now() - 3_600_000;
const all = Array.from({ length: LINES }, (_, i) => {
  const at = START + Math.floor((i / LINES) * 3_500_000);
  const service = below(SERVICES);
  return { at, service, ...styles[service % styles.length](at) };
});
const bodies = [];
for (let from = 0; from < LINES; from += AT_ONCE) {
  const of = new Map();
  for (const line of all.slice(from, from + AT_ONCE)) of.set(line.service, [...(of.get(line.service) ?? []), line]);
  bodies.push(
    Buffer.from(
      LogsRequest.encode(
        LogsRequest.fromObject({
          resourceLogs: [...of].map(([service, lines]) => ({
            resource: { attributes: [{ key: 'service.name', value: { stringValue: `service-${service}` } }] },
            scopeLogs: [
              {
                logRecords: lines.map(({ at, text, severity = 0, trace = '' }) => ({
                  timeUnixNano: `${at}000000`,
                  severityNumber: severity,
                  body: { stringValue: text },
                  traceId: Buffer.from(trace, 'hex').toString('base64'),
                })),
              },
            ],
          })),
        }),
      ).finish(),
    ),
  );
}
const raw = all.reduce((sum, { text }) => sum + Buffer.byteLength(text), 0);

const { ask, base, databaseUrl, processor, memory, end } = await product(
  { harbour: { nodes: 1 } },
  { port: 25_791, intervalSeconds: 60, readFor: 5000 },
);
const { made } = JSON.parse(await ask('/api/push-keys/bench', 'PUT', {}));
const client = new pg.Client(databaseUrl);
await client.connect();

// ---- pushed ---------------------------------------------------------------------------------------------------------
const cpu = processor();
let most = memory();
const watching = setInterval(() => {
  most = Math.max(most, memory());
}, 500);
const { ms: pushedMs, slowed } = await pushAll({ base, token: made.token, signal: 'logs', bodies, senders: SENDERS });
const spent = processor().all - cpu.all;
clearInterval(watching);

// ---- at rest --------------------------------------------------------------------------------------------------------
await pause(12_000); // what is due is packed every five seconds
const { rows: packed } = await client.query('select sum(lines)::int as lines, count(*)::int as blocks from line_block');
const packedBytes = await sizeOf(client, 'line_block');

// ---- the plain table, with the columns that a line has after it was parted ------------------------------------------
const columns = 'at timestamptz, service text, level text, body text, fields jsonb, trace_id text, wording int';
const rowOf = ({ at, service, text, trace = '' }) => {
  const fields = text.startsWith('{') ? JSON.parse(text) : {};
  const cells = [iso(at), `service-${service}`, fields.level ?? 'info', text, JSON.stringify(fields), trace, '7'];
  return `${cells.map((cell) => cell.replaceAll('\\', '\\\\').replaceAll('\t', '\\t')).join('\t')}\n`;
};
async function copied(table) {
  const at = performance.now();
  for (let from = 0; from < LINES; from += AT_ONCE)
    await pipeline(
      Readable.from([
        all
          .slice(from, from + AT_ONCE)
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
await client.query('create index on indexed (service, at)');
await client.query('create index on indexed (trace_id)');
await client.query(`create index on indexed using gin (to_tsvector('simple', body))`);
const indexedMs = await copied('indexed');
const indexedBytes = await sizeOf(client, 'indexed');

const rate = (ms) => Math.round((LINES / ms) * 1000);
report(
  'log lines until durable',
  `COPY without indexes ${rate(plainMs)}/s, with indexes ${rate(indexedMs)}/s`,
  `${(indexedMs / pushedMs).toFixed(2)} ×`,
  `${rate(pushedMs)} lines/s by ${SENDERS} senders, ${spent.toFixed(1)} s of processor for ${LINES} lines, slowed ${slowed} times, at most ${most.toFixed(2)} GiB of memory; aim 20000/s`,
);
const perLine = packedBytes / packed[0].lines;
report(
  'bytes a line at rest',
  `plain ${(plainBytes / LINES).toFixed(0)} B, indexed ${(indexedBytes / LINES).toFixed(0)} B, the text alone ${(raw / LINES).toFixed(0)} B`,
  `${(indexedBytes / LINES / perLine).toFixed(1)} ×`,
  `${perLine.toFixed(1)} B a line in ${packed[0].blocks} blocks of ${packed[0].lines} lines; aim 8 × smaller than indexed`,
);
await client.end();
await end();
