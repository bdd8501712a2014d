import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';
import { readPacked, writePacked } from './packedValues.ts';
import { readXored, writeXored } from './xoredValues.ts';

const XORED = 1;
const PACKED = 2;
/** Bytes a value below which the other way is not tried: it hardly ever is shorter. */
const SHORT = 2;

/** Used again and again, never across turns. */
const outputs = [new ByteWriter(), new ByteWriter()] as const;
/** Writes the values the shorter way behind what `begin` writes. There may be none. */
export function writeValues(begin: (out: ByteWriter, way: number) => void, values: ArrayLike<number>): Uint8Array {
  const [packed, xored] = [outputs[0].clear(), outputs[1].clear()];
  let suits = false;
  if (values.length > 0) {
    begin(packed, PACKED);
    const before = packed.length;
    suits = writePacked(packed, values);
    if (suits && packed.length - before <= values.length * SHORT) return packed.finish();
  }
  begin(xored, XORED);
  if (values.length > 0) writeXored(xored, values);
  return (suits && packed.length <= xored.length ? packed : xored).finish();
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
  return writeValues((out, way) => out.byte(way), values);
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
