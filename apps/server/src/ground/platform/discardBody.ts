import type { Readable } from 'node:stream';

/** Drops an answer's body that nobody wants to read. Its stream reports being dropped as an error, which is none. */
export function discardBody(body: Readable): void {
  body.on('error', () => undefined);
  body.destroy();
}
