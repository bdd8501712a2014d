// Preloaded into the server by a benchmark or the fuzzing: answers, over the channel to who forked it, how long nothing else
// could run; how much of such a stop the main thread spent working, which is the server's own doing where the rest is that of a
// machine with other things to do; and what is kept in memory.
import { readFileSync } from 'node:fs';

const LOOK_EVERY = 5; // ms
// nanoseconds that this process's first thread ran, by the kernel's account
const ran = () => Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'latin1').split(' ')[0]) / 1e6;
let longest = { stop: 0, own: 0 };
let last = { at: performance.now(), ran: ran() };
setInterval(() => {
  const now = { at: performance.now(), ran: ran() };
  longest = {
    stop: Math.max(longest.stop, now.at - last.at - LOOK_EVERY),
    own: Math.max(longest.own, Math.min(now.ran - last.ran, now.at - last.at - LOOK_EVERY)),
  };
  last = now;
}, LOOK_EVERY).unref();
const anew = () => {
  longest = { stop: 0, own: 0 };
  last = { at: performance.now(), ran: ran() };
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
