import { createHmac } from 'node:crypto';
import type { Readable } from 'node:stream';
import { type Agent, request } from 'undici';
import type { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { isUnknownAuthority } from '../../ground/platform/failureWords.ts';
import { pageFailureInWords } from '../../inflow/scraping/pageWords.ts';

const TIMEOUT = 10_000; // ms

/** What was answered was no yes. */
export class HookRefused extends Error {}

/** The signature of a message: of when it was sent, so that an old one cannot be sent again, and of what it says. */
export const signatureOf = (secret: string, time: number, body: string): string =>
  `sha256=${createHmac('sha256', secret).update(`${time}.${body}`).digest('hex')}`;

/** Of what a program answers so much is kept. */
const KEPT = 2000;
/** The beginning of an answer, whatever is behind it; what cannot be read as text is shown as such signs. */
async function beginningOf(body: Readable): Promise<string> {
  const pieces: Buffer[] = [];
  let size = 0;
  for await (const piece of body) {
    const own = Buffer.from(piece as Uint8Array);
    pieces.push(own);
    size += own.length;
    if (size >= KEPT) break; // what is left is thrown away with the connection
  }
  return Buffer.concat(pieces).toString('utf8').slice(0, KEPT).replaceAll('\u0000', '').trim();
}

/**
 * Hands messages to programs, and answers what these said. Whatever they do, it ends in time; redirects are not followed.
 */
export class Hooks {
  private readonly agent: Agent;
  constructor(private readonly guard: AddressGuard) {
    this.agent = guard.agent('');
  }
  async send({
    address,
    key,
    body,
    secret,
    now,
  }: {
    readonly address: string;
    readonly key: string;
    readonly body: string;
    /** Empty: unsigned. */
    readonly secret: string;
    readonly now: number;
  }): Promise<string> {
    const url = new URL(address);
    const time = Math.floor(now / 1000);
    let status: number;
    let answered = '';
    try {
      this.guard.checkUrl(url);
      const answer = await request(url, {
        method: 'POST',
        dispatcher: this.agent,
        signal: AbortSignal.timeout(TIMEOUT),
        headers: {
          'content-type': 'application/json',
          'user-agent': 'zetopsis',
          'x-zetopsis-key': key,
          'x-zetopsis-time': String(time),
          ...(secret === '' ? {} : { 'x-zetopsis-signature': signatureOf(secret, time, body) }),
        },
        body,
      });
      status = answer.statusCode;
      answered = await beginningOf(answer.body);
    } catch (error) {
      throw new HookRefused(
        isUnknownAuthority(error)
          ? 'Its certificate is signed by an authority that is not known here. Nothing was sent: let it use one that this machine knows.'
          : pageFailureInWords(error, url, TIMEOUT),
      );
    }
    if (status < 200 || status > 299) throw new HookRefused(refusalWords(status));
    return `${status}${answered === '' ? '' : ` ${answered}`}`;
  }
  close(): Promise<void> {
    return this.agent.destroy();
  }
}

function refusalWords(status: number): string {
  if (status >= 300 && status < 400)
    return `It redirects elsewhere (${status}); Zetopsis does not follow. Use the address it points to.`;
  if (status === 401 || status === 403)
    return `It does not accept who sends (${status}): check its address and the secret.`;
  if (status === 404) return 'There is nothing at this path (404). Check the address.';
  if (status === 429) return 'It takes no more for now (429).';
  return `It answered ${status} instead of taking the message.`;
}
