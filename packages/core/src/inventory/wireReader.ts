/**
 * Tolerant reading of foreign JSON: a field of the wrong type counts as absent, long texts are cut, lists are bounded.
 * Guards against objects whose text a tenant controls.
 */
export type Wire = Readonly<Record<string, unknown>>;

const MAX_TEXT = 2048;
const MAX_ITEMS = 256;
const EMPTY: Wire = {};
/** NUL and halves of surrogate pairs: legal in JSON, refused by the database. */
const UNSTORABLE = /\u0000|[\uD800-\uDBFF](?![\uDC00-\uDFFF])|(?<![\uD800-\uDBFF])[\uDC00-\uDFFF]/g;
/** Cut first: the cut may part a pair. */
export const storable = (value: string, length: number): string => value.slice(0, length).replace(UNSTORABLE, '\uFFFD');

export function asWire(value: unknown): Wire {
  return typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Wire) : EMPTY; // checked here
}
export const child = (wire: Wire, field: string): Wire => asWire(wire[field]);
export const has = (wire: Wire, field: string): boolean => wire[field] !== undefined && wire[field] !== null;

export function text(wire: Wire, field: string, fallback = ''): string {
  const value = wire[field];
  return typeof value === 'string' ? storable(value, MAX_TEXT) : fallback;
}
export function optionalText(wire: Wire, field: string): string | null {
  const value = text(wire, field);
  return value === '' ? null : value;
}
export function count(wire: Wire, field: string, fallback = 0): number {
  const value = wire[field];
  return typeof value === 'number' && Number.isFinite(value) ? value : fallback;
}
export function optionalCount(wire: Wire, field: string): number | null {
  const value = wire[field];
  return typeof value === 'number' && Number.isFinite(value) ? value : null;
}
/** A machine's name or address, as it may stand in a URL; null for anything that may not. */
export function host(wire: Wire, field: string): string | null {
  const value = text(wire, field);
  return isHost(value) ? value : null;
}
export function isHost(value: string): boolean {
  if (value === '' || value.length > 253 || !/^[\w.:%-]+$/.test(value)) return false;
  return URL.canParse(`http://${value.includes(':') ? `[${value}]` : value}:1/`);
}
export function port(wire: Wire, field: string): number | null {
  const value = optionalCount(wire, field);
  return value !== null && Number.isInteger(value) && value > 0 && value < 65_536 ? value : null;
}
export const flag = (wire: Wire, field: string): boolean => wire[field] === true;
export function time(wire: Wire, field: string): number | null {
  const value = wire[field];
  if (typeof value !== 'string') return null;
  const at = Date.parse(value);
  return Number.isNaN(at) ? null : at;
}
export function list(wire: Wire, field: string): Wire[] {
  const value = wire[field];
  return Array.isArray(value) ? value.slice(0, MAX_ITEMS).map(asWire) : [];
}
export function texts(wire: Wire, field: string): Record<string, string> {
  const out: Record<string, string> = {};
  for (const [name, value] of Object.entries(child(wire, field)).slice(0, MAX_ITEMS)) {
    if (typeof value === 'string') out[storable(name, 317)] = storable(value, MAX_TEXT);
  }
  return out;
}
