// Child processes of the two commands: started with a log, waited for, and ended together.
import { spawn } from 'node:child_process';
import { closeSync, mkdirSync, openSync, readFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** Starts a Node.js program whose output goes to a file; `ended` resolves with its code. */
export function startProcess(name, args, { env = {}, log }) {
  mkdirSync(dirname(log), { recursive: true });
  const out = openSync(log, 'a');
  // a group of its own: Ctrl+C reaches only the one who starts, which then ends all in order
  const child = spawn(process.execPath, args, {
    env: { ...process.env, ...env },
    stdio: ['ignore', out, out],
    detached: true,
  });
  closeSync(out);
  const ended = new Promise((done) => child.once('exit', (code, signal) => done(code ?? signal)));
  return { name, child, log, ended };
}

export async function stopProcess({ child, ended }) {
  if (child.exitCode !== null || child.signalCode !== null) return;
  child.kill('SIGTERM');
  const force = setTimeout(() => child.kill('SIGKILL'), 10_000);
  await ended;
  clearTimeout(force);
}

export function lastLines(file, count = 15) {
  try {
    return readFileSync(file, 'utf8').trimEnd().split('\n').slice(-count).join('\n');
  } catch {
    return '';
  }
}

/** Asks again and again until `look` gives something; stops with the log when the process ends before. */
export async function waitFor(started, look, seconds = 60) {
  let gone = false;
  void started.ended.then(() => {
    gone = true;
  });
  for (const until = Date.now() + seconds * 1000; Date.now() < until; ) {
    if (gone) throw new Error(`the ${started.name} ended at its start:\n${lastLines(started.log)}`);
    const seen = await look().catch(() => null);
    if (seen) return seen;
    await new Promise((done) => setTimeout(done, 100));
  }
  throw new Error(
    `the ${started.name} was not ready after ${seconds} s; its log is ${started.log}:\n${lastLines(started.log)}`,
  );
}
