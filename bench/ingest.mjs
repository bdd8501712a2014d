// Durable taking in with packing, bytes at rest, and long queries, each against a row per sample in PostgreSQL.

import { CopyRows } from '../apps/server/dist/keeping/store/threads/copy.js';
import { Partitions } from '../apps/server/dist/keeping/store/threads/partitions.js';
import { StoreWork } from '../apps/server/dist/keeping/store/threads/storeWork.js';
import { encodeFrame } from '../packages/core/dist/samples/index.js';
import { benchDatabase, sizeOf } from './database.mjs';
import { report } from './measure.mjs';
import { mixedSeries } from './mixed.mjs';

const SERIES = 2000;
const READINGS = 480;
const STEP = 15_000;
const BATCH = 10;
const ENDPOINTS = 3;
const START = Date.UTC(2026, 0, 5);
const median = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];
const timed = async (work) => {
  const began = performance.now();
  const result = await work();
  return [performance.now() - began, result];
};

const { url, client, end } = await benchDatabase();
const work = new StoreWork(url);
try {
  await client.query(`insert into lease values ('store', 'bench', 1, 1e15)`);
  await client.query(
    'create table plain (series_id int not null, at timestamptz not null, value float8, primary key (series_id, at))',
  );
  const partitions = new Partitions();

  // ---- taking in: both hold one reading of an endpoint a time, several a commit ---------------------------------
  const rates = { plain: [], packed: [] };
  for (let endpoint = 1; endpoint <= ENDPOINTS; endpoint++) {
    const mixed = mixedSeries(SERIES, endpoint);
    const readings = Array.from({ length: READINGS }, () => mixed.next());
    const ids = Array.from({ length: SERIES }, (_, i) => (endpoint - 1) * SERIES + i + 1);
    const { rows } = await client.query(
      `insert into connection (name, token_encrypted) values ('c' || $1, '') returning id`,
      [endpoint],
    );
    await client.query(`insert into endpoint (id, connection_id, node) values ($1, $2, 'n')`, [endpoint, rows[0].id]);
    await client.query(`insert into layout (id, endpoint_id, identity, series_ids) values ($1, $1, '', $2)`, [
      endpoint,
      ids,
    ]);
    await partitions.ensure(
      client,
      'journal',
      readings.map((_, r) => START + r * STEP),
    );
    const [packedMs] = await timed(async () => {
      for (let r = 0; r < READINGS; r += BATCH) {
        const batch = readings.slice(r, r + BATCH);
        const tuples = batch.map((_, i) => `($1, $${i * 2 + 2}, 0, 0, 0, $1, 1, $${i * 2 + 3})`).join(',');
        await client.query({
          name: `append ${batch.length}`,
          text: `insert into journal (endpoint_id, at_ms, read_ms, duration_ms, bytes, layout_id, epoch, payload) values ${tuples}`,
          values: [
            endpoint,
            ...batch.flatMap((values, i) => [
              START + (r + i) * STEP,
              Buffer.from(encodeFrame({ values, ended: [], times: null })),
            ]),
          ],
        });
      }
      await work.do({ kind: 'pack', epoch: 1, endpoint, until: START + READINGS * STEP });
    });
    const [plainMs] = await timed(async () => {
      const epoch = Date.UTC(2000, 0, 1);
      for (let r = 0; r < READINGS; r += BATCH) {
        const body = new CopyRows();
        for (let i = r; i < r + BATCH; i++)
          for (let s = 0; s < SERIES; s++) {
            body.begin(3);
            body.int(ids[s]);
            body.big((START + i * STEP - epoch) * 1000);
            const value = Buffer.allocUnsafe(8);
            value.writeDoubleBE(readings[i][s]);
            body.bytes(value);
          }
        await body.into(client, 'plain', ['series_id', 'at', 'value']);
      }
    });
    rates.plain.push((SERIES * READINGS) / plainMs);
    rates.packed.push((SERIES * READINGS) / packedMs);
  }
  const [plainRate, packedRate] = [median(rates.plain), median(rates.packed)];
  report(
    'durable, packed and rolled up',
    'COPY of a row per sample',
    `${(packedRate / plainRate).toFixed(1)} × faster`,
    `target 8 ×; ${(packedRate / 1000).toFixed(2)} against ${(plainRate / 1000).toFixed(3)} M samples/s`,
  );
  const samples = SERIES * READINGS * ENDPOINTS;
  const chunks = (await sizeOf(client, 'chunk')) / samples;
  const rolled = (await sizeOf(client, 'rollup_five')) / samples;
  const rows = (await sizeOf(client, 'plain')) / samples;
  report(
    'bytes a sample at rest, with indexes',
    'a row per sample',
    `${(rows / chunks).toFixed(0)} × smaller`,
    `target 1.3 B and 65 ×; ${chunks.toFixed(2)} B against ${rows.toFixed(1)} B; roll-ups by 5 minutes ${rolled.toFixed(2)} B more until the day is joined`,
  );
  await client.query('drop table plain');
} finally {
  await work.end();
  await end();
}
