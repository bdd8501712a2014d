import type { EpochMs } from '../units/index.ts';
import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';
import { oftenTheSame } from './oftenTheSame.ts';
import { readTimes, writeTimes } from './times.ts';
import { demandWay, readValues, writeValues } from './values.ts';

/** Samples of one series: `values[i]` was read at `times[i]`; times ascend. */
export interface Samples {
  readonly times: readonly EpochMs[] | Float64Array;
  readonly values: readonly number[] | Float64Array;
}

/** Chunk: u8 way of its values · varint count · times · values. */
const MAX_COUNT = 1_000_000; // guards the decoder's memory against damaged bytes

export function encodeChunk({ times, values }: Samples): Uint8Array {
  if (times.length !== values.length) throw new RangeError('times and values differ in length');
  const written = writtenTimes(times);
  return writeValues((out, way) => {
    out.byte(way);
    out.varint(times.length);
    out.bytesOf(written);
  }, values);
}
/** Series of one page were read at the same moments. */
const writtenTimes = oftenTheSame((times) => {
  const out = new ByteWriter();
  if (times.length > 0) writeTimes(out, times);
  return out.finish();
});

export function decodeChunk(bytes: Uint8Array): { times: Float64Array; values: Float64Array } {
  const { input, way, count } = chunkBegun(bytes);
  const times = new Float64Array(count);
  const values = new Float64Array(count);
  if (count > 0) readTimes(input, times);
  readValues(way, input, values);
  return { times, values };
}

/** A chunk whose times are read next, then its values. */
export interface Chunk {
  readonly input: ByteReader;
  readonly way: number;
  readonly count: number;
}
export function chunkBegun(bytes: Uint8Array): Chunk {
  const input = new ByteReader(bytes);
  const way = input.byte();
  demandWay(way);
  const count = input.varint();
  if (count > MAX_COUNT) throw new DamagedBytes('a chunk claims too many samples');
  return { input, way, count };
}
