import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { ClusterClient } from './clusterClient.ts';

/** What a cluster's API may do, which is somebody else's program. */
describe('a cluster’s API', () => {
  let server: Server | null = null;
  afterEach(() => {
    server?.closeAllConnections();
    server?.close();
  });
  const client = async (answer: (request: IncomingMessage, response: ServerResponse) => void) => {
    const own = createServer(answer);
    server = own;
    await new Promise<void>((done) => {
      own.listen(0, '127.0.0.1', done);
    });
    const guard = new AddressGuard(['127.0.0.1'], 'postgres://u:p@db.test:5432/z');
    const { port } = own.address() as AddressInfo;
    return new ClusterClient(`http://127.0.0.1:${port}`, 'token', guard.agent(''), guard);
  };

  it('that always says that there is more is not read for ever', async () => {
    let asked = 0;
    const endless = await client((_request, response) => {
      asked++;
      response.end(JSON.stringify({ metadata: { resourceVersion: '1', continue: `${asked}` }, items: [] }));
    });
    await expect(endless.list('pod', 5000)).rejects.toThrow(/list of this kind does not end/);
    expect(asked).toBeLessThan(50);
  });
  it('that lists more than anybody has is given up', async () => {
    const items = JSON.stringify(Array.from({ length: 20_000 }, () => 1));
    const endless = await client((_request, response) =>
      response.end(`{"metadata":{"resourceVersion":"1","continue":"more"},"items":${items}}`),
    );
    await expect(endless.list('pod', 5000)).rejects.toThrow(/more than 500000 objects/);
  });
  it('is never asked for a path that a name is part of', async () => {
    const paths: string[] = [];
    const own = await client((request, response) => {
      paths.push(request.url ?? '');
      response.end('a line');
    });
    const log = (pod: string, namespace = 'tides', container = 'main') =>
      own.log({ namespace, pod, container, previous: false }, { lines: 5, bytes: 1000, timeout: 5000 });
    for (const name of ['..', '.', '../../secrets', 'a/../b', 'a?x', '', '-a', 'a\u0000'])
      for (const ask of [() => log(name), () => log('pod-1', name), () => log('pod-1', 'tides', name)])
        await expect(ask()).rejects.toThrow(/No container/);
    expect(paths).toEqual([]);
    expect(await log('pod-1')).toBe('a line');
    expect(paths[0]).toMatch(/^\/api\/v1\/namespaces\/tides\/pods\/pod-1\/log\?/);
  });
});
