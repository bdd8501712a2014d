// Rate and sum by a label over 1,000 counters: a day from chunks against SQL over a row per sample (target 60 ×), thirty
// days from roll-ups against a row per bucket (targets 9 × by five minutes, 150 × by the hour).

import { READERS, StoreWorkers } from '../apps/server/dist/keeping/store/storeWorkers.service.js';
import { CopyRows } from '../apps/server/dist/keeping/store/threads/copy.js';
import { Partitions } from '../apps/server/dist/keeping/store/threads/partitions.js';
import { ChunkWriter, RollUpWriter } from '../apps/server/dist/keeping/store/threads/rows.js';
import { joinRollUps, rollUp } from '../packages/core/dist/samples/index.js';
import { DAY, HOUR } from '../packages/core/dist/units/index.js';
import { benchDatabase } from './database.mjs';
import { report } from './measure.mjs';
import { randomFrom } from './mixed.mjs';

const SERIES = 1000;
const GROUPS = 20;
const STEP = 15_000;
const FIVE = 300_000;
const START = Math.floor(Date.UTC(2026, 0, 5) / (10 * DAY)) * 10 * DAY;
const EPOCH = Date.UTC(2000, 0, 1);
const timed = async (runs, work) => {
  const times = [];
  let result;
  for (let run = 0; run < runs; run++) {
    const began = performance.now();
    result = await work();
    times.push(performance.now() - began);
  }
  return [times.sort((a, b) => a - b)[Math.floor(runs / 2)], result];
};
const seconds = (ms) => `${(ms / 1000).toFixed(2)} s`;
const double = (value) => {
  const bytes = Buffer.allocUnsafe(8);
  bytes.writeDoubleBE(value);
  return bytes;
};

const { url, client, end } = await benchDatabase();
/** As the server reads: in halves, one on each thread that reads. */
const work = new StoreWorkers({ config: { databaseUrl: url } }, { note: () => undefined });
const AT_ONCE = SERIES / READERS;
try {
  const partitions = new Partitions();
  await client.query(
    'create table plain (series_id int not null, at timestamptz not null, value float8, primary key (series_id, at))',
  );
  await client.query(
    'create table buckets (series_id int not null, at timestamptz not null, increase float8, primary key (series_id, at))',
  );
  await client.query(
    `create table named as select i as id, 'team-' || i % ${GROUPS} as team from generate_series(1, ${SERIES}) i`,
  );
  const roll = randomFrom(7);
  const days = new Map();
  let plain = new CopyRows();
  const chunks = new ChunkWriter(1);
  const count = DAY / STEP;
  for (let id = 1; id <= SERIES; id++) {
    const times = Float64Array.from({ length: count }, (_, i) => START + (i + 1) * STEP);
    let now = Math.floor(roll() * 1e6);
    const base = roll() * 100;
    const values = times.map(() => (now += Math.round(base * (0.7 + 0.6 * roll()))));
    chunks.add(id, { times, values });
    for (let i = 0; i < count; i++) {
      plain.begin(3);
      plain.int(id);
      plain.big((times[i] - EPOCH) * 1000);
      plain.bytes(double(values[i]));
    }
    if (plain.rows > 500_000) {
      await plain.into(client, 'plain', ['series_id', 'at', 'value']);
      plain = new CopyRows();
    }
    days.set(id, rollUp({ times, values }, FIVE));
  }
  await plain.into(client, 'plain', ['series_id', 'at', 'value']);
  await chunks.write(client, partitions);
  // thirty days: the day's buckets again and again, each day further on
  const fives = new RollUpWriter('five', 1);
  const hours = new RollUpWriter('hour', 1);
  let rows = new CopyRows();
  for (const [id, { starts, columns }] of days) {
    const parts = Array.from({ length: 30 }, (_, day) => ({
      starts: starts.map((start) => start + day * DAY),
      columns: Object.fromEntries(
        Object.entries(columns).map(([name, list]) => [
          name,
          ['first', 'last', 'min', 'max'].includes(name)
            ? list.map((value) => value + day * (columns.last.at(-1) - columns.first[0]))
            : list,
        ]),
      ),
    }));
    for (const part of parts) {
      fives.add(id, part);
      for (let i = 0; i < part.starts.length; i++) {
        rows.begin(3);
        rows.int(id);
        rows.big((part.starts[i] - EPOCH) * 1000);
        rows.bytes(double(part.columns.increase[i]));
      }
      if (rows.rows > 500_000) {
        await rows.into(client, 'buckets', ['series_id', 'at', 'increase']);
        rows = new CopyRows();
      }
    }
    hours.add(id, joinRollUps(parts, HOUR, FIVE));
  }
  await rows.into(client, 'buckets', ['series_id', 'at', 'increase']);
  await fives.write(client, partitions);
  await hours.write(client, partitions);
  await client.query(`insert into packed values (1, ${START + 30 * DAY}, ${START + 30 * DAY})`);
  for (const table of ['plain', 'buckets', 'chunk', 'rollup_five', 'rollup_hour'])
    await client.query(`vacuum analyze ${table}`);

  const ids = Int32Array.from({ length: SERIES }, (_, i) => i + 1);
  const cumulative = new Uint8Array(SERIES).fill(1);
  const part = (list, at) => list.subarray(at, at + AT_ONCE);
  const readAll = (resolution, from, to) =>
    Promise.all(
      Array.from({ length: SERIES / AT_ONCE }, async (_, i) => {
        const own = part(ids, i * AT_ONCE);
        const window = {
          endpoint: 1,
          ids: own,
          cumulative: part(cumulative, i * AT_ONCE),
          from,
          to,
          resolution,
        };
        return { ids: own, read: await work.do({ kind: 'read', window }) };
      }),
    );
  /** Growth per second by team and step. */
  const summed = async (resolution, from, to, step) => {
    const sums = new Float64Array((GROUPS * (to - from)) / step);
    const width = sums.length / GROUPS;
    for (const { ids: own, read } of await readAll(resolution, from, to)) {
      const { times, values } = read;
      own.forEach((id, i) => {
        const group = (id % GROUPS) * width;
        const shift = read.timeStarts[i] - read.starts[i];
        const end = read.starts[i + 1];
        let bucket = 0;
        let until = from + step;
        let grown = 0;
        for (let at = read.starts[i] + 1; at < end; at++) {
          while (times[at + shift] > until) {
            sums[group + bucket++] += grown / (step / 1000);
            until += step;
            grown = 0;
          }
          const growth = values[at] - values[at - 1];
          grown += growth >= 0 ? growth : values[at];
        }
        sums[group + bucket] += grown / (step / 1000);
      });
    }
    return sums;
  };
  const total = (sums) => sums.reduce((sum, value) => sum + value, 0);

  const [plainMs, plainRows] = await timed(
    3,
    async () =>
      (
        await client.query(
          `with steps as (select n.team, p.at, p.value, lag(p.value) over (partition by p.series_id order by p.at) as before
            from plain p join named n on n.id = p.series_id)
         select team, extract(epoch from date_bin('1 minute', at, '2000-01-01Z'))::float8 as at,
                sum(case when before is null then 0 when value >= before then value - before else value end) / 60 as rate
           from steps group by 1, 2`,
        )
      ).rows,
  );
  const [chunkMs, chunkSums] = await timed(7, () => summed('samples', START, START + DAY, 60_000));
  const difference = Math.abs(total(chunkSums) / plainRows.reduce((sum, { rate }) => sum + Number(rate), 0) - 1);
  if (difference > 1e-9) throw new Error('the two do not answer the same');
  report(
    'a day of 1,000 series, rate and sum',
    'SQL over a row per sample',
    `${(plainMs / chunkMs).toFixed(0)} × faster`,
    `target 60 ×; ${seconds(chunkMs)} against ${seconds(plainMs)}`,
  );
  const [bucketMs] = await timed(
    3,
    async () =>
      (
        await client.query(
          'select n.team, b.at, sum(b.increase) / 300 from buckets b join named n on n.id = b.series_id group by 1, 2',
        )
      ).rows,
  );
  for (const [resolution, step, target] of [
    ['five', FIVE, 9],
    ['hour', HOUR, 150],
  ]) {
    const [ms] = await timed(5, () => summed(resolution, START, START + 30 * DAY, step));
    report(
      `30 days of 1,000 series, by ${resolution === 'five' ? '5 minutes' : 'the hour'}`,
      'a row per bucket, SQL',
      `${(bucketMs / ms).toFixed(0)} × faster`,
      `target ${target} ×; ${seconds(ms)} against ${seconds(bucketMs)}`,
    );
  }
} finally {
  await work.onApplicationShutdown();
  await end();
}
