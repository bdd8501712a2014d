import type { EpochMs } from '../units/index.ts';
import { ByteReader, ByteWriter, DamagedBytes } from './byteCursor.ts';
import { readPacked, writePacked } from './packedValues.ts';

/** Samples of one series: `values[i]` was read at `times[i]`; times ascend. */
export interface Samples {
  readonly times: readonly EpochMs[] | Float64Array;
  readonly values: readonly number[] | Float64Array;
}

/**
 * Chunk: u8 version · varint count · u8 time mode · times · values. The version that suits is written, both are read.
 * Version 1: first value (8 bytes) · then per value one control byte and bytes. Version 2: packedValues.ts.
 * Time mode 0: f64 first, then delta of deltas as zigzag varints, a run of zeros as (0, run length). Mode 1: f64 each,
 * for times whose differences leave 2^53.
 * In version 1 a value is stored as its XOR with the one before: control = (leading zero bytes << 4) | bytes that follow; 0 with a
 * varint run length where the value repeats.
 */
const XORED = 1;
const PACKED = 2;
/** Bytes a sample below which the other version is not tried: it hardly ever is shorter. */
const SHORT = 2;
const MAX_COUNT = 1_000_000; // guards the decoder's memory against damaged bytes

export function encodeChunk({ times, values }: Samples): Uint8Array {
  if (times.length !== values.length) throw new RangeError('times and values differ in length');
  if (times.length === 0) return startOf(XORED, times).finish();
  const packed = startOf(PACKED, times);
  const suits = writePacked(packed, values);
  if (suits && packed.length <= times.length * SHORT) return packed.finish();
  const xored = startOf(XORED, times);
  writeValues(xored, values);
  return suits && packed.length <= xored.length ? packed.finish() : xored.finish();
}

function startOf(version: number, times: Samples['times']): ByteWriter {
  const out = new ByteWriter();
  out.byte(version);
  out.varint(times.length);
  if (times.length > 0) writeTimes(out, times);
  return out;
}

export function decodeChunk(bytes: Uint8Array): { times: Float64Array; values: Float64Array } {
  const input = new ByteReader(bytes);
  const version = input.byte();
  if (version !== XORED && version !== PACKED)
    throw new DamagedBytes(`chunk format ${version} is not known to this version of Zetopsis`);
  const count = input.varint();
  if (count > MAX_COUNT) throw new DamagedBytes('a chunk claims too many samples');
  const times = new Float64Array(count);
  const values = new Float64Array(count);
  if (count > 0) {
    readTimes(input, times);
    if (version === PACKED) readPacked(input, values);
    else readValues(input, values);
  }
  return { times, values };
}

const zigzag = (value: number) => (value < 0 ? -value * 2 - 1 : value * 2);
const unzigzag = (value: number) => (value % 2 === 0 ? value / 2 : -(value + 1) / 2);

function deltasOfDeltas(times: Samples['times']): number[] | null {
  const deltas: number[] = [];
  let before = times[0]!;
  let step = 0;
  if (!Number.isSafeInteger(before) || Object.is(before, -0)) return null;
  for (let i = 1; i < times.length; i++) {
    const time = times[i]!;
    const delta = time - before;
    const bend = delta - step;
    if (!Number.isSafeInteger(time) || !Number.isSafeInteger(delta) || !Number.isSafeInteger(zigzag(bend))) return null;
    deltas.push(bend === 0 ? 0 : bend);
    before = time;
    step = delta;
  }
  return deltas;
}

function writeTimes(out: ByteWriter, times: Samples['times']): void {
  const bends = deltasOfDeltas(times);
  out.byte(bends ? 0 : 1);
  if (!bends) {
    for (const time of times) out.double(time);
    return;
  }
  out.double(times[0]!);
  for (let i = 0; i < bends.length; ) {
    out.varint(zigzag(bends[i]!));
    if (bends[i] !== 0) {
      i++;
      continue;
    }
    let run = 1;
    while (bends[i + run] === 0) run++;
    out.varint(run);
    i += run;
  }
}

function readTimes(input: ByteReader, times: Float64Array): void {
  const mode = input.byte();
  if (mode === 1) {
    for (let i = 0; i < times.length; i++) times[i] = input.double();
    return;
  }
  if (mode !== 0) throw new DamagedBytes(`time mode ${mode} is not known`);
  let time = input.double();
  let step = 0;
  times[0] = time;
  for (let i = 1; i < times.length; ) {
    const bend = unzigzag(input.varint());
    let run = bend === 0 ? input.varint() : 1;
    if (run < 1 || run > times.length - i) throw new DamagedBytes('a run is longer than the chunk');
    step += bend;
    for (; run > 0; run--) {
      time += step;
      times[i++] = time;
    }
  }
}

const double = new Float64Array(1);
const octets = new Uint8Array(double.buffer);

function writeValues(out: ByteWriter, values: Samples['values']): void {
  const before = new Uint8Array(8);
  double[0] = values[0]!;
  before.set(octets);
  for (const octet of octets) out.byte(octet);
  for (let i = 1; i < values.length; ) {
    double[0] = values[i]!;
    if (octets.every((octet, at) => octet === before[at])) {
      let run = 1;
      while (i + run < values.length && repeats(values[i + run]!, before)) run++;
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

function repeats(value: number, before: Uint8Array): boolean {
  double[0] = value;
  return octets.every((octet, at) => octet === before[at]);
}

function readValues(input: ByteReader, values: Float64Array): void {
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
