import { PageBuffer, type PageLimits, type PageMemory, readBuffer } from '@zetopsis/core/exposition';
import { turn } from '../../ground/platform/inPieces.ts';
import type { FetchResult } from './fetched.ts';

/** A page that Zetopsis wrote itself, read the way any other is. */
export async function writtenPage(text: string, limits: PageLimits, memory: PageMemory): Promise<FetchResult> {
  const began = performance.now();
  const raw = Buffer.from(text);
  const buffer = new PageBuffer(limits);
  buffer.push(raw);
  const page = await readBuffer(buffer, { form: 'openmetrics', limits, memory }, turn);
  const durationMs = performance.now() - began;
  if (page.refused) return { ok: false, reason: `The page was refused: ${page.refused.text}.`, durationMs };
  const contentType = 'application/openmetrics-text; version=1.0.0';
  return {
    ok: true,
    fetched: { page, contentType, raw: raw.subarray(0, 512 * 1024), durationMs },
  };
}
