// Preloaded into the server by a benchmark or the fuzzing: answers, over the channel to who forked it, how long nothing else
// could run, how much of its own time it took meanwhile, and what is kept in memory.
import { monitorEventLoopDelay } from 'node:perf_hooks';

const loop = monitorEventLoopDelay({ resolution: 5 });
loop.enable();
let before = process.cpuUsage();
process.on('message', (message) => {
  if (message === 'longest stop') {
    const { user, system } = process.cpuUsage(before);
    before = process.cpuUsage();
    process.send({ stop: loop.max / 1e6, cpu: (user + system) / 1000, memory: process.memoryUsage.rss() });
    loop.reset();
  } else if (message === 'heap') {
    globalThis.gc?.();
    process.send({ heap: process.memoryUsage().heapUsed });
    // collecting is a stop of our own making
    setTimeout(() => loop.reset(), 20);
  }
});
// the channel must not keep it alive
process.channel?.unref();
