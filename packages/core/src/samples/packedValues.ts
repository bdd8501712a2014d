import { bitsOf, blocksOf, sumBlocks } from './blocks.ts';
import { type ByteReader, type ByteWriter, DamagedBytes } from './byteCursor.ts';

/**
 * Values as whole numbers: most series are decimals with few places, or multiples of a power of two (pages of memory).
 *   u8 scale: low nibble = decimal places, high nibble = bits shifted out · varint exceptions, each: varint distance
 *   from the one before, 8 bytes · u8 mode · first number (8 bytes) · varint length · bits
 * Mode 0: all the same. 1: differences. 2: differences of differences. Bits: blocks of 32, each a width (6 bits) and
 * its zigzagged numbers. An exception (a tagged NaN, an infinity, −0, what no scale fits) stands in the numbers as the
 * one before it, so that it spoils nothing. Exact to the bit, or not used.
 */
const MOST_PLACES = 9;
const MOST_SHIFT = 15;
/** Differences of differences of these, zigzagged, stay whole numbers below 2^53. */
const LARGEST = 2 ** 50;
const MOST_EXCEPTIONS_SHARE = 1 / 16;
const POWERS = [1, 10, 100, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9] as const;

const zigzag = (value: number): number => (value < 0 ? -value * 2 - 1 : value * 2);

/** The whole number that stands for a value at a scale, or null where none does exactly. */
function scaled(value: number, power: number): number | null {
  const whole = Math.round(value * power);
  return whole / power === value && Math.abs(whole) <= LARGEST && !Object.is(value, -0) ? whole : null;
}

/** Fewest decimal places that fit a value; -1 when none do. */
function placesOf(value: number): number {
  for (let places = 0; places <= MOST_PLACES; places++) if (scaled(value, POWERS[places]!) !== null) return places;
  return -1;
}

interface Whole {
  readonly places: number;
  readonly shift: number;
  readonly numbers: Float64Array;
  readonly exceptions: readonly number[];
}

/** Null when too many values fit no scale. */
function asWhole(values: ArrayLike<number>): Whole | null {
  const count = values.length;
  const most = Math.max(1, count * MOST_EXCEPTIONS_SHARE);
  const numbers = new Float64Array(count);
  const exceptions: number[] = [];
  let places = 0;
  let before = 0;
  let common = 0;
  for (let i = 0; i < count; i++) {
    const whole = scaled(values[i]!, POWERS[places]!);
    if (whole === null) {
      const needed = placesOf(values[i]!);
      if (needed > places) {
        // what is before it is done again at the finer scale
        places = needed;
        before = common = exceptions.length = 0;
        i = -1;
        continue;
      }
      // what no scale fits, no finer one does
      if (exceptions.push(i) > most) return null;
    } else before = whole;
    numbers[i] = before;
    common |= Math.abs(before) % 32_768;
  }
  // trailing zero bits that all of them have; only of plain whole numbers, since decimals have none to speak of
  const shift = places > 0 ? 0 : common === 0 ? MOST_SHIFT : 31 - Math.clz32(common & -common);
  if (shift > 0) for (let i = 0; i < count; i++) numbers[i] = numbers[i]! / 2 ** shift;
  return { places, shift, numbers, exceptions };
}

/** False, and nothing written, when the values do not suit. There must be at least one. */
export function writePacked(out: ByteWriter, values: ArrayLike<number>): boolean {
  const whole = asWhole(values);
  if (!whole) return false;
  const { places, shift, numbers, exceptions } = whole;
  const { plain, bent, allSame } = differences(numbers);
  const mode = allSame ? 0 : bitsOf(bent) < bitsOf(plain) ? 2 : 1;
  out.byte(places | (shift << 4));
  out.varint(exceptions.length);
  let last = 0;
  for (const at of exceptions) {
    out.varint(at - last);
    out.double(values[at]!);
    last = at;
  }
  out.byte(mode);
  out.double(numbers[0]!);
  if (mode === 0) return true;
  const bits = blocksOf(mode === 2 ? bent : plain);
  out.varint(bits.length);
  out.bytesOf(bits);
  return true;
}

function differences(numbers: Float64Array) {
  const count = Math.max(0, numbers.length - 1);
  const plain = new Float64Array(count);
  const bent = new Float64Array(count);
  let step = 0;
  let allSame = true;
  for (let i = 0; i < count; i++) {
    const delta = numbers[i + 1]! - numbers[i]!;
    if (delta !== 0) allSame = false;
    plain[i] = zigzag(delta);
    bent[i] = zigzag(delta - step);
    step = delta;
  }
  return { plain, bent, allSame };
}
/** Fills `values` with what `writePacked` wrote. */
export function readPacked(input: ByteReader, values: Float64Array): void {
  const scale = input.byte();
  const places = scale & 15;
  const shift = scale >> 4;
  if (places > MOST_PLACES) throw new DamagedBytes('a scale has too many decimal places');
  const exceptions = readExceptions(input, values.length);
  const mode = input.byte();
  if (mode > 2) throw new DamagedBytes(`packing mode ${mode} is not known`);
  const power = POWERS[places]!;
  const factor = 2 ** shift;
  values[0] = input.double();
  if (mode === 0) values.fill(values[0], 1);
  else sumBlocks(input.take(input.varint()), values, mode === 2);
  if (factor !== 1) for (let i = 0; i < values.length; i++) values[i] = values[i]! * factor;
  if (power !== 1) for (let i = 0; i < values.length; i++) values[i] = values[i]! / power;
  exceptions.at.forEach((at, i) => {
    values[at] = exceptions.values[i]!;
  });
}

/** Typed, since an ordinary list may lose a NaN's tag. */
function readExceptions(input: ByteReader, count: number): { at: Uint32Array; values: Float64Array } {
  const length = input.varint();
  if (length > count) throw new DamagedBytes('more exceptions than values');
  const exceptions = { at: new Uint32Array(length), values: new Float64Array(length) };
  let at = 0;
  for (let i = 0; i < length; i++) {
    at += input.varint();
    if (at >= count) throw new DamagedBytes('an exception lies outside the chunk');
    exceptions.at[i] = at;
    exceptions.values[i] = input.double();
  }
  return exceptions;
}
