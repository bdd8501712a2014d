// Ten people ask measures of 100 nodes and 3,000 pods, one of them without end and of everything: what the nine others wait for,
// against the same nine without the tenth. npm run bench -- askers [nodes]
import { report } from './measure.mjs';
import { pause, product } from './product.mjs';

const [NODES = 100] = process.argv.slice(2).map(Number);
const PEOPLE = 10;
const ROUNDS = 12;
const PASSWORD = 'a long enough pass phrase 2';

const { base, ask, memory, end } = await product(
  { harbour: { nodes: NODES } },
  { port: 25_794, intervalSeconds: 15, readFor: 90_000 },
);
/** One who is signed in; what they ask is told how long it took. */
async function person(name) {
  await ask('/api/admin/people', 'POST', { name, password: PASSWORD, role: 'member' });
  await ask('/api/admin/grants', 'POST', { person: name, may: 'read' });
  const signed = await fetch(`${base}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, password: PASSWORD }),
  });
  if (!signed.ok) throw new Error(await signed.text());
  const cookie = signed.headers.get('set-cookie').split(';')[0];
  return async (text, signal) => {
    const to = Date.now();
    const began = performance.now();
    const response = await fetch(`${base}/api/measures/evaluate`, {
      method: 'POST',
      headers: { cookie, 'content-type': 'application/json' },
      body: JSON.stringify({ text, from: to - 3_600_000, to }),
      signal,
    });
    const told = await response.text();
    return { status: response.status, took: performance.now() - began, told: told.slice(0, 200) };
  };
}
const people = [];
for (let i = 0; i < PEOPLE; i++) people.push(await person(`asker-${i}`));
const [greedy, ...others] = people;
const SMALL = 'read vital container.cpu.time where k8s_namespace_name is "team-1" per second over 1m total overall';
const LARGE = 'read vital container.cpu.time per second over 1m percentile 95 over 10m';
const at95 = (list) => list.sort((a, b) => a - b)[Math.floor(list.length * 0.95)];
/** Each of the others asks one after the other, with a moment to look between. */
async function round() {
  const times = [];
  await Promise.all(
    others.map(async (own, i) => {
      await pause(i * 120);
      for (let n = 0; n < ROUNDS; n++) {
        const { status, took, told } = await own(SMALL);
        if (status !== 200) throw new Error(`answered ${status}: ${told}`);
        times.push(took);
        await pause(800);
      }
    }),
  );
  return times;
}
try {
  await round();
  const calm = await round();
  const before = memory();
  let on = true;
  const answers = new Map();
  const flood = Promise.all(
    Array.from({ length: 6 }, async () => {
      while (on) {
        const { status } = await greedy(LARGE);
        answers.set(status, (answers.get(status) ?? 0) + 1);
      }
    }),
  );
  const beside = await round();
  on = false;
  await flood;
  const [quiet, loud] = [at95(calm), at95(beside)];
  report(
    'nine who ask beside a greedy tenth',
    'the nine alone',
    `${(loud / quiet).toFixed(1)} × time`,
    `95 % below ${loud.toFixed(0)} ms, ${quiet.toFixed(0)} alone; the greedy one’s answers ${JSON.stringify(Object.fromEntries(answers))}; memory +${((memory() - before) * 1024).toFixed(0)} MiB, target below 256`,
  );
  // how soon the server is free again when somebody leaves
  const leave = new AbortController();
  const left = greedy(LARGE, leave.signal).catch(() => undefined);
  await pause(400);
  leave.abort();
  await left;
  const { took } = await greedy(SMALL);
  const { took: again } = await greedy(SMALL);
  report(
    'asking again after leaving a long one',
    'asking with nothing before it',
    `+${(took - again).toFixed(0)} ms`,
    `${took.toFixed(0)} ms against ${again.toFixed(0)}; target: free within 250 ms`,
  );
} finally {
  await end();
}
