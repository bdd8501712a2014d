import { pause } from './product.mjs';

/** Pushes requests of the open telemetry protocol by some senders at once, each again until it is taken; how long that took, and how often one was told to wait. */
export async function pushAll({ base, token, signal, bodies, senders }) {
  let next = 0;
  let slowed = 0;
  const began = performance.now();
  const sender = async () => {
    for (;;) {
      const body = bodies[next++];
      if (!body) return;
      for (;;) {
        const response = await fetch(`${base}/api/push/v1/${signal}`, {
          method: 'POST',
          headers: { authorization: `Bearer ${token}`, 'content-type': 'application/x-protobuf' },
          body,
        });
        await response.arrayBuffer();
        if (response.ok) break;
        if (response.status !== 429 && response.status !== 503) throw new Error(`answered ${response.status}`);
        slowed++;
        await pause(1000 * Number(response.headers.get('retry-after') ?? 1));
      }
    }
  };
  await Promise.all(Array.from({ length: senders }, sender));
  return { ms: performance.now() - began, slowed };
}
