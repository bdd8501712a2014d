/** An exact amount in billionths: `250m` is 250 000 000n, `1.5Gi` is 1610612736 × 10^9. */
export type Nano = bigint;

const FORM = /^([+-]?)(\d{0,20})(?:\.(\d{0,20}))?(?:([eE])([+-]?\d{1,3})|([A-Za-z]{1,2}))?$/;
const DECIMAL: Record<string, number> = { n: -9, u: -6, m: -3, k: 3, M: 6, G: 9, T: 12, P: 15, E: 18 };
const BINARY: Record<string, bigint> = { Ki: 10n, Mi: 20n, Gi: 30n, Ti: 40n, Pi: 50n, Ei: 60n };
const MAX_DIGITS = 40;

/**
 * Reads an amount as a cluster writes it: decimal number, then nothing, a decimal suffix (n u m k M G T P E), a binary
 * one (Ki … Ei) or an exponent (1e3). Below a billionth it is rounded up, as the cluster API does. Null when it is none.
 */
export function parseQuantity(text: string): Nano | null {
  const match = FORM.exec(text.trim());
  if (!match) return null;
  const [, sign, whole = '', part = '', exponentMark, exponent, suffix] = match;
  if (whole === '' && part === '') return null;
  let power = -part.length + 9;
  let binary = 0n;
  if (exponentMark) power += Number(exponent);
  else if (suffix !== undefined) {
    if (suffix in DECIMAL) power += DECIMAL[suffix]!;
    else if (suffix in BINARY) binary = BINARY[suffix]!;
    else return null;
  }
  if (Math.abs(power) > MAX_DIGITS) return null;
  const digits = BigInt(`${whole}${part}`) << binary;
  let nano = digits;
  if (power >= 0) nano = digits * 10n ** BigInt(power);
  else {
    const divisor = 10n ** BigInt(-power);
    nano = (digits + divisor - 1n) / divisor;
  }
  return sign === '-' ? -nano : nano;
}

/** As a double, for computing with: cores or bytes. Null when the text is no amount. */
export function quantityNumber(text: string | undefined): number | null {
  if (text === undefined) return null;
  const nano = parseQuantity(text);
  if (nano === null) return null;
  return nano % 1_000_000_000n === 0n ? Number(nano / 1_000_000_000n) : Number(nano) / 1e9;
}
