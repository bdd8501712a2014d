import { ByteReader, ByteWriter, DamagedBytes } from '../samples/byteCursor.ts';
import { type Field, LINE_LEVELS, type Line } from './line.ts';

/** A line as it stands in a block: `origin` numbers what it comes from. */
export interface BlockLine extends Line {
  readonly origin: number;
}

/**
 * Lines of one stream, format version 1, column by column, so that what is alike stands together when it is compressed:
 * u8 version · varint lines · times (µs, zigzag steps) · levels · wordings · origins · traces · spans · texts by wording ·
 * shapes of fields · values by shape and field.
 */
const VERSION = 1;
const utf8 = new TextEncoder();
const text8 = new TextDecoder();
const zigzag = (value: number): number => (value < 0 ? -value * 2 - 1 : value * 2);
const unzigzag = (value: number): number => (value % 2 === 1 ? -(value + 1) / 2 : value / 2);

export function encodeLines(lines: readonly BlockLine[]): Uint8Array {
  const out = new ByteWriter();
  out.byte(VERSION);
  out.varint(lines.length);
  let before = 0;
  for (const { at } of lines) {
    const micros = Math.round(at * 1000);
    out.varint(zigzag(micros - before));
    before = micros;
  }
  for (const { level } of lines) out.byte(level === null ? 0 : LINE_LEVELS.indexOf(level) + 1);
  for (const { wording } of lines) out.varint(wording);
  for (const { origin } of lines) out.varint(origin);
  ids(out, lines, 'traceId');
  ids(out, lines, 'spanId');
  const sorted = byWording(lines);
  texts(
    out,
    sorted.map((i) => lines[i]!.text),
  );
  fields(out, lines, sorted);
  return out.finish();
}
/** Places of lines, those of one wording beside each other. */
const byWording = (lines: readonly Pick<Line, 'wording'>[]): number[] =>
  lines.map((_, i) => i).sort((a, b) => lines[a]!.wording - lines[b]!.wording || a - b);

/** 0: none; 1: that of the line before; 2: the bytes follow. */
function ids(out: ByteWriter, lines: readonly BlockLine[], field: 'traceId' | 'spanId'): void {
  let before = '';
  const fresh: string[] = [];
  for (const line of lines) {
    const id = line[field];
    out.byte(id === '' ? 0 : id === before ? 1 : 2);
    if (id !== '' && id !== before) fresh.push(id);
    if (id !== '') before = id;
  }
  for (const id of fresh) for (let i = 0; i < id.length; i += 2) out.byte(Number.parseInt(id.slice(i, i + 2), 16));
}
function texts(out: ByteWriter, all: readonly string[]): void {
  const bytes = all.map((one) => utf8.encode(one));
  for (const one of bytes) out.varint(one.length);
  for (const one of bytes) out.bytesOf(one);
}
function fields(out: ByteWriter, lines: readonly BlockLine[], sorted: readonly number[]): void {
  const shapes = new Map<string, { readonly number: number; readonly names: readonly string[]; values: string[][] }>();
  const of: number[] = [];
  for (const i of sorted) {
    const own = lines[i]!.fields;
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
    texts(out, names);
  }
  for (const number of of) out.varint(number);
  for (const { values } of shapes.values()) for (const column of values) texts(out, column);
}

export function decodeLines(bytes: Uint8Array): BlockLine[] {
  const input = new ByteReader(bytes);
  const version = input.byte();
  if (version !== VERSION) throw new DamagedBytes(`line format ${version} is not known to this version of Zetopsis`);
  const count = input.varint();
  if (count > input.left) throw new DamagedBytes('the bytes end too early');
  const list = <T>(read: () => T): T[] => Array.from({ length: count }, read);
  let micros = 0;
  const times = list(() => {
    micros += unzigzag(input.varint());
    return micros / 1000;
  });
  const levels = list(() => {
    const level = input.byte();
    return level === 0 ? null : (LINE_LEVELS[level - 1] ?? null);
  });
  const wordings = list(() => input.varint());
  const origins = list(() => input.varint());
  const traceIds = readIds(input, count, 16);
  const spanIds = readIds(input, count, 8);
  const sorted = byWording(wordings.map((wording) => ({ wording })));
  const own = readTexts(input, count);
  const shapes = Array.from({ length: readCount(input) }, () => readTexts(input, readCount(input)));
  const of = list(() => input.varint());
  const counts = shapes.map(() => 0);
  const places = of.map((shape) => {
    if (shapes[shape] === undefined) throw new DamagedBytes('a line has fields that are not told');
    return counts[shape]!++;
  });
  const values = shapes.map((names, shape) => names.map(() => readTexts(input, counts[shape]!)));
  const lines: BlockLine[] = new Array(count);
  sorted.forEach((i, at) => {
    const shape = of[at]!;
    lines[i] = {
      at: times[i]!,
      level: levels[i]!,
      text: own[at]!,
      fields: shapes[shape]!.map((name, field): Field => [name, values[shape]![field]![places[at]!]!]),
      traceId: traceIds[i]!,
      spanId: spanIds[i]!,
      wording: wordings[i]!,
      origin: origins[i]!,
    };
  });
  return lines;
}
function readCount(input: ByteReader): number {
  const count = input.varint();
  if (count > input.left) throw new DamagedBytes('the bytes end too early');
  return count;
}
function readIds(input: ByteReader, count: number, length: number): string[] {
  const kinds = Array.from({ length: count }, () => input.byte());
  let before = '';
  return kinds.map((kind) => {
    if (kind === 0) return '';
    if (kind === 2) before = Array.from(input.take(length), (byte) => byte.toString(16).padStart(2, '0')).join('');
    return before;
  });
}
function readTexts(input: ByteReader, count: number): string[] {
  const lengths = Array.from({ length: count }, () => readCount(input));
  return lengths.map((length) => text8.decode(input.take(length)));
}
