import { promisify } from 'node:util';
import { brotliCompress, brotliDecompress, constants, deflateRaw, inflateRaw } from 'node:zlib';
import { type BlockLine, decodeLines, encodeLines, LINE_LEVELS, searchWords, wordFilter } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import { DAY } from '@zetopsis/core/units';
import { Pieces } from '../../ground/platform/inPieces.ts';
import type { NewBlock } from './line.store.ts';
import { lettersOf, type Together } from './newestLines.ts';

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);
const brotli = promisify(brotliCompress);
const unbrotli = promisify(brotliDecompress);
/** A block or row of the journal is ours; this only says where something is damaged. */
const LARGEST = 256 * 1024 * 1024;
/** Lines of each stream, one after the other. It is read soon again or never: quick. */
export async function journalPayload(parts: readonly (readonly BlockLine[])[]): Promise<Buffer> {
  const pieces = parts.flatMap((lines) => {
    const bytes = encodeLines(lines);
    const length = Buffer.alloc(4);
    length.writeUInt32LE(bytes.length);
    return [length, bytes];
  });
  return deflate(Buffer.concat(pieces), { level: 1 });
}
export async function journalParts(payload: Buffer): Promise<BlockLine[][]> {
  const bytes = await inflate(payload, { maxOutputLength: LARGEST });
  const parts: BlockLine[][] = [];
  for (let at = 0; at < bytes.length; ) {
    const length = bytes.readUInt32LE(at);
    parts.push(decodeLines(bytes.subarray(at + 4, at + 4 + length)));
    at += 4 + length;
  }
  return parts;
}
export const blockLines = async (body: Buffer): Promise<BlockLine[]> =>
  decodeLines(await unbrotli(body, { maxOutputLength: LARGEST }));

/** Lines of one stream as blocks, one for each day that they are of, oldest first within each. */
export async function blocksOf(together: readonly Together[]): Promise<NewBlock[]> {
  const pieces = new Pieces();
  const days = new Map<number, { readonly origins: Map<string, number>; readonly lines: BlockLine[] }>();
  for (const { origins, lines } of together) {
    const keys = origins.map((origin) => JSON.stringify(origin));
    for (const line of lines) {
      const day = Math.floor(line.at / DAY);
      const own = days.get(day) ?? { origins: new Map<string, number>(), lines: [] };
      days.set(day, own);
      const key = keys[line.origin]!; // each line is of one of them
      const origin = own.origins.get(key) ?? own.origins.size;
      own.origins.set(key, origin);
      own.lines.push({ ...line, origin });
    }
    if (pieces.due) await pieces.pause();
  }
  const blocks: NewBlock[] = [];
  for (const { origins, lines } of days.values()) {
    lines.sort((a, b) => a.at - b.at);
    const words = new Set<string>();
    let bytes = 0;
    for (const line of lines) {
      for (const word of searchWords(line.text)) words.add(word);
      for (const [name, value] of line.fields) {
        for (const word of searchWords(name)) words.add(word);
        for (const word of searchWords(value)) words.add(word);
      }
      bytes += lettersOf(line);
      if (pieces.due) await pieces.pause();
    }
    blocks.push({
      from: Math.floor(lines[0]!.at), // a day is made by its first line
      to: Math.ceil(lines.at(-1)!.at),
      lines: lines.length,
      bytes,
      levels: [null, ...LINE_LEVELS].map((level) => lines.filter((line) => line.level === level).length),
      origins: [...origins].map(([key, origin]) => {
        const own = lines.filter((line) => line.origin === origin);
        const of: Origin = JSON.parse(key);
        return { ...of, lines: own.length, traced: own.filter(({ traceId }) => traceId !== '').length };
      }),
      words: Buffer.from(wordFilter(words)),
      body: await brotli(encodeLines(lines), {
        params: { [constants.BROTLI_PARAM_QUALITY]: 5, [constants.BROTLI_PARAM_LGWIN]: 22 },
      }),
    });
    if (pieces.due) await pieces.pause();
  }
  return blocks;
}
