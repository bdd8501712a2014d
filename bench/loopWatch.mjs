// Preloaded into the server by a benchmark: answers, over the channel to who forked it, how long nothing else could run.
import { monitorEventLoopDelay } from 'node:perf_hooks';

const loop = monitorEventLoopDelay({ resolution: 5 });
loop.enable();
process.on('message', (message) => {
  if (message !== 'longest stop') return;
  process.send({ stop: loop.max / 1e6, memory: process.memoryUsage.rss() });
  loop.reset();
});
// the channel must not keep it alive
process.channel?.unref();
