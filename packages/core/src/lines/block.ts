import { ByteWriter } from '../samples/byteCursor.ts';
import {
  opened,
  readCount,
  readFields,
  readIds,
  readTexts,
  readTimes,
  writeFields,
  writeIds,
  writeTexts,
  writeTimes,
} from './columns.ts';
import { LINE_LEVELS, type Line } from './line.ts';

/** A line as it stands in a block: `origin` numbers what it comes from. */
export interface BlockLine extends Line {
  readonly origin: number;
}

/**
 * Lines of one stream, format version 1, column by column, so that what is alike stands together when it is compressed:
 * u8 version · varint lines · times (µs, zigzag steps) · levels · wordings · origins · traces · spans · texts by wording ·
 * fields by wording.
 */
const VERSION = 1;

export function encodeLines(lines: readonly BlockLine[]): Uint8Array {
  const out = new ByteWriter();
  out.byte(VERSION);
  out.varint(lines.length);
  writeTimes(
    out,
    lines.map(({ at }) => at),
  );
  for (const { level } of lines) out.byte(level === null ? 0 : LINE_LEVELS.indexOf(level) + 1);
  for (const { wording } of lines) out.varint(wording);
  for (const { origin } of lines) out.varint(origin);
  writeIds(
    out,
    lines.map(({ traceId }) => traceId),
  );
  writeIds(
    out,
    lines.map(({ spanId }) => spanId),
  );
  const sorted = byWording(lines).map((i) => lines[i]!); // places of lines
  writeTexts(
    out,
    sorted.map(({ text }) => text),
  );
  writeFields(
    out,
    sorted.map(({ fields }) => fields),
  );
  return out.finish();
}
/** Places of lines, those of one wording beside each other. */
const byWording = (lines: readonly Pick<Line, 'wording'>[]): number[] =>
  lines.map((_, i) => i).sort((a, b) => lines[a]!.wording - lines[b]!.wording || a - b);

export function decodeLines(bytes: Uint8Array): BlockLine[] {
  const input = opened(bytes, VERSION, 'line');
  const count = readCount(input);
  const list = <T>(read: () => T): T[] => Array.from({ length: count }, read);
  const times = readTimes(input, count);
  const levels = list(() => {
    const level = input.byte();
    return level === 0 ? null : (LINE_LEVELS[level - 1] ?? null);
  });
  const wordings = list(() => input.varint());
  const origins = list(() => input.varint());
  const traceIds = readIds(input, count, 16);
  const spanIds = readIds(input, count, 8);
  const texts = readTexts(input, count);
  const fields = readFields(input, count);
  const lines: BlockLine[] = new Array(count);
  byWording(wordings.map((wording) => ({ wording }))).forEach((i, at) => {
    lines[i] = {
      at: times[i]!,
      level: levels[i]!,
      text: texts[at]!,
      fields: fields[at]!,
      traceId: traceIds[i]!,
      spanId: spanIds[i]!,
      wording: wordings[i]!,
      origin: origins[i]!,
    };
  });
  return lines;
}
