import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { startStandIn } from './standIn.ts';

const USAGE = `usage: node apps/standin/dist/main.js --folder DIR [--seed TEXT] [--start EPOCH_MS] [--pace N] [--base-port N] [--heartbeat MS]
       [--clusters NAME,NAME]
  --folder     keys, received mail and card.json are kept here
  --seed       same seed and start, same world (default "harbour")
  --start      when the stories begin (default now)
  --pace       how many times faster than in the harbour the stories run (default 1)
  --base-port  first of 40 ports in a row on loopback (default: any free ones)`;

const { values } = parseArgs({
  options: {
    folder: { type: 'string' },
    seed: { type: 'string', default: 'harbour' },
    start: { type: 'string' },
    pace: { type: 'string', default: '1' },
    'base-port': { type: 'string', default: '0' },
    heartbeat: { type: 'string', default: '10000' },
    clusters: { type: 'string' },
    help: { type: 'boolean', default: false },
  },
});
const number = (text: string | undefined, fallback: number) => (text === undefined ? fallback : Number(text));
const pace = number(values.pace, 1);
const start = number(values.start, Date.now());
if (values.help || !values.folder || !(pace > 0) || !(start > 0)) {
  console.error(USAGE);
  process.exit(values.help ? 0 : 2);
}

mkdirSync(values.folder, { recursive: true, mode: 0o700 });
const standIn = await startStandIn({
  folder: values.folder,
  seed: values.seed,
  start,
  pace,
  basePort: number(values['base-port'], 0),
  heartbeat: number(values.heartbeat, 10_000),
  ...(values.clusters === undefined ? {} : { clusters: values.clusters.split(',') }),
});
const card = join(values.folder, 'card.json');
writeFileSync(`${card}.new`, JSON.stringify(standIn.card, null, 2), { mode: 0o600 });
renameSync(`${card}.new`, card);
console.log(
  `stand-in world of ${standIn.card.clusters.map(({ name, address }) => `${name} at ${address}`).join(', ')}; mail page ${standIn.card.mailPage}; control ${standIn.card.control}`,
);

const stop = () => {
  standIn.close().then(
    () => process.exit(0),
    () => process.exit(1),
  );
};
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
