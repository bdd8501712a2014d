// npm run serve: the product alone, without demo data, against the PostgreSQL its environment names. It is kept running: a server that
// ends by itself is begun anew, and says so on Now.
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies, root, say } from './machine.mjs';

/** Ended sooner than this at its first start, something is set up wrong: beginning anew would not help. */
const RAN = 15_000; // ms
const FIRST_WAIT = 1000;
const LONGEST_WAIT = 30_000;

try {
  ensureDependencies();
  ensureBuild();
} catch (error) {
  console.error(error.message);
  process.exit(1);
}

let child = null;
let waiting = null;
let stopping = false;
let everRan = false;
let wait = FIRST_WAIT;

function begin(why) {
  const began = Date.now();
  child = spawn(process.execPath, [join(root, 'apps/server/dist/main.js')], {
    stdio: 'inherit',
    env: { ...process.env, ...(why === null ? {} : { ZETOPSIS_BEGUN_ANEW: why }) },
  });
  child.once('exit', (code, signal) => {
    child = null;
    if (stopping) process.exit(code ?? 1);
    const ran = Date.now() - began;
    everRan ||= ran >= RAN;
    if (!everRan) process.exit(code ?? 1);
    if (ran >= RAN) wait = FIRST_WAIT;
    const how = signal === null ? `it ended with code ${code}` : `it was ended by ${signal}`;
    say(`the server is gone: ${how}; it is begun anew in ${wait / 1000} s`);
    waiting = setTimeout(() => begin(how), wait);
    wait = Math.min(LONGEST_WAIT, 2 * wait);
  });
}
begin(null);
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'])
  process.on(signal, () => {
    stopping = true;
    if (waiting) clearTimeout(waiting);
    if (child === null) process.exit(0);
    child.kill(signal);
  });
