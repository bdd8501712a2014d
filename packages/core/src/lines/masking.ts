import { RE2JS } from 're2js';
import type { Field } from './line.ts';

/** What a text is masked as; `own` is a pattern of a team. */
export const MASKED_KINDS = ['card', 'token', 'key', 'mail', 'own'] as const;
export type MaskedKind = (typeof MASKED_KINDS)[number];
export type MaskedCounts = Record<MaskedKind, number>;
export const nothingMasked = (): MaskedCounts => ({ card: 0, token: 0, key: 0, mail: 0, own: 0 });

/** A pattern of people, which runs in linear time. */
export interface OwnPattern {
  readonly of: RE2JS;
}
/** Throws a sentence where it cannot be understood. */
export function ownPattern(text: string): OwnPattern {
  let of: RE2JS;
  try {
    of = RE2JS.compile(text);
  } catch (error) {
    throw new Error(error instanceof Error ? error.message : String(error));
  }
  if (of.matcher('').find()) throw new Error('it finds the empty text, and so would mask everything');
  return { of };
}

interface Span {
  readonly from: number;
  readonly to: number;
  readonly kind: MaskedKind;
}
/** Where nothing of these stands, nothing is looked for: most lines are so. */
const SUSPICIOUS =
  /\d[ -]?\d[ -]?\d[ -]?\d[ -]?\d[ -]?\d[ -]?\d[ -]?\d|@|%[0-9a-f]{2}|\\|eyJ|KEY-----|:\/\/|key|secret|token|password|authorization|bearer|basic/i;
const SECRET_NAME = /(?:key|secret|token|password|authorization)$/i;
/** A name that ends so, what parts it from its value, and the value: quoted, or up to the next blank or end of a pair. */
const NAMED =
  /(?:key|secret|token|password|authorization)(?:["'\]]{0,3})[ \t]{0,4}(?:=>|[=:])[ \t]{0,4}(?:"([^"]*)"?|'([^']*)'?|((?:(?:basic|bearer|digest|negotiate)[ \t]{1,4})?[^\s,;&"'<>)\]}]+))/gi;
const BEARER = /\bbearer[ \t]{1,4}([A-Za-z0-9._~+/=-]{8,})/gi;
const BASIC = /\bbasic[ \t]{1,4}([A-Za-z0-9+/_-]{8,}={0,2})/gi;
const IN_ADDRESS = /:\/\/([^\s/:@"'<>]{1,256}:[^\s/@"'<>]{1,256})@/g;
/** Three parts, the first of which is an object: every such one begins so (RFC 7519). */
const THREE_PARTS = /\beyJ[A-Za-z0-9_-]{5,}\.[A-Za-z0-9_-]{2,}\.[A-Za-z0-9_-]*/g;
const KEY_BLOCK =
  /-----BEGIN [A-Z0-9 ]{0,40}PRIVATE KEY-----(?:[\s\S]*?-----END [A-Z0-9 ]{0,40}PRIVATE KEY-----|[\s\S]*)/g;
const DIGITS = /(?<!\d[ -]?)\d(?:[ -]?\d){12,18}(?![ -]?\d)/g;
const LOCAL = /[A-Za-z0-9._%+-]/;
const DOMAIN = /^[A-Za-z0-9](?:[A-Za-z0-9-]{0,62}\.){1,8}[A-Za-z]{2,24}(?![A-Za-z0-9])/;

/**
 * A text with what is nobody's business taken out, each by its kind: ‹card›, ‹token›, ‹key›, ‹mail›. What stands behind percent signs or
 * JSON escapes is found too. Linear in the length of the text.
 */
export function masked(text: string, counts: MaskedCounts, own: readonly OwnPattern[] = []): string {
  if (own.length === 0 && !SUSPICIOUS.test(text)) return text;
  const spans = found(text, own);
  let plain: Decoded = { text, at: null };
  // what is escaped within what is escaped: twice is enough for what programs nest
  for (let round = 0; round < 3; round++) {
    const next = decoded(plain);
    if (next === null) break;
    plain = next;
    const { at } = plain;
    for (const { from, to, kind } of found(plain.text, own)) spans.push({ from: at![from]!, to: at![to]!, kind });
  }
  if (spans.length === 0) return text;
  spans.sort((a, b) => a.from - b.from || b.to - a.to);
  let out = '';
  let until = 0;
  for (const { from, to, kind } of spans) {
    if (to <= until) continue;
    // what overlaps is one secret
    if (from >= until) {
      out += `${text.slice(until, from)}‹${kind === 'own' ? 'masked' : kind}›`;
      counts[kind]++;
    }
    until = to;
  }
  return out + text.slice(until);
}
/** A field whose name is, or ends in, that of a secret, at any part of its path, has its whole value taken out. */
export function maskedField([name, value]: Field, counts: MaskedCounts, own: readonly OwnPattern[] = []): Field {
  const shown = masked(name, counts, own);
  if (value !== '' && name.split(/[./[\]]/).some((part) => SECRET_NAME.test(part))) {
    counts.token++;
    return [shown, '‹token›'];
  }
  return [shown, masked(value, counts, own)];
}

/** What a sender says of itself, with secrets taken out. */
export const maskedAttributes = (
  attributes: ReadonlyMap<string, string>,
  counts: MaskedCounts,
  own: readonly OwnPattern[] = [],
): Field[] => [...attributes].map((field) => maskedField(field, counts, own));

function found(text: string, own: readonly OwnPattern[]): Span[] {
  const spans: Span[] = [];
  const whole = (pattern: RegExp, kind: MaskedKind) => {
    for (const match of text.matchAll(pattern))
      spans.push({ from: match.index, to: match.index + match[0].length, kind });
  };
  /** Only what the pattern is about, at its end but for what closes it. */
  const part = (pattern: RegExp, kind: MaskedKind) => {
    for (const match of text.matchAll(pattern)) {
      const value = match.slice(1).find((one) => one !== undefined);
      if (value === undefined || value === '' || value.startsWith('‹')) continue;
      const from = match.index + match[0].lastIndexOf(value);
      spans.push({ from, to: from + value.length, kind });
    }
  };
  whole(KEY_BLOCK, 'key');
  part(NAMED, 'token');
  part(BEARER, 'token');
  part(BASIC, 'token');
  part(IN_ADDRESS, 'token');
  whole(THREE_PARTS, 'token');
  for (const match of text.matchAll(DIGITS))
    if (isCard(match[0])) spans.push({ from: match.index, to: match.index + match[0].length, kind: 'card' });
  addMails(text, spans);
  for (const { of } of own) {
    const matcher = of.matcher(text);
    while (matcher.find())
      if (matcher.end() > matcher.start()) spans.push({ from: matcher.start(), to: matcher.end(), kind: 'own' });
  }
  return spans;
}
/** Its last digit fits the others (ISO/IEC 7812-1, annex B). Times in ms, µs and ns have 13, 16 and 19 digits and begin with 1, as no card of those lengths does. */
function isCard(written: string): boolean {
  const digits = written.replace(/[ -]/g, '');
  if (digits.startsWith('1') && digits.length !== 15) return false;
  let sum = 0;
  for (let i = 0; i < digits.length; i++) {
    const digit = digits.charCodeAt(digits.length - 1 - i) - 48;
    const weighed = i % 2 === 1 ? digit * 2 : digit;
    sum += weighed > 9 ? weighed - 9 : weighed;
  }
  return sum % 10 === 0 && /[^0]/.test(digits);
}
/** From each @ outwards, so that a text of letters alone costs nothing. */
function addMails(text: string, spans: Span[]): void {
  for (let at = text.indexOf('@'); at >= 0; at = text.indexOf('@', at + 1)) {
    let from = at;
    while (from > 0 && at - from < 64 && LOCAL.test(text[from - 1]!)) from--;
    if (from === at) continue;
    const domain = DOMAIN.exec(text.slice(at + 1, at + 256));
    if (domain) spans.push({ from, to: at + 1 + domain[0].length, kind: 'mail' });
  }
}

/** A text and where each of its letters stood in the text as it was written, and one more for its end; null where it is that text. */
interface Decoded {
  readonly text: string;
  readonly at: readonly number[] | null;
}
const ESCAPE = /%([0-9A-Fa-f]{2})|\\u([0-9A-Fa-f]{4})|\\(["'\\/nrt])/g;
const LETTERS: Readonly<Record<string, string>> = { n: '\n', r: '\r', t: '\t' };

/** One round of escapes taken away; null where there is none. Bytes beyond ASCII stay as they are: nothing that is looked for has them. */
function decoded({ text, at }: Decoded): Decoded | null {
  let out = '';
  const places: number[] = [];
  let until = 0;
  const plain = (to: number) => {
    for (let i = until; i < to; i++) places.push(at ? at[i]! : i);
    out += text.slice(until, to);
  };
  for (const match of text.matchAll(ESCAPE)) {
    const code = match[1] ?? match[2];
    const letter = code === undefined ? (LETTERS[match[3]!] ?? match[3]!) : String.fromCharCode(parseInt(code, 16));
    if (letter > '\u007f') continue;
    plain(match.index);
    out += letter;
    places.push(at ? at[match.index]! : match.index);
    until = match.index + match[0].length;
  }
  if (until === 0) return null;
  plain(text.length);
  places.push(at ? at[text.length]! : text.length);
  return { text: out, at: places };
}
