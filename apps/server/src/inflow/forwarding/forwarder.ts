import type { Readable } from 'node:stream';
import type { ForwardDocument, ForwardSignal, ForwardState } from '@zetopsis/contract';
import { type EpochMs, SECOND } from '@zetopsis/core/units';
import { type Agent, request } from 'undici';
import { z } from 'zod';
import type { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { pageFailureInWords } from '../scraping/pageWords.ts';
import type { ForwardStore, KeptRow } from './forward.store.ts';
import { PATHS } from './wire-names.ts';

const TIMEOUT = 20 * SECOND;
const EVERY = 500;
const AT_ONCE = 50;
const BOUNDED_EVERY = 5 * SECOND;
const WAITS = [1, 2, 5, 10, 30, 60].map((seconds) => seconds * SECOND);
const LONGEST_WAIT = 10 * 60 * SECOND;
const ANSWER_BYTES = 64 * 1024;
/** What is wrong with the request itself, and will be each time. */
const isForGood = (status: number): boolean =>
  status >= 400 && status < 500 && ![401, 403, 404, 408, 429].includes(status);

/** What a receiver answered to one request. */
type Outcome =
  | { readonly is: 'taken'; readonly refused: number; readonly words: string | null }
  | { readonly is: 'refused'; readonly words: string }
  | { readonly is: 'later'; readonly words: string; readonly after: number | null };

/** Sends what waits for one receiver, oldest first, until it is taken there. */
export class Forwarder {
  private readonly agent: Agent;
  private readonly sending: Repeated;
  private readonly counts = { sent: 0, refused: 0, dropped: 0 };
  private lastSentAt: EpochMs | null = null;
  private trouble: ForwardState['trouble'] = null;
  private refusal: string | null = null;
  private tries = 0;
  private notBefore = 0;
  private boundedAt = 0;

  constructor(
    private readonly key: string,
    private readonly document: ForwardDocument,
    private readonly tools: {
      readonly store: ForwardStore;
      readonly guard: AddressGuard;
      readonly now: () => EpochMs;
      readonly secret: () => string;
      /** Nothing is sent by a process that another has taken over from. */
      readonly mayWrite: () => boolean;
      readonly failed: (error: unknown) => void;
    },
  ) {
    this.agent = tools.guard.agent(document.authority);
    this.sending = new Repeated(() => this.round(), EVERY);
    if (document.use === 'on') this.sending.begin();
  }
  async stop(): Promise<void> {
    await this.sending.stop();
    await this.agent.destroy();
  }
  async state(): Promise<ForwardState> {
    return {
      ...this.counts,
      waiting: await this.tools.store.backlog(this.key),
      lastSentAt: this.lastSentAt,
      trouble: this.trouble,
      refusal: this.refusal,
    };
  }
  /** An empty request of a kind, whatever waits. */
  async test(signal: ForwardSignal): Promise<{ taken: boolean; words: string }> {
    const outcome = await this.send(signal, Buffer.from('{}'), false);
    return outcome.is === 'taken' ? { taken: true, words: 'taken' } : { taken: false, words: outcome.words };
  }

  private async round(): Promise<void> {
    if (!this.tools.mayWrite()) return;
    try {
      const now = this.tools.now();
      if (now - this.boundedAt >= BOUNDED_EVERY) {
        this.boundedAt = now;
        this.counts.dropped += await this.tools.store.bound(this.key, this.document.backlogMegabytes * 1024 * 1024);
      }
      if (now < this.notBefore) return;
      for (;;) {
        const rows = await this.tools.store.oldest(this.key, AT_ONCE);
        for (const row of rows) if (this.sending.ending || !(await this.handOn(row))) return;
        if (rows.length < AT_ONCE) return;
      }
    } catch (error) {
      this.tools.failed(error);
    }
  }
  /** Whether the next one may be sent. */
  private async handOn({ id, signal, items, payload }: KeptRow): Promise<boolean> {
    const outcome = await this.send(signal, payload, true);
    const now = this.tools.now();
    if (outcome.is === 'later') {
      this.trouble = { why: outcome.words, since: this.trouble?.since ?? now };
      const wait = outcome.after ?? WAITS[Math.min(this.tries, WAITS.length - 1)]!; // within the list
      this.tries++;
      this.notBefore = now + Math.min(wait, LONGEST_WAIT);
      return false;
    }
    await this.tools.store.remove(id);
    this.tries = 0;
    this.trouble = null;
    const refused = outcome.is === 'taken' ? Math.min(items, outcome.refused) : items;
    this.counts.refused += refused;
    this.counts.sent += items - refused;
    if (outcome.words !== null) this.refusal = outcome.words;
    if (outcome.is === 'taken') this.lastSentAt = now;
    return true;
  }
  private async send(signal: ForwardSignal, body: Buffer, compressed: boolean): Promise<Outcome> {
    const secret = this.tools.secret();
    let url: URL;
    try {
      url = new URL(`${this.document.address.replace(/\/+$/, '')}/${PATHS[signal]}`);
    } catch {
      return { is: 'later', words: 'The address is none.', after: null };
    }
    try {
      this.tools.guard.checkUrl(url);
      const answer = await request(url, {
        method: 'POST',
        dispatcher: this.agent,
        signal: AbortSignal.timeout(TIMEOUT),
        headers: {
          'content-type': 'application/json',
          ...(compressed && { 'content-encoding': 'gzip' }),
          'user-agent': 'zetopsis',
          ...(secret !== '' && { authorization: `Bearer ${secret}` }),
        },
        body,
      });
      const said = await beginningOf(answer.body);
      return outcomeOf(answer.statusCode, answer.headers['retry-after'], said);
    } catch (error) {
      return { is: 'later', words: pageFailureInWords(error, url, TIMEOUT), after: null };
    }
  }
}

async function beginningOf(body: Readable): Promise<string> {
  const pieces: Buffer[] = [];
  let size = 0;
  for await (const piece of body) {
    pieces.push(Buffer.from(piece as Uint8Array));
    size += (piece as Uint8Array).length;
    if (size >= ANSWER_BYTES) break; // what is left is thrown away with the connection
  }
  return Buffer.concat(pieces).toString('utf8').replaceAll('\u0000', '');
}
const Partial = z.object({
  partialSuccess: z.record(z.string(), z.union([z.string(), z.number()])).optional(),
});
function outcomeOf(status: number, retryAfter: string | string[] | undefined, said: string): Outcome {
  if (status >= 200 && status < 300) {
    const part = Partial.safeParse(parsed(said)).data?.partialSuccess ?? {};
    const refused = Object.entries(part).find(([name]) => name.startsWith('rejected'));
    const words = part['errorMessage'];
    const count = refused === undefined ? 0 : Math.max(0, Number(refused[1]) || 0);
    return {
      is: 'taken',
      refused: count,
      words: count === 0 ? null : `It took it in part: ${String(words ?? '').slice(0, 300)}`,
    };
  }
  const quote = said.trim() === '' ? '' : ` It says: “${said.trim().slice(0, 300)}”.`;
  if (isForGood(status)) return { is: 'refused', words: `It refused a request for good (${status}).${quote}` };
  const seconds = Number(Array.isArray(retryAfter) ? retryAfter[0] : retryAfter);
  return {
    is: 'later',
    words: `${troubleWords(status)}${quote}`,
    after: Number.isFinite(seconds) && seconds > 0 ? seconds * SECOND : null,
  };
}
function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return {};
  }
}
function troubleWords(status: number): string {
  if (status === 401 || status === 403) return `It does not accept who sends (${status}): check the token.`;
  if (status === 404) return 'It has nothing at this path (404): check the address.';
  if (status === 429) return 'It takes no more for now (429).';
  if (status >= 300 && status < 400) return `It redirects elsewhere (${status}); Zetopsis does not follow.`;
  return `It answered ${status}.`;
}
