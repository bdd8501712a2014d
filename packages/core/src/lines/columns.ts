import { ByteReader, type ByteWriter, DamagedBytes } from '../samples/byteCursor.ts';
import type { Field } from './line.ts';

const utf8 = new TextEncoder();
const text8 = new TextDecoder();
const zigzag = (value: number): number => (value < 0 ? -value * 2 - 1 : value * 2);
const unzigzag = (value: number): number => (value % 2 === 1 ? -(value + 1) / 2 : value / 2);

/** A number of things that follow: none takes less than a byte. */
export function readCount(input: ByteReader): number {
  const count = input.varint();
  if (count > input.left) throw new DamagedBytes('the bytes end too early');
  return count;
}
/** The bytes of a format whose first one is its version, read from their second on. */
export function opened(bytes: Uint8Array, version: number, what: string): ByteReader {
  const input = new ByteReader(bytes);
  const own = input.byte();
  if (own !== version) throw new DamagedBytes(`${what} format ${own} is not known to this version of Zetopsis`);
  return input;
}

/** Moments in ms as whole microseconds, each as its step from the one before. */
export function writeTimes(out: ByteWriter, times: readonly number[]): void {
  let before = 0;
  for (const at of times) {
    const micros = Math.round(at * 1000);
    out.varint(zigzag(micros - before));
    before = micros;
  }
}
export function readTimes(input: ByteReader, count: number): number[] {
  let micros = 0;
  return Array.from({ length: count }, () => {
    micros += unzigzag(input.varint());
    return micros / 1000;
  });
}

/** Hex ids. 0: none; 1: that of the one before; 2: the bytes follow. */
export function writeIds(out: ByteWriter, ids: readonly string[]): void {
  let before = '';
  const fresh: string[] = [];
  for (const id of ids) {
    out.byte(id === '' ? 0 : id === before ? 1 : 2);
    if (id !== '' && id !== before) fresh.push(id);
    if (id !== '') before = id;
  }
  for (const id of fresh) for (let i = 0; i < id.length; i += 2) out.byte(Number.parseInt(id.slice(i, i + 2), 16));
}
/** `length`: bytes of each. */
export function readIds(input: ByteReader, count: number, length: number): string[] {
  const kinds = Array.from({ length: count }, () => input.byte());
  let before = '';
  return kinds.map((kind) => {
    if (kind === 0) return '';
    if (kind === 2) before = Array.from(input.take(length), (byte) => byte.toString(16).padStart(2, '0')).join('');
    return before;
  });
}

export function writeTexts(out: ByteWriter, all: readonly string[]): void {
  // all of them at once: one call for each text costs more than its letters
  const lengths = all.map(bytesOf);
  const together = utf8.encode(all.join(''));
  for (const length of lengths) out.varint(length);
  if (together.length === lengths.reduce((sum, length) => sum + length, 0)) out.bytesOf(together);
  // half a pair at the end of one text, and the other half at the beginning of the next
  else for (const one of all) out.bytesOf(utf8.encode(one));
}
/** Bytes that a text takes in UTF-8; halves of pairs become a sign of three. */
function bytesOf(text: string): number {
  let bytes = text.length;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (code < 0x80) continue;
    if (code < 0x800) bytes++;
    else if (code >= 0xd800 && code < 0xdc00 && (text.charCodeAt(i + 1) & 0xfc00) === 0xdc00) {
      bytes += 2;
      i++;
    } else bytes += 2;
  }
  return bytes;
}
export function readTexts(input: ByteReader, count: number): string[] {
  const lengths = Array.from({ length: count }, () => readCount(input));
  return lengths.map((length) => text8.decode(input.take(length)));
}
/** Texts of which there are few different ones: each once, and which of them. */
export function writeRepeated(out: ByteWriter, all: readonly string[]): void {
  const places = new Map<string, number>();
  for (const one of all) if (!places.has(one)) places.set(one, places.size);
  out.varint(places.size);
  writeTexts(out, [...places.keys()]);
  for (const one of all) out.varint(places.get(one)!); // just put there
}
export function readRepeated(input: ByteReader, count: number): string[] {
  const texts = readTexts(input, readCount(input));
  return Array.from({ length: count }, () => {
    const text = texts[input.varint()];
    if (text === undefined) throw new DamagedBytes('a text is not told');
    return text;
  });
}

/** Fields, by which names stand together: values of one name stand beside each other. */
export function writeFields(out: ByteWriter, all: readonly (readonly Field[])[]): void {
  const shapes = new Map<string, { readonly number: number; readonly names: readonly string[]; values: string[][] }>();
  const of: number[] = [];
  for (const own of all) {
    const names = own.map(([name]) => name);
    const key = JSON.stringify(names);
    const shape = shapes.get(key) ?? { number: shapes.size, names, values: names.map(() => []) };
    shapes.set(key, shape);
    own.forEach(([, value], at) => void shape.values[at]!.push(value));
    of.push(shape.number);
  }
  out.varint(shapes.size);
  for (const { names } of shapes.values()) {
    out.varint(names.length);
    writeTexts(out, names);
  }
  for (const number of of) out.varint(number);
  for (const { values } of shapes.values()) for (const column of values) writeTexts(out, column);
}
export function readFields(input: ByteReader, count: number): Field[][] {
  const shapes = Array.from({ length: readCount(input) }, () => readTexts(input, readCount(input)));
  const of = Array.from({ length: count }, () => input.varint());
  const counts = shapes.map(() => 0);
  const places = of.map((shape) => {
    if (shapes[shape] === undefined) throw new DamagedBytes('a line has fields that are not told');
    return counts[shape]!++;
  });
  const values = shapes.map((names, shape) => names.map(() => readTexts(input, counts[shape]!)));
  return of.map((shape, i) => shapes[shape]!.map((name, field): Field => [name, values[shape]![field]![places[i]!]!]));
}
