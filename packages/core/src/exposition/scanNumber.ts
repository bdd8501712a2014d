const MINUS = 45;
const PLUS = 43;
const DOT = 46;
const ZERO = 48;
/** Whole numbers of so many digits, and powers of ten up to this one, are exact: one rounding gives the right double. */
const EXACT_DIGITS = 15;
const EXACT_POWER = 22;
const POWERS = Float64Array.from({ length: EXACT_POWER + 1 }, (_, i) => 10 ** i);

/**
 * The plain decimal number that fills these bytes between `from` and `to`, the same double as `Number` makes of it. Null
 * when they are anything else (infinities, NaN, a time, an exemplar): the full parser reads those.
 */
export function scanNumber(bytes: Uint8Array, from: number, to: number): number | null {
  let at = from;
  const negative = at < to && bytes[at] === MINUS;
  if (negative || (at < to && bytes[at] === PLUS)) at++;
  let whole = 0;
  let digits = 0;
  let places = 0;
  let seen = 0;
  for (; at < to; at++, seen++) {
    const digit = bytes[at]! - ZERO;
    if (digit < 0 || digit > 9) break;
    if (digits > 0 || digit !== 0) digits++;
    whole = whole * 10 + digit;
  }
  if (at < to && bytes[at] === DOT) {
    at++;
    for (; at < to; at++, seen++, places++) {
      const digit = bytes[at]! - ZERO;
      if (digit < 0 || digit > 9) break;
      if (digits > 0 || digit !== 0) digits++;
      whole = whole * 10 + digit;
    }
  }
  if (seen === 0) return null;
  let power = 0;
  if (at < to && (bytes[at] === 101 || bytes[at] === 69)) {
    at++;
    const down = at < to && bytes[at] === MINUS;
    if (down || (at < to && bytes[at] === PLUS)) at++;
    const first = at;
    for (; at < to; at++) {
      const digit = bytes[at]! - ZERO;
      if (digit < 0 || digit > 9) break;
      power = Math.min(9999, power * 10 + digit);
    }
    if (at === first) return null;
    if (down) power = -power;
  }
  if (at !== to) return null;
  const scale = power - places;
  if (digits > EXACT_DIGITS || Math.abs(scale) > EXACT_POWER) {
    let text = '';
    for (let i = from; i < to; i++) text += String.fromCharCode(bytes[i]!);
    return Number(text);
  }
  const size = scale < 0 ? whole / POWERS[-scale]! : whole * POWERS[scale]!;
  return negative ? -size : size;
}
