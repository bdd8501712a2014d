// The product as it is started for real, against a database of its own, with clusters connected to it.
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { benchDatabase } from './database.mjs';
import { outside } from './outside.mjs';

export const pause = (ms) => new Promise((done) => setTimeout(done, ms));

/** Starts it, connects these clusters, and lets their nodes be read for so long. */
export async function product(clusters, { port, intervalSeconds, readFor, watched = false }) {
  const { url, end } = await benchDatabase();
  const folder = mkdtempSync(join(tmpdir(), 'zetopsis-bench-'));
  const world = await outside(clusters);
  const main = fileURLToPath(new URL('../apps/server/dist/main.js', import.meta.url));
  const watch = fileURLToPath(new URL('loopWatch.mjs', import.meta.url));
  const server = fork(main, [], {
    silent: true,
    execArgv: [...(watched ? ['--import', watch] : []), ...(process.env.BENCH_NODE_OPTIONS?.split(' ') ?? [])],
    env: {
      ...process.env,
      NODE_ENV: 'production',
      ZETOPSIS_DATABASE_URL: url,
      ZETOPSIS_DATA_DIR: folder,
      ZETOPSIS_LOG_LEVEL: 'warn',
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
      ZETOPSIS_HOST: '127.0.0.1',
      ZETOPSIS_PORT: String(port),
    },
  });
  let printed = '';
  let done = false;
  process.once('exit', () => server.kill('SIGKILL'));
  server.once('exit', (status, signal) => {
    if (!done) console.log(`the server ended with ${status ?? signal}: ${printed.slice(-3000)}`);
  });
  for (const stream of [server.stdout, server.stderr]) stream.on('data', (text) => (printed += text));
  const codePrinted = () => /one-time code: (\S+)/.exec(printed)?.[1];
  while (codePrinted() === undefined) {
    if (server.exitCode !== null) throw new Error(printed);
    await pause(200);
  }
  const base = `http://127.0.0.1:${port}`;
  const own = { cookie: '' };
  const ask = async (path, method = 'GET', body = undefined) => {
    const send = () =>
      fetch(`${base}${path}`, {
        method,
        headers: { cookie: own.cookie, ...(body ? { 'content-type': 'application/json' } : {}) },
        body: body && JSON.stringify(body),
      });
    // an idle connection may have been closed just now
    const response = await send().catch(send);
    own.cookie = response.headers.get('set-cookie')?.split(';')[0] ?? own.cookie;
    const text = await response.text();
    if (!response.ok) throw new Error(`${path} answered ${response.status}: ${text.slice(0, 300)}`);
    return text;
  };
  const person = { code: codePrinted(), name: 'bench', password: 'a long enough pass phrase 1' };
  await ask('/api/first-person', 'POST', person);
  for (const card of world.cards)
    await ask('/api/connections', 'POST', {
      ...card,
      nodePage: { path: '/metrics', intervalSeconds },
      environment: 'bench',
      region: '',
      flavour: '',
    });
  const nodes = Object.values(clusters).reduce((sum, one) => sum + one.nodes, 0);
  const began = Date.now();
  let first = null;
  while (Date.now() < began + readFor) {
    await pause(2000);
    const { endpoints } = JSON.parse(await ask('/api/sources'));
    const read = endpoints.filter(({ state }) => state === 'read').length;
    if (first === null && read >= nodes) {
      first = (Date.now() - began) / 1000;
      console.log(`  every node read ${first.toFixed(0)} s after connecting`);
    }
  }
  return {
    base,
    ask,
    databaseUrl: url,
    /** Seconds of processor that it took so far: in all, and its main thread. What else the machine does is not in it. */
    processor: () => processorOf(server.pid),
    /** The longest time for which the server could do nothing else since it was asked before, ms, and its memory now; of a watched one. */
    async longestStop() {
      const answer = once(server, 'message');
      server.send('longest stop');
      return (await answer)[0];
    },
    cookie: () => own.cookie,
    /** The most memory that the server took, GiB. */
    memory: () => /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))[1] / 2 ** 20,
    async end() {
      done = true;
      server.kill('SIGTERM');
      await once(server, 'exit');
      world.end();
      await end();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** Ticks of the clock, 100 a second, that Linux counted for a process and for its first thread. */
function processorOf(pid) {
  const seconds = (file) => {
    const [, user, system] = /\) \S(?: \S+){10} (\d+) (\d+)/.exec(readFileSync(file, 'utf8'));
    return (Number(user) + Number(system)) / 100;
  };
  return { all: seconds(`/proc/${pid}/stat`), main: seconds(`/proc/${pid}/task/${pid}/stat`) };
}
