import type { EpochMs, SeriesId } from '../units/index.ts';
import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';

/**
 * What one reading of an endpoint brought: `values[i]` belongs to series `layout[i]`; the layout is stored once and
 * shared by all readings of the same shape. `ended` are series of the reading before that are gone from a complete page.
 */
export interface Frame {
  readonly values: readonly number[] | Float64Array;
  readonly ended: readonly SeriesId[];
  /** Times given by the page, one per value; null where the reading's time counts for all. */
  readonly times: readonly EpochMs[] | Float64Array | null;
}

/** Frame, format version 1: u8 version · u8 has times · varint ended · u32 ids · varint values · f64 values · f64 times */
const VERSION = 1;

export function encodeFrame({ values, ended, times }: Frame): Uint8Array {
  if (times && times.length !== values.length) throw new RangeError('times and values differ in length');
  const out = new ByteWriter();
  out.byte(VERSION);
  out.byte(times ? 1 : 0);
  out.varint(ended.length);
  for (const id of ended) out.word(id);
  out.varint(values.length);
  out.doubles(values);
  if (times) out.doubles(times);
  return out.finish();
}

export function decodeFrame(bytes: Uint8Array): Frame {
  const input = new ByteReader(bytes);
  const version = input.byte();
  if (version !== VERSION) throw new DamagedBytes(`frame format ${version} is not known to this version of Zetopsis`);
  const timed = input.byte() === 1;
  const endedCount = input.varint();
  if (endedCount * 4 > input.left) throw new DamagedBytes('the bytes end too early');
  const ended = Array.from({ length: endedCount }, () => input.word());
  const count = input.varint();
  if (count * 8 > input.left) throw new DamagedBytes('the bytes end too early');
  const values = input.doubles(count);
  return { values, ended, times: timed ? input.doubles(count) : null };
}
