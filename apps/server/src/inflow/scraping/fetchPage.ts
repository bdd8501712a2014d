import {
  formOf,
  notMetrics,
  PageBuffer,
  type PageLimits,
  type PageMemory,
  readBuffer,
} from '@zetopsis/core/exposition';
import { request } from 'undici';
import type { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { discardBody } from '../../ground/platform/discardBody.ts';
import { turn } from '../../ground/platform/inPieces.ts';
import type { Ask } from './asking.service.ts';
import type { FetchResult } from './fetched.ts';
import { pageFailureInWords, pageStatusInWords } from './pageWords.ts';

const KEPT_TEXT = 512 * 1024;

/**
 * Reads one page. Whatever the other side does, this ends within the time-out and within the page's limits. `memory` is
 * the endpoint's own.
 */
export async function fetchPage({
  ask,
  guard,
  timeoutMs,
  memory,
  limits,
}: {
  readonly ask: Ask;
  readonly guard: AddressGuard;
  readonly timeoutMs: number;
  readonly memory: PageMemory;
  readonly limits: PageLimits;
}): Promise<FetchResult> {
  const { url } = ask;
  const began = performance.now();
  const took = () => performance.now() - began;
  try {
    guard.checkUrl(url);
    const { statusCode, headers, body } = await requested(ask, AbortSignal.timeout(timeoutMs));
    const contentType = String(headers['content-type'] ?? '');
    if (statusCode !== 200) {
      discardBody(body);
      const reason = pageStatusInWords(statusCode, ask, headers['location']);
      return { ok: false, reason, durationMs: took(), status: statusCode, contentType };
    }
    const { buffer, raw } = await taken(body, limits, isForeign(contentType));
    const failed = (reason: string): FetchResult => ({
      ok: false,
      reason,
      durationMs: took(),
      status: statusCode,
      contentType,
      raw,
    });
    if (isForeign(contentType))
      return failed(`This is not a metrics page: it is of type ${contentType.slice(0, 60)}. Check the path.`);
    const page = await readBuffer(buffer, { form: formOf(contentType), limits, memory }, turn);
    if (page.refused) return failed(`The page was refused: ${page.refused.text}.`);
    const wrong = notMetrics(page);
    if (wrong !== null) return failed(wrong);
    return { ok: true, fetched: { page, contentType, durationMs: took(), raw } };
  } catch (error) {
    return { ok: false, reason: pageFailureInWords(error, url, timeoutMs), durationMs: took() };
  }
}

type Answered = Awaited<ReturnType<typeof request>>;
/** Asks once more where a connection that was kept open had just been closed by the other side. */
async function requested({ url, headers, agent }: Ask, signal: AbortSignal): Promise<Answered> {
  const send = () =>
    request(url, {
      dispatcher: agent,
      signal,
      headers: {
        ...headers,
        accept: 'application/openmetrics-text;version=1.0.0,text/plain;q=0.5',
        'user-agent': 'zetopsis',
      },
    });
  return send().catch((error: unknown) => {
    if (closedOnUs(error) && !signal.aborted) return send();
    throw error;
  });
}
/** The body within its limits, and the beginning of it as it came; of what is no metrics page the beginning alone. */
async function taken(body: Answered['body'], limits: PageLimits, foreign: boolean) {
  const buffer = new PageBuffer(limits);
  const raw: Buffer[] = [];
  let kept = 0;
  for await (const piece of body) {
    const bytes = piece as Buffer; // undici yields buffers
    if (kept < KEPT_TEXT) {
      raw.push(bytes.subarray(0, KEPT_TEXT - kept));
      kept += bytes.length;
    }
    if (buffer.push(bytes) && !(foreign && kept >= KEPT_TEXT)) continue;
    discardBody(body);
    break;
  }
  return { buffer, raw: Buffer.concat(raw) };
}

const CLOSED = new Set(['ECONNRESET', 'EPIPE', 'UND_ERR_SOCKET']);
const closedOnUs = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && CLOSED.has(String(error.code));
const isForeign = (contentType: string): boolean => /^text\/html|^application\/json/i.test(contentType);
