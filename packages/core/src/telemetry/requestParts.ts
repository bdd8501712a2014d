import { asWire, child, storable, text, type Wire } from '../inventory/wireReader.ts';
import { FIELD, VALUE_FIELD } from './wire-names.ts';

/** A part of a request that is not taken, and why. */
export class BadPart extends Error {}

export function items(wire: Wire, field: string, most: number): readonly unknown[] {
  const value = wire[field];
  if (!Array.isArray(value)) return [];
  if (value.length > most) throw new BadPart(`more than ${most} ${field}`);
  return value;
}
/** Whole numbers of 64 bits come as texts. */
export function number(wire: Wire, field: string): number | null {
  const value = wire[field];
  if (typeof value === 'number') return value;
  if (typeof value === 'string' && /^(-?\d{1,20}(\.\d+)?([eE][+-]?\d+)?|NaN|-?Infinity)$/.test(value))
    return Number(value);
  return null;
}
export function whole(wire: Wire, field: string): number {
  const value = number(wire, field) ?? 0;
  if (!Number.isFinite(value) || value < 0) throw new BadPart(`${field} is no count`);
  return value;
}
/** Nanoseconds as whole milliseconds. */
export const nanos = (wire: Wire, field: string): number => Math.round((number(wire, field) ?? 0) / 1e6);

export function attributesOf(wire: Wire, most: number): [key: string, value: string][] {
  return items(wire, FIELD.attributes, most).flatMap((one): [string, string][] => {
    const own = asWire(one);
    const value = child(own, FIELD.value);
    const given =
      value[VALUE_FIELD.text] ?? value[VALUE_FIELD.whole] ?? value[VALUE_FIELD.double] ?? value[VALUE_FIELD.truth];
    const shown = typeof given === 'string' || typeof given === 'number' || typeof given === 'boolean';
    const key = text(own, FIELD.key);
    return shown && key !== '' ? [[key, storable(String(given), 2048)]] : [];
  });
}

/** How deep a value may hold others. */
const DEEPEST = 8;
/** A value of any kind as a plain one; what is nested too deep is an ellipsis. */
export function plainValue(wire: Wire, depth = 0): unknown {
  if (depth > DEEPEST) return '…';
  const list = wire[VALUE_FIELD.list];
  if (list !== undefined)
    return items(asWire(list), VALUE_FIELD.values, 1000).map((one) => plainValue(asWire(one), depth + 1));
  const pairs = wire[VALUE_FIELD.pairs];
  if (pairs !== undefined) {
    const out: [string, unknown][] = items(asWire(pairs), VALUE_FIELD.values, 1000).map((one) => {
      const own = asWire(one);
      return [text(own, FIELD.key), plainValue(child(own, FIELD.value), depth + 1)];
    });
    return Object.fromEntries(out);
  }
  const bytes = wire[VALUE_FIELD.bytes];
  if (bytes instanceof Uint8Array) return `${bytes.length} bytes`;
  const given =
    wire[VALUE_FIELD.text] ??
    wire[VALUE_FIELD.whole] ??
    wire[VALUE_FIELD.double] ??
    wire[VALUE_FIELD.truth] ??
    bytes ??
    null;
  return typeof given === 'object' ? null : given;
}
const HEX: readonly string[] = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'));
/** Hex digits: JSON has them as a text, the binary form as bytes. */
export function hexOf(value: unknown): string {
  if (value instanceof Uint8Array) {
    if (value.length > 16) return '';
    let text = '';
    for (const byte of value) text += HEX[byte];
    return text;
  }
  return typeof value === 'string' ? value.slice(0, 64) : '';
}
/** What a resource says of itself: who it is, and everything else. */
const resourceAttributes = (wire: Wire): ReadonlyMap<string, string> =>
  new Map(attributesOf(child(wire, FIELD.resource), 256));

/** Works on parts one by one: a bad one costs itself, is counted, and the first says why. */
export class Guarded {
  refused = 0;
  problem: string | null = null;
  try<T>(work: () => T): T | undefined {
    try {
      return work();
    } catch (error) {
      if (!(error instanceof BadPart)) throw error;
      this.refused++;
      this.problem ??= error.message;
      return undefined;
    }
  }
}
/** What one sender pushed. */
export interface OfResource<T> {
  readonly attributes: ReadonlyMap<string, string>;
  readonly items: readonly T[];
}
/** The items of a request, by the resource that sent them, item by item; `fields`: of resources, of scopes in them, of items in these. */
export function* itemsByResource<T>(
  request: unknown,
  fields: readonly [resources: string, scopes: string, items: string],
  most: { readonly resources: number; readonly items: number },
  read: (wire: Wire) => T,
): Generator<
  void,
  { readonly resources: readonly OfResource<T>[]; readonly refused: number; readonly problem: string | null }
> {
  const guarded = new Guarded();
  const resources: OfResource<T>[] = [];
  let taken = 0;
  for (const foreign of guarded.try(() => items(asWire(request), fields[0], most.resources)) ?? []) {
    const wire = asWire(foreign);
    const attributes = guarded.try(() => resourceAttributes(wire)) ?? new Map<string, string>();
    const own: T[] = [];
    for (const scope of guarded.try(() => items(wire, fields[1], 1000)) ?? [])
      for (const one of guarded.try(() => items(asWire(scope), fields[2], most.items)) ?? []) {
        const item = guarded.try(() => {
          if (++taken > most.items) throw new BadPart(`more than ${most.items} ${fields[2]} at once`);
          return read(asWire(one));
        });
        if (item !== undefined) own.push(item);
        yield;
      }
    if (own.length > 0) resources.push({ attributes, items: own });
  }
  return { resources, refused: guarded.refused, problem: guarded.problem };
}
