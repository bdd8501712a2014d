import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { HookReceiver, type KeptHook } from './hookReceiver.ts';

describe('the receiver of messages from programs', () => {
  let server: Server;
  let base: string;
  const post = (path: string, body: string, headers: Record<string, string> = {}) =>
    fetch(`${base}${path}`, { method: 'POST', body, headers, redirect: 'manual' });
  const kept = async () => (await fetch(`${base}/hooks.json`)).json() as Promise<KeptHook[]>;

  beforeAll(async () => {
    const receiver = new HookReceiver();
    server = createServer(async (request, response) => {
      if (!(await receiver.answer(request, response))) response.writeHead(404).end('nobody');
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });

  it('keeps what comes, with its headers, and answers as its path says', async () => {
    const statuses: Record<string, number> = {};
    for (const way of ['takes', 'fails', 'full', 'forbids', 'elsewhere'])
      statuses[way] = (await post(`/hook/${way}?of=tides`, `{"way":"${way}"}`, { 'x-zetopsis-key': way })).status;
    expect(statuses).toEqual({ takes: 200, fails: 500, full: 429, forbids: 403, elsewhere: 307 });
    await expect(post('/hook/drops', '{}')).rejects.toThrow();
    const all = await kept();
    expect(all.map(({ path, status }) => [path, status])).toEqual([
      ['/hook/takes', 200],
      ['/hook/fails', 500],
      ['/hook/full', 429],
      ['/hook/forbids', 403],
      ['/hook/elsewhere', 307],
      ['/hook/drops', null],
    ]);
    expect(all[0]!.headers['x-zetopsis-key']).toBe('takes');
    expect(all[0]!.body).toBe('{"way":"takes"}');
  });
  it('shows it on a page that runs nothing, whatever was sent', async () => {
    await post('/hook/takes', '<script>alert(1)</script>');
    const page = await fetch(`${base}/hooks`);
    expect(page.headers.get('content-security-policy')).toContain("default-src 'none'");
    const text = await page.text();
    expect(text).toContain('&lt;script&gt;');
    expect(text).not.toContain('<script>');
  });
  it('is not there for anything else, and keeps so many', async () => {
    expect((await fetch(`${base}/hook/takes`)).status).toBe(404);
    expect((await post('/hook/unknown', '{}')).status).toBe(404);
    expect((await post('/hook/__proto__', '{}')).status).toBe(404);
    for (let i = 0; i < 510; i++) await post('/hook/takes', String(i));
    const all = await kept();
    expect(all.length).toBe(500);
    expect(all.at(-1)!.body).toBe('509');
  });
});
