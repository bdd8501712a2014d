import type { IncomingMessage, ServerResponse } from 'node:http';

export interface KeptHook {
  readonly number: number;
  readonly at: number;
  /** Where it was sent: "/hook/takes". */
  readonly path: string;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
  /** What was answered; null: nothing. */
  readonly status: number | null;
}
const KEPT = 500;
const MAX_BYTES = 1_000_000;
/** Longer than anybody waits. */
const SLOW = 60_000;

/** What a program that is told may be like, by the path that it is told at. */
const WAYS: Readonly<Record<string, { readonly does: string; readonly status: number | null }>> = {
  '/hook/takes': { does: 'takes everything, and says so', status: 200 },
  '/hook/fails': { does: 'answers 500', status: 500 },
  '/hook/full': { does: 'takes no more for now', status: 429 },
  '/hook/forbids': { does: 'does not accept who sends', status: 403 },
  '/hook/elsewhere': { does: 'points to a loopback address', status: 307 },
  '/hook/slow': { does: 'answers after a minute', status: 200 },
  '/hook/drops': { does: 'ends the connection without an answer', status: null },
};

/** A receiver of messages from programs: it keeps what comes, behaves as its path says, and shows it on a page. */
export class HookReceiver {
  private hooks: KeptHook[] = [];
  private next = 1;

  /** False where it is not asked. `/hooks` all · `/hooks.json` the same as data. */
  async answer(request: IncomingMessage, response: ServerResponse): Promise<boolean> {
    const { pathname } = new URL(request.url ?? '/', 'http://hooks');
    if (pathname === '/hooks.json') {
      response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(this.hooks));
      return true;
    }
    if (pathname === '/hooks') {
      response
        .writeHead(200, {
          'content-type': 'text/html; charset=utf-8',
          'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
        })
        .end(this.page());
      return true;
    }
    const way = Object.hasOwn(WAYS, pathname) ? WAYS[pathname] : undefined;
    if (way === undefined || request.method !== 'POST') return false;
    const body = await bodyOf(request);
    this.hooks.push({
      number: this.next++,
      at: Date.now(),
      path: pathname,
      headers: Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, String(value)])),
      body,
      status: way.status,
    });
    if (this.hooks.length > KEPT) this.hooks.shift();
    if (way.status === null) {
      request.socket.destroy();
      return true;
    }
    const end = () =>
      response
        .writeHead(way.status!, {
          'content-type': 'application/json',
          ...(way.status === 307 ? { location: 'http://127.0.0.1:1/inside' } : {}),
        })
        .end(JSON.stringify({ done: way.status === 200, number: this.next - 1 }));
    if (pathname === '/hook/slow') setTimeout(end, SLOW).unref();
    else end();
    return true;
  }

  private page(): string {
    const rows = [...this.hooks]
      .reverse()
      .map(
        ({ at, path, status, headers, body }) =>
          `<tr><td>${escapeHtml(new Date(at).toLocaleString('en-GB'))}<br>${escapeHtml(path)}<br>${status ?? 'no answer'}</td><td>${headers['x-zetopsis-signature'] === undefined ? 'unsigned' : 'signed'}<pre>${escapeHtml(pretty(body))}</pre></td></tr>`,
      )
      .join('');
    const ways = Object.entries(WAYS)
      .map(([path, { does }]) => `<li><code>${escapeHtml(path)}</code> ${escapeHtml(does)}</li>`)
      .join('');
    return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Harbour signal station</title><style>body{font:15px/1.5 sans-serif;margin:24px auto;max-width:900px;padding:0 16px;color:#222}table{border-collapse:collapse;width:100%}td{text-align:left;border-bottom:1px solid #ccc;padding:6px 12px 6px 0;vertical-align:top}pre{white-space:pre-wrap;background:#f4f4f4;padding:12px;font-size:13px;margin:4px 0}</style></head><body><h1>Harbour signal station</h1><p>Programs are told here, by POST, at:</p><ul>${ways}</ul><p>${this.hooks.length} received, newest first.</p><table><tbody>${rows}</tbody></table></body></html>`;
  }
}
const escapeHtml = (text: string) =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark] ?? mark);
function pretty(body: string): string {
  try {
    return JSON.stringify(JSON.parse(body), null, 2);
  } catch {
    return body;
  }
}
async function bodyOf(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const piece of request) if (text.length < MAX_BYTES) text += String(piece);
  return text;
}
