import { BitReader, BitWriter } from './bitCursor.ts';
import { DamagedBytes } from './byteCursor.ts';

/**
 * Blocks of 32 zigzagged whole numbers, each behind the width that its widest needs (6 bits), high bits first.
 */
const BLOCK = 32;
/** A number behind fewer bits than these lies within four bytes, wherever it begins. */
const QUICK = 25;
const LOW_BITS = 24;
const LOW = 2 ** LOW_BITS;
/** Two quick reads together. */
const TWICE = LOW_BITS + QUICK;
/** No number that is written is wider. */
const WIDEST = 54;

const unzigzag = (value: number): number => (value % 2 === 0 ? value / 2 : -(value + 1) / 2);
/** Bits that a whole number below 2^53 needs; 0 needs none. */
const widthOf = (value: number): number =>
  value < 4_294_967_296 ? 32 - Math.clz32(value) : 64 - Math.clz32(Math.floor(value / 4_294_967_296));

function widest(numbers: Float64Array, from: number): number {
  let most = 0;
  for (let i = from; i < Math.min(numbers.length, from + BLOCK); i++) if (numbers[i]! > most) most = numbers[i]!;
  return widthOf(most);
}
/** Bits that the numbers need, without the widths. */
export function bitsOf(numbers: Float64Array): number {
  let bits = 0;
  for (let i = 0; i < numbers.length; i += BLOCK) bits += widest(numbers, i) * Math.min(BLOCK, numbers.length - i);
  return bits;
}
/** Used again and again, never across turns. */
const written = new BitWriter();
export function blocksOf(numbers: Float64Array): Uint8Array {
  const bits = written.clear();
  for (let i = 0; i < numbers.length; i += BLOCK) {
    const width = widest(numbers, i);
    bits.put(width, 6);
    if (width === 0) continue;
    for (let at = i; at < Math.min(numbers.length, i + BLOCK); at++) bits.put(numbers[at]!, width);
  }
  return bits.finish();
}

/** The bits with room behind, so that a read of four bytes never leaves them; used again and again, never across turns. */
let padded = new Uint8Array(4096);
let words = new DataView(padded.buffer);
const PAD = 8;
function withRoom(bits: Uint8Array): DataView {
  if (padded.length < bits.length + PAD) {
    padded = new Uint8Array(2 * (bits.length + PAD));
    words = new DataView(padded.buffer);
  }
  padded.set(bits);
  padded.fill(0, bits.length, bits.length + PAD);
  return words;
}

/**
 * Sums up what `blocksOf` wrote: wholes[0] is given, each next is the one before plus its difference, or plus a step that
 * itself grows by it (`bent`).
 */
export function sumBlocks(bits: Uint8Array, wholes: Float64Array, bent: boolean): void {
  const bytes = withRoom(bits);
  const total = bits.length * 8;
  const count = wholes.length;
  let at = 0;
  for (let i = 1; i < count; i += BLOCK) {
    if (at + 6 > total) throw new DamagedBytes('the bits end too early');
    const width = (bytes.getInt32(at >>> 3) << (at & 7)) >>> 26;
    at += 6;
    const end = Math.min(i + BLOCK, count);
    if (width > WIDEST) throw new DamagedBytes('a number is wider than any that is written');
    if (at + width * (end - i) > total) throw new DamagedBytes('the bits end too early');
    if (width === 0) wholes.fill(0, i, end);
    else if (width <= QUICK) quickly(bytes, at, wholes, i, end, width);
    else if (width <= TWICE) twice(bytes, at, wholes, i, end, width);
    else slowly(bits, at, wholes, i, end, width);
    at += width * (end - i);
  }
  let whole = wholes[0]!;
  if (bent) {
    let step = 0;
    for (let i = 1; i < count; i++) {
      step += wholes[i]!;
      whole += step;
      wholes[i] = whole;
    }
  } else
    for (let i = 1; i < count; i++) {
      whole += wholes[i]!;
      wholes[i] = whole;
    }
}

function quickly(bytes: DataView, from: number, numbers: Float64Array, first: number, end: number, width: number) {
  const away = 32 - width;
  let at = from;
  for (let i = first; i < end; i++) {
    const word = (bytes.getInt32(at >>> 3) << (at & 7)) >>> away;
    numbers[i] = (word >>> 1) ^ -(word & 1);
    at += width;
  }
}
function twice(bytes: DataView, from: number, numbers: Float64Array, first: number, end: number, width: number) {
  const away = 32 - (width - LOW_BITS);
  let at = from;
  for (let i = first; i < end; i++) {
    const high = (bytes.getInt32(at >>> 3) << (at & 7)) >>> away;
    at += width;
    const rest = at - LOW_BITS;
    const low = (bytes.getInt32(rest >>> 3) << (rest & 7)) >>> (32 - LOW_BITS);
    const half = high * (LOW / 2) + (low >>> 1);
    numbers[i] = (low & 1) === 0 ? half : -half - 1;
  }
}
function slowly(bits: Uint8Array, from: number, numbers: Float64Array, first: number, end: number, width: number) {
  const reader = new BitReader(bits);
  reader.skip(from);
  for (let i = first; i < end; i++) numbers[i] = unzigzag(reader.get(width));
}
