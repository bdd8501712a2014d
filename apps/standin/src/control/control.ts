import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { MailServer } from '../mail/mailServer.ts';
import { nodePage } from '../pages/nodePages.ts';
import { spansBetween } from '../programs/podSpans.ts';
import { toldBetween } from '../programs/programSender.ts';
import { wiresBetween } from '../world/wires.ts';
import { ACTS, type Berth } from './acts.ts';

const escapeHtml = (text: string) =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark] ?? mark);

/** What tests and curious people may do to the stand-in world, by page or by request, and the ledger of what it really did. Loopback only. */
export function controlServer(berths: ReadonlyMap<string, Berth>, mail: MailServer): Server {
  const berthOf = (query: URLSearchParams) => berths.get(query.get('cluster') || 'seaward');
  const shows: Record<string, (berth: Berth, query: URLSearchParams) => unknown> = {
    '/ledger': ({ world }, query) => [...world.store.at(Number(query.get('at'))).values()],
    '/page': ({ world }, query) =>
      nodePage({ world, node: query.get('node') ?? '', now: Number(query.get('at')) || Date.now(), times: null }),
    // as they would be told now; `told`: as they were told
    '/calls': ({ world, telling }, query) => ({
      troubles: world.calls.all,
      spans: query.has('from')
        ? (query.has('told')
            ? telling.spansTold(Number(query.get('from')), Number(query.get('to')))
            : spansBetween(world, Number(query.get('from')), Number(query.get('to')))
          ).map(({ pod, ...span }) => ({
            ...span,
            app: pod.metadata.labels?.['app'] ?? '',
          }))
        : [],
    }),
    // what went over the network between two moments, by pair of workloads
    '/wires': ({ world }, query) => wiresBetween(world, Number(query.get('from')), Number(query.get('to'))),
    '/told': ({ world }, query) => toldBetween(world, Number(query.get('from')), Number(query.get('to'))),
    '/going-on': ({ world, telling }) => ({
      load: world.surges.drivenNow(),
      incidents: world.incidents.list(),
      told: telling.state,
    }),
    '/acts': () => ACTS.map(({ path, does, parameters }) => ({ path, does, parameters })),
  };
  return createServer(async (request: IncomingMessage, response: ServerResponse) => {
    const url = new URL(request.url ?? '/', 'http://control');
    if (request.headers['content-type'] === 'application/x-www-form-urlencoded')
      for (const [name, value] of new URLSearchParams(await bodyOf(request))) url.searchParams.set(name, value);
    const json = (code: number, body: unknown) =>
      response.writeHead(code, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    const berth = berthOf(url.searchParams);
    if (!berth) return json(404, { problem: `no cluster of this name: ${[...berths.keys()].join(', ')}` });
    if (request.method === 'GET' && url.pathname === '/') {
      response
        .writeHead(200, {
          'content-type': 'text/html; charset=utf-8',
          'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
        })
        .end(page(berths, berth.world.options.plan.name, url.searchParams.get('said') ?? ''));
      return undefined;
    }
    const act = request.method === 'POST' ? ACTS.find(({ path }) => path === url.pathname) : undefined;
    const show = request.method === 'GET' ? shows[url.pathname] : undefined;
    if (act) {
      const problem = act.act(berth, (name) => url.searchParams.get(name) ?? '', mail);
      // the page's forms come back to the page; requests get an answer
      if (url.searchParams.get('back') !== null) {
        const said = problem ?? `done: ${act.path.slice(1)}`;
        const query = new URLSearchParams({ cluster: berth.world.options.plan.name, said });
        response.writeHead(303, { location: `/?${query}` }).end();
        return undefined;
      }
      return json(problem === null ? 200 : 400, problem === null ? { done: true } : { problem });
    }
    if (show) return json(200, show(berth, url.searchParams));
    return json(404, {
      problem: `POST ${ACTS.map(({ path }) => path).join(' ')} · GET ${Object.keys(shows).join(' ')}`,
    });
  });
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const piece of request) if (text.length < 10_000) text += String(piece);
  return text;
}

function page(berths: ReadonlyMap<string, Berth>, cluster: string, said: string): string {
  const going = [...berths.values()].flatMap(({ world }) => [
    ...world.surges
      .drivenNow()
      .map(({ workload, factor }) => `${world.options.plan.name}: ${workload} has ${factor} × the usual load`),
    ...world.incidents.list().map((text) => `${world.options.plan.name}: ${text}`),
  ]);
  const forms = ACTS.map(
    ({ path, does, parameters }) =>
      `<tr><td><b>${escapeHtml(path.slice(1))}</b><br>${escapeHtml(does)}</td><td><form method="post" action="${path}"><input type="hidden" name="back" value="">` +
      `<input type="hidden" name="cluster" value="${escapeHtml(cluster)}">` +
      parameters
        .map(
          ({ name, example }) =>
            `<label>${escapeHtml(name)} <input name="${escapeHtml(name)}" value="${escapeHtml(example)}"></label> `,
        )
        .join('') +
      `<button>do it</button></form></td></tr>`,
  ).join('');
  const links = [...berths.keys()]
    .map((name) => (name === cluster ? `<b>${name}</b>` : `<a href="/?cluster=${name}">${name}</a>`))
    .join(' · ');
  return (
    `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Harbour master</title><style>body{font:15px/1.5 sans-serif;margin:24px auto;max-width:1000px;padding:0 16px;color:#222}table{border-collapse:collapse;width:100%}td{border-bottom:1px solid #ccc;padding:8px 12px 8px 0;vertical-align:top}input{width:130px}label{white-space:nowrap}</style></head><body>` +
    `<h1>Harbour master</h1><p>What may be done to the stand-in world. Cluster: ${links}</p>` +
    (said === '' ? '' : `<p role="status"><b>${escapeHtml(said)}</b></p>`) +
    `<p>${going.length === 0 ? 'Nothing is going on beside the stories.' : going.map(escapeHtml).join('<br>')}</p>` +
    `<table><tbody>${forms}</tbody></table></body></html>`
  );
}
