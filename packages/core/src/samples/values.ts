import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';
import { readPacked, writePacked } from './packedValues.ts';
import { readXored, writeXored } from './xoredValues.ts';

const XORED = 1;
const PACKED = 2;
/** Bytes a value below which the other way is not tried: it hardly ever is shorter. */
const SHORT = 2;

/** Writes the values the shorter way, and answers which. There may be none. `start` begins the output anew. */
export function writeValues(start: (way: number) => ByteWriter, values: ArrayLike<number>): ByteWriter {
  if (values.length === 0) return start(XORED);
  const packed = start(PACKED);
  const before = packed.length;
  const suits = writePacked(packed, values);
  if (suits && packed.length - before <= values.length * SHORT) return packed;
  const xored = start(XORED);
  writeXored(xored, values);
  return suits && packed.length <= xored.length ? packed : xored;
}
export function readValues(way: number, input: ByteReader, values: Float64Array): void {
  if (values.length === 0) return;
  if (way === PACKED) readPacked(input, values);
  else readXored(input, values);
}
export function demandWay(way: number): void {
  if (way !== XORED && way !== PACKED)
    throw new DamagedBytes(`chunk format ${way} is not known to this version of Zetopsis`);
}

/** u8 way · values; how many there are is known to the reader. */
export function encodeColumn(values: ArrayLike<number>): Uint8Array {
  return writeValues((way) => {
    const out = new ByteWriter();
    out.byte(way);
    return out;
  }, values).finish();
}
export function decodeColumn(bytes: Uint8Array, count: number): Float64Array {
  const values = new Float64Array(count);
  decodeColumnInto(bytes, values);
  return values;
}
export function decodeColumnInto(bytes: Uint8Array, values: Float64Array): void {
  const input = new ByteReader(bytes);
  const way = input.byte();
  demandWay(way);
  readValues(way, input, values);
}
