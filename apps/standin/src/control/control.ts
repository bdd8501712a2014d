import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { ClusterApi } from '../api/clusterApi.ts';
import type { MailServer } from '../mail/mailServer.ts';
import { type NodePages, nodePage } from '../pages/nodePages.ts';
import type { World } from '../world/world.ts';

type Query = URLSearchParams;

/** What tests and curious people may do to the stand-in world, and the ledger of what it really did. Loopback only. */
export function controlServer(world: World, api: ClusterApi, pages: NodePages, mail: MailServer): Server {
  const acts: Record<string, (query: Query) => string | null> = {
    '/scale': (query) =>
      world.scale(query.get('namespace') ?? '', query.get('name') ?? '', Number(query.get('replicas')), Date.now()),
    '/mend-release': () => {
      world.mendRelease(Date.now());
      return null;
    },
    '/cut': (query) => {
      api.cut(query.get('where') === 'mid-object');
      return null;
    },
    '/expire': () => {
      world.store.expire();
      return null;
    },
    '/churn': (query) => {
      world.churn(Number(query.get('every')) || 500);
      return null;
    },
    '/mail': (query) => {
      mail.refusing = query.get('refusing') === 'true';
      return null;
    },
    '/break': (query) => {
      const how = query.get('how');
      const node = query.get('node') ?? '';
      if (how === 'refuse' || how === 'hang' || how === 'torn' || how === 'notMetrics') pages.broken.set(node, how);
      else pages.broken.delete(node);
      return null;
    },
  };
  const shows: Record<string, (query: Query) => unknown> = {
    '/ledger': (query) => [...world.store.at(Number(query.get('at'))).values()],
    '/page': (query) => nodePage(world, query.get('node') ?? '', Number(query.get('at')) || Date.now(), null),
  };
  return createServer((request: IncomingMessage, response: ServerResponse) => {
    const url = new URL(request.url ?? '/', 'http://control');
    const json = (code: number, body: unknown) =>
      response.writeHead(code, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    const act = request.method === 'POST' ? acts[url.pathname] : undefined;
    const show = request.method === 'GET' ? shows[url.pathname] : undefined;
    if (act) {
      const problem = act(url.searchParams);
      json(problem === null ? 200 : 400, problem === null ? { done: true } : { problem });
    } else if (show) json(200, show(url.searchParams));
    else json(404, { problem: `POST ${Object.keys(acts).join(' ')} · GET ${Object.keys(shows).join(' ')}` });
  });
}
