// What rehearsing a rule over thirty days of 500 objects costs, with the curve of other numbers, against asking for the measure
// alone by the hour; and how soon it is over when whoever asked leaves.
// npm run bench -- rehearse [nodes of 30 pods each] [days]
import pg from 'pg';
import { Partitions } from '../apps/server/dist/keeping/store/threads/partitions.js';
import { RollUpWriter } from '../apps/server/dist/keeping/store/threads/rows.js';
import { joinRollUps, rollUp } from '../packages/core/dist/samples/index.js';
import { DAY, HOUR, MINUTE } from '../packages/core/dist/units/index.js';
import { report } from './measure.mjs';
import { randomFrom } from './mixed.mjs';
import { pause, product } from './product.mjs';

const [NODES = 17, DAYS = 30] = process.argv.slice(2).map(Number);
const FIVE = 5 * MINUTE;
const STEP = 15 * MINUTE; // 30 days are judged so often
const { ask, base, cookie, databaseUrl, memory, end } = await product(
  { large: { nodes: NODES } },
  { port: 25_850, intervalSeconds: 15, readFor: 60_000 },
);
const client = new pg.Client(databaseUrl);
await client.connect();
const { rows } = await client.query(
  `select endpoint_id as endpoint, array_agg(id) as ids from series
    where metric like 'container_memory_working_set%' group by 1`,
);
if (rows.length === 0) throw new Error('no series of memory is read');
// the past: a wave of a day with noise and surges, as roll-ups
const roll = randomFrom(7);
const last = Math.floor((Date.now() - HOUR) / FIVE) * FIVE;
const count = (DAYS * DAY) / MINUTE;
const times = Float64Array.from({ length: count }, (_, i) => last - DAYS * DAY + (i + 1) * MINUTE);
const partitions = new Partitions();
for (const { endpoint, ids } of rows) {
  const fives = new RollUpWriter('five', endpoint);
  const hours = new RollUpWriter('hour', endpoint);
  for (const id of ids) {
    let surge = 0;
    const values = times.map((_, i) => {
      surge = surge > 0 ? surge - 1 : roll() < 1 / 2000 ? 40 : 0;
      return 2e8 + 5e7 * Math.sin((i * 2 * Math.PI) / 1440) + 1e7 * roll() + (surge > 0 ? 1.5e8 : 0);
    });
    const five = rollUp({ times, values }, FIVE);
    fives.add(id, five);
    hours.add(id, joinRollUps([five], HOUR, FIVE));
  }
  await fives.write(client, partitions);
  await hours.write(client, partitions);
}
await client.query('vacuum analyze rollup_five');
await client.end();

const to = Math.floor(Date.now() / STEP) * STEP;
const from = to - DAYS * DAY;
const text = 'read vital container.memory.working_set\n  average over 15m\n';
const document = {
  name: 'bench',
  when: { is: 'measure', text, compare: 'above' },
  levels: { warning: { bound: 3e8, holdsSeconds: 1800 } },
  applies: { clusters: ['large'] },
};
const timed = async (work) => {
  const began = performance.now();
  const answer = JSON.parse(await work());
  return [performance.now() - began, answer];
};
const [alone, both] = [[], []];
let answer;
for (let run = 0; run < 4; run++) {
  const [measured] = await timed(() => ask('/api/measures/evaluate', 'POST', { text, from, to, step: HOUR }));
  const [rehearsed, own] = await timed(() => ask('/api/rules/rehearse', 'POST', { document, from, to }));
  // the first finds nothing warm
  if (run > 0) {
    alone.push(measured);
    both.push(rehearsed);
  }
  answer = own;
}
const middle = (list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];
report(
  `rehearsing ${DAYS} days of ${answer.objects} objects`,
  'the measure alone, by the hour',
  `${(middle(both) / middle(alone)).toFixed(2)} × time`,
  `${(middle(both) / 1000).toFixed(2)} s against ${(middle(alone) / 1000).toFixed(2)} s; ${answer.raised.length + answer.left} raised, ${answer.curve.length} numbers tried; notes: ${answer.notes.join(' ')}; memory ${memory().toFixed(2)} GiB at most`,
);

// who leaves: at some moments of its work, until the server says that it is not going on any more
const waits = [];
for (let run = 1; run <= 9; run++) {
  const leaving = new AbortController();
  const id = `leaving-${run}`;
  const goes = fetch(`${base}/api/rules/rehearse`, {
    method: 'POST',
    headers: { cookie: cookie(), 'content-type': 'application/json' },
    body: JSON.stringify({ document, from, to, id }),
    signal: leaving.signal,
  }).then(
    (response) => response.text().then(() => 'answered'),
    () => 'left',
  );
  await pause((middle(both) * run) / 11);
  leaving.abort();
  const began = performance.now();
  while (
    await ask(`/api/rules/rehearsals/${id}`).then(
      () => true,
      () => false,
    )
  )
    await pause(2);
  if ((await goes) === 'left') waits.push(performance.now() - began);
}
waits.sort((a, b) => a - b);
console.log(
  `  left at ${waits.length} moments of it: over ${waits[Math.floor(waits.length / 2)]?.toFixed(0)} ms later in the median, ${waits.at(-1)?.toFixed(0)} ms at most (wanted: 250)`,
);
await end();
