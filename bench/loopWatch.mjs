// Preloaded into the server by a benchmark or the fuzzing: answers, over the channel to who forked it, how long nothing else
// could run; how much of such a stop the main thread spent working, which is the server's own doing where the rest is that of a
// machine with other things to do, or of one that its host lets stand; and what is kept in memory.
import { readFileSync } from 'node:fs';

const LOOK_EVERY = 5; // ms
// nanoseconds that this process's first thread ran, by the kernel's account
const ran = () => Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'latin1').split(' ')[0]) / 1e6;
// what the host of a virtual machine took from each of its processors, in ms: the kernel counts it as time of whatever ran
const TICK = 10;
const stolen = () =>
  readFileSync('/proc/stat', 'latin1')
    .split('\n')
    .filter((line) => /^cpu\d/.test(line))
    .map((line) => Number(line.split(/\s+/)[8] ?? 0) * TICK);
const LOOK_AT_STOLEN = 50; // ms: the file is not small
let taken = { at: performance.now(), of: stolen() };
let longest = { stop: 0, own: 0 };
let last = { at: performance.now(), ran: ran() };
setInterval(() => {
  const now = { at: performance.now(), ran: ran() };
  const stop = now.at - last.at - LOOK_EVERY;
  if (now.at - taken.at > LOOK_AT_STOLEN) {
    const of = stolen();
    const most = Math.max(...of.map((ms, i) => ms - (taken.of[i] ?? 0)));
    longest = {
      stop: Math.max(longest.stop, stop),
      own: Math.max(longest.own, Math.min(now.ran - last.ran, stop) - most),
    };
    taken = { at: now.at, of };
  } else
    longest = { stop: Math.max(longest.stop, stop), own: Math.max(longest.own, Math.min(now.ran - last.ran, stop)) };
  last = now;
}, LOOK_EVERY).unref();
const anew = () => {
  longest = { stop: 0, own: 0 };
  last = { at: performance.now(), ran: ran() };
  taken = { at: last.at, of: stolen() };
};
process.on('message', (message) => {
  if (message === 'longest stop') {
    process.send({ ...longest, memory: process.memoryUsage.rss() });
    anew();
  } else if (message === 'heap') {
    globalThis.gc?.();
    process.send({ heap: process.memoryUsage().heapUsed });
    // collecting is a stop of our own making
    anew();
  }
});
// the channel must not keep it alive
process.channel?.unref();
