// npm start: sets the machine up, then runs the product with demo data until Ctrl+C.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuild, ensureDependencies, ensurePostgres, say, stateDir } from './machine.mjs';

const began = Date.now();
const lock = join(stateDir, 'running.json');

/** A second start finds the first one and says where it is. */
function runningAlready() {
  if (!existsSync(lock)) return null;
  const { pid, address } = JSON.parse(readFileSync(lock, 'utf8'));
  try {
    process.kill(pid, 0);
    const line = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
    return line.includes('start.mjs') ? { pid, address } : null;
  } catch {
    return null;
  }
}

try {
  const running = runningAlready();
  if (running) {
    console.log(
      `Zetopsis runs already (process ${running.pid})${running.address ? ` at ${running.address}` : ', and is starting'}.`,
    );
    process.exit(0);
  }
  mkdirSync(stateDir, { recursive: true });
  writeFileSync(lock, JSON.stringify({ pid: process.pid }));
  ensurePostgres();
  ensureDependencies();
  ensureBuild();
  const { startDemo } = await import('./demo.mjs');
  const demo = await startDemo({ folder: join(stateDir, 'demo') });
  writeFileSync(lock, JSON.stringify({ pid: process.pid, address: demo.address }));

  console.log(`
Zetopsis is ready after ${Math.round((Date.now() - began) / 1000)} s:  ${demo.address}
  people      ${demo.world.people.map(({ name }) => name).join(', ')}; password ${demo.password} (the sign-in page lists them)
  messages    ${demo.world.mailPage}
  stand-in    ${demo.world.control} (what can be done to the world: README)
  logs        ${join(stateDir, 'demo')}
Stop with Ctrl+C; the data are kept for the next start.`);

  let stopping = false;
  const stop = async (why, code) => {
    if (stopping) return;
    stopping = true;
    say(why);
    await demo.stop();
    rmSync(lock, { force: true });
    process.exit(code);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop('stopping', 0));
  const reason = await demo.ended();
  await stop(`${reason}; see the logs`, 1);
} catch (error) {
  console.error(`\n${error.message}`);
  rmSync(lock, { force: true });
  process.exit(1);
}
