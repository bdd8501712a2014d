import { type ByteReader, type ByteWriter, DamagedBytes } from './byteCursor.ts';

/**
 * First value (8 bytes) · then each as its XOR with the one before: control = (leading zero bytes << 4) | bytes that
 * follow; 0 with a varint run length where the value repeats. There must be at least one.
 */
const double = new Float64Array(1);
const octets = new Uint8Array(double.buffer);
const words = new Uint32Array(double.buffer);

export function writeXored(out: ByteWriter, values: ArrayLike<number>): void {
  const before = new Uint8Array(8);
  const wordsBefore = new Uint32Array(before.buffer);
  double[0] = values[0]!;
  before.set(octets);
  for (const octet of octets) out.byte(octet);
  for (let i = 1; i < values.length; ) {
    double[0] = values[i]!;
    if (words[0] === wordsBefore[0] && words[1] === wordsBefore[1]) {
      let run = 1;
      while (i + run < values.length && repeats(values[i + run]!, wordsBefore)) run++;
      out.byte(0);
      out.varint(run);
      i += run;
      continue;
    }
    // little endian: high bytes last; the XOR is stored without its zero bytes at both ends
    let high = 7;
    while (octets[high] === before[high]) high--;
    let low = 0;
    while (octets[low] === before[low]) low++;
    out.byte(((7 - high) << 4) | (high - low + 1));
    for (let at = low; at <= high; at++) out.byte(octets[at]! ^ before[at]!);
    before.set(octets);
    i++;
  }
}

function repeats(value: number, before: Uint32Array): boolean {
  double[0] = value;
  return words[0] === before[0] && words[1] === before[1];
}

export function readXored(input: ByteReader, values: Float64Array): void {
  for (let at = 0; at < 8; at++) octets[at] = input.byte();
  values[0] = double[0]!;
  const now = new Uint8Array(octets);
  for (let i = 1; i < values.length; ) {
    const control = input.byte();
    let run = 1;
    if (control === 0) run = input.varint();
    else {
      const high = 7 - (control >> 4);
      const low = high - (control & 15) + 1;
      if (low < 0) throw new DamagedBytes('a value is wider than 8 bytes');
      for (let at = low; at <= high; at++) now[at]! ^= input.byte();
    }
    if (run < 1 || run > values.length - i) throw new DamagedBytes('a run is longer than the chunk');
    octets.set(now);
    // a run repeats the same bits: copied as a double, which keeps the bits of quiet NaNs
    for (; run > 0; run--) values[i++] = double[0]!;
  }
}
