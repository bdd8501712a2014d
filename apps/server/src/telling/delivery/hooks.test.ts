import { createServer, type IncomingHttpHeaders, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { Hooks, signatureOf } from './hooks.ts';

const DATABASE = 'postgresql://127.0.0.1:5432/x';
const open: { close: () => void }[] = [];
afterEach(() => {
  for (const one of open.splice(0)) one.close();
});
async function serving(listener: RequestListener): Promise<string> {
  const server: Server = createServer(listener);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  open.push({
    close: () => {
      server.closeAllConnections();
      server.close();
    },
  });
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}/hook`;
}
const hooks = (allow = ['127.0.0.1']) => {
  const made = new Hooks(new AddressGuard(allow, DATABASE));
  open.push({ close: () => void made.close() });
  return made;
};
const message = { key: 'alert-1-raised-hook-x', body: '{"title":"tide"}', secret: 'quay', now: 1_764_500_000_123 };

describe('a hook', () => {
  it('is given the message with its key, its time and a signature of both', async () => {
    const seen: { headers: IncomingHttpHeaders; body: string; method: string | undefined }[] = [];
    const address = await serving((request, response) => {
      let body = '';
      request.on('data', (piece: Buffer) => (body += piece.toString()));
      request.on('end', () => {
        seen.push({ headers: request.headers, body, method: request.method });
        response.writeHead(204).end();
      });
    });
    await hooks().send({ ...message, address });
    const [{ headers, body, method }] = seen as [(typeof seen)[0]];
    expect([method, body, headers['x-zetopsis-key'], headers['x-zetopsis-time']]).toEqual([
      'POST',
      message.body,
      message.key,
      '1764500000',
    ]);
    expect(headers['x-zetopsis-signature']).toBe(signatureOf('quay', 1_764_500_000, message.body));
    expect(signatureOf('quay', 1_764_500_001, message.body)).not.toBe(headers['x-zetopsis-signature']);
    await hooks().send({ ...message, secret: '', address });
    expect(seen[1]!.headers['x-zetopsis-signature']).toBeUndefined();
  });
  it.each([
    [500, 'It answered 500 instead of taking the message.'],
    [403, 'It does not accept who sends (403): check its address and the secret.'],
    [429, 'It takes no more for now (429).'],
  ])('that answers %i did not take it, and says so', async (status, words) => {
    const address = await serving((_, response) => void response.writeHead(status).end());
    await expect(hooks().send({ ...message, address })).rejects.toThrow(words);
  });
  it('that redirects is not followed', async () => {
    let reached = 0;
    const inner = await serving((_, response) => {
      reached++;
      response.end();
    });
    const address = await serving((_, response) => void response.writeHead(307, { location: inner }).end());
    await expect(hooks().send({ ...message, address })).rejects.toThrow('does not follow');
    expect(reached).toBe(0);
  });
  it('is reached only where connecting is allowed', async () => {
    let reached = 0;
    const address = await serving((_, response) => {
      reached++;
      response.end();
    });
    await expect(hooks([]).send({ ...message, address })).rejects.toThrow(/loopback/);
    await expect(hooks().send({ ...message, address: 'http://127.0.0.1:5432/x' })).rejects.toThrow(/own database/);
    expect(reached).toBe(0);
  });
  it('that is not there, or breaks off in the middle, is told of', async () => {
    const address = await serving((request) => void request.socket.destroy());
    await expect(hooks().send({ ...message, address })).rejects.toThrow(/\S/);
    await expect(hooks().send({ ...message, address: 'http://127.0.0.1:9/x' })).rejects.toThrow(
      /nothing listens on port 9/,
    );
  });
});
