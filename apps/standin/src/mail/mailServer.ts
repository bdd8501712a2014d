import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { join } from 'node:path';
import { type ParsedMail, simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';

export interface KeptMail {
  readonly number: number;
  readonly at: number;
  readonly from: string;
  readonly to: string;
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  readonly headers: Record<string, string>;
}

const KEPT = 500;
const MAX_BYTES = 1_000_000;

/** A mail server that keeps what it receives, in files, and shows it on a page. */
export class MailServer {
  readonly smtp: SMTPServer;
  /** Answer every message with a passing failure, for tests. */
  refusing = false;
  private readonly folder: string;
  private mails: KeptMail[] = [];
  private next = 1;

  constructor(folder: string) {
    this.folder = folder;
    mkdirSync(folder, { recursive: true });
    this.smtp = new SMTPServer({
      disabledCommands: ['AUTH', 'STARTTLS'],
      size: MAX_BYTES,
      onMailFrom: (_address, _session, done) => {
        if (!this.refusing) return done();
        const error: Error & { responseCode?: number } = new Error('the harbour post office is closed for a while');
        error.responseCode = 451;
        done(error);
      },
      onData: (stream, _session, done) => {
        const pieces: Buffer[] = [];
        stream.on('data', (piece: Buffer) => pieces.push(piece));
        stream.on('end', () => {
          const raw = Buffer.concat(pieces);
          const at = Date.now();
          const number = this.next++;
          writeFileSync(join(this.folder, `${String(number).padStart(6, '0')}-${at}.eml`), raw);
          this.keep(number, at, raw).then(() => done(), done);
        });
      },
    });
    // a sender that goes away in the middle of a message is its own trouble: its connection is closed by then
    this.smtp.on('error', () => {});
  }

  async load(): Promise<void> {
    for (const file of readdirSync(this.folder)
      .filter((name) => name.endsWith('.eml'))
      .sort()
      .slice(-KEPT)) {
      const [number, at] = file.replace('.eml', '').split('-').map(Number);
      await this.keep(number!, at!, readFileSync(join(this.folder, file)));
      this.next = Math.max(this.next, number! + 1);
    }
  }

  private async keep(number: number, at: number, raw: Buffer): Promise<void> {
    const mail: ParsedMail = await simpleParser(raw, { skipHtmlToText: true, skipTextToHtml: true });
    const to = Array.isArray(mail.to) ? mail.to.map((one) => one.text).join(', ') : (mail.to?.text ?? '');
    const headers = Object.fromEntries(
      mail.headerLines.map(({ key, line }) => [key, line.slice(line.indexOf(':') + 1).trim()]),
    );
    this.mails.push({
      number,
      at,
      from: mail.from?.text ?? '',
      to,
      subject: mail.subject ?? '',
      text: mail.text ?? '',
      html: mail.html || '',
      headers,
    });
    if (this.mails.length > KEPT) this.mails.shift();
  }

  /** `/` all messages · `/mails.json` the same as data · `/mail/N` one · `/mail/N/body` its HTML, shut into a sandbox. */
  answer(request: IncomingMessage, response: ServerResponse): void {
    const path = new URL(request.url ?? '/', 'http://mail').pathname;
    const html = (code: number, body: string) =>
      response
        .writeHead(code, {
          'content-type': 'text/html; charset=utf-8',
          'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; frame-src 'self'",
        })
        .end(body);
    if (path === '/mails.json') {
      response.writeHead(200, { 'content-type': 'application/json' }).end(JSON.stringify(this.mails));
      return;
    }
    if (path === '/') {
      html(200, page('Harbour post office', listing(this.mails)));
      return;
    }
    const [, number, body] = /^\/mail\/(\d+)(\/body)?$/.exec(path) ?? [];
    const mail = this.mails.find((candidate) => candidate.number === Number(number));
    if (!mail) html(404, page('Harbour post office', '<p>No such message.</p>'));
    else if (body) html(200, mail.html || `<pre>${escapeHtml(mail.text)}</pre>`);
    else html(200, page(mail.subject, single(mail)));
  }
}

const escapeHtml = (text: string) =>
  text.replace(/[&<>"]/g, (mark) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[mark] ?? mark);
const clock = (at: number) => new Date(at).toLocaleString('en-GB');

function listing(mails: readonly KeptMail[]): string {
  if (mails.length === 0) return '<p>No message has arrived yet.</p>';
  const rows = [...mails]
    .reverse()
    .map(
      (mail) =>
        `<tr><td>${escapeHtml(clock(mail.at))}</td><td>${escapeHtml(mail.to)}</td><td><a href="/mail/${mail.number}">${escapeHtml(mail.subject)}</a></td></tr>`,
    )
    .join('');
  return `<p>${mails.length} message${mails.length === 1 ? '' : 's'}, newest first.</p><table><thead><tr><th>arrived</th><th>to</th><th>subject</th></tr></thead><tbody>${rows}</tbody></table>`;
}

const single = (mail: KeptMail) =>
  `<p><a href="/">all messages</a></p><table><tbody><tr><th>from</th><td>${escapeHtml(mail.from)}</td></tr><tr><th>to</th><td>${escapeHtml(mail.to)}</td></tr><tr><th>arrived</th><td>${escapeHtml(clock(mail.at))}</td></tr></tbody></table>` +
  `<iframe title="message" sandbox src="/mail/${mail.number}/body"></iframe><h2>As plain text</h2><pre>${escapeHtml(mail.text)}</pre>`;

const page = (title: string, body: string) =>
  `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(title)}</title><style>body{font:15px/1.5 sans-serif;margin:24px auto;max-width:900px;padding:0 16px;color:#222}table{border-collapse:collapse;width:100%}td,th{text-align:left;border-bottom:1px solid #ccc;padding:6px 12px 6px 0;vertical-align:top}iframe{width:100%;height:800px;border:1px solid #ccc;margin:16px 0}pre{white-space:pre-wrap;background:#f4f4f4;padding:12px;font-size:13px}</style></head><body><h1>${escapeHtml(title)}</h1>${body}</body></html>`;
