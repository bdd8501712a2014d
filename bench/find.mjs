// Finding series among 500,000 by metric and two labels: in memory against PostgreSQL's index over jsonb; target 20 ×.
import { CopyRows } from '../apps/server/dist/keeping/store/threads/copy.js';
import { SeriesTable } from '../packages/core/dist/series/index.js';
import { benchDatabase } from './database.mjs';
import { medianOf, report } from './measure.mjs';

const COUNT = 500_000;
const { client, end } = await benchDatabase();
try {
  const before = process.memoryUsage();
  const table = new SeriesTable();
  await client.query('create table given (id int, metric text, labels text)');
  const rows = new CopyRows();
  const pods = Array.from({ length: 5000 }, (_, i) => [
    ['container', ['app', 'sidecar', 'proxy', 'init'][(i + (i >> 5)) % 4]],
    ['image', `image-${i % 40}`],
    ['namespace', `team-${i % 50}`],
    ['node', `node-${(i * 37) % 100}`],
    ['pod', `svc-${i % 400}-${((i * 2654435761) >>> 0).toString(36)}`],
    ['zone', `z${i % 3}`],
  ]);
  let loading = 0;
  for (let id = 1; id <= COUNT; id++) {
    const metric = `metric_${Math.floor(id / 5000)}`;
    const labels = pods[id % 5000];
    const began = performance.now();
    table.add({ id, endpoint: id % 100, metric, labels, cumulative: false });
    loading += performance.now() - began;
    rows.begin(3);
    rows.int(id);
    rows.bytes(Buffer.from(metric));
    rows.bytes(Buffer.from(JSON.stringify(Object.fromEntries(labels))));
  }
  const after = process.memoryUsage();
  await rows.into(client, 'given', ['id', 'metric', 'labels']);
  await client.query('create table known as select id, metric, labels::jsonb as labels from given');
  await client.query('create index on known (metric)');
  await client.query('create index on known using gin (labels jsonb_path_ops)');
  await client.query('vacuum analyze known');
  const ask = async () =>
    (
      await client.query({
        text: 'select id from known where metric = $1 and labels @> $2::jsonb order by id',
        values: ['metric_37', JSON.stringify({ namespace: 'team-7', container: 'app' })],
        rowMode: 'array',
      })
    ).rows.map(([id]) => id);
  const find = () =>
    table.select('metric_37', [
      { label: 'namespace', is: 'team-7' },
      { label: 'container', is: 'app' },
    ]);
  const expected = await ask();
  if (JSON.stringify(find()) !== JSON.stringify(expected)) throw new Error('the two do not find the same');
  const [found] = medianOf(101, find);
  const times = [];
  for (let i = 0; i < 31; i++) {
    const began = performance.now();
    await ask();
    times.push(performance.now() - began);
  }
  const asked = times.sort((a, b) => a - b)[15];
  report(
    'find series among 500,000',
    'an index over jsonb',
    `${(asked / found).toFixed(0)} × faster`,
    `target 20 ×; ${found.toFixed(3)} ms against ${asked.toFixed(2)} ms, ${expected.length} found; loaded in ${(loading / 1000).toFixed(1)} s, ${((after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers) / COUNT).toFixed(0)} B a series at most`,
  );
} finally {
  await end();
}
