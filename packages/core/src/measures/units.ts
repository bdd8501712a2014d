import { WrongMeasure } from './problem.ts';
import { type Amount, type AmountUnit, DURATION_UNITS, type Duration, type DurationUnit } from './tree.ts';

/** Base units and their powers: bytes per second is { bytes: 1, seconds: -1 }. Counts and ratios have none. */
export type Dimensions = Readonly<Record<string, number>>;
/** What a value is counted in; a bare number goes with anything. */
export type Unit = { readonly bare: true } | { readonly bare: false; readonly of: Dimensions };

export const BARE: Unit = { bare: true };
export const NONE: Unit = { bare: false, of: {} };
const named = (name: string): Unit => ({ bare: false, of: { [name]: 1 } });
export const SECONDS = named('seconds');

/** Units of pages and vitals that count nothing else. */
const WITHOUT = new Set(['', 'ratio', 'count', 'counts', 'none', 'percent']);
/** Of a metric, as its page or a vital names it. */
export const unitNamed = (name: string | null): Unit => (name === null || WITHOUT.has(name) ? NONE : named(name));

const tidy = (of: Record<string, number>): Dimensions =>
  Object.fromEntries(
    Object.entries(of)
      .filter(([, power]) => power !== 0)
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
const combined = (a: Dimensions, b: Dimensions, sign: 1 | -1): Dimensions => {
  const out: Record<string, number> = { ...a };
  for (const [name, power] of Object.entries(b)) out[name] = (out[name] ?? 0) + sign * power;
  return tidy(out);
};
export function multiplied(a: Unit, b: Unit): Unit {
  if (a.bare) return b;
  return b.bare ? a : { bare: false, of: combined(a.of, b.of, 1) };
}
export function divided(a: Unit, b: Unit): Unit {
  if (b.bare) return a;
  return { bare: false, of: combined(a.bare ? {} : a.of, b.of, -1) };
}
/** Seconds of CPU time per second are cores. */
export function perSecond(unit: Unit): Unit {
  if (!unit.bare && isAlike(unit, SECONDS)) return named('cores');
  return divided(unit.bare ? NONE : unit, SECONDS);
}
export const isAlike = (a: Unit, b: Unit): boolean =>
  a.bare || b.bare || JSON.stringify(tidy({ ...a.of })) === JSON.stringify(tidy({ ...b.of }));
/** Of two that may be added, compared, or be one or the other. */
export const shared = (a: Unit, b: Unit): Unit => (a.bare ? b : a);

export function unitWords(unit: Unit): string {
  if (unit.bare) return 'a bare number';
  const parts = Object.entries(unit.of);
  if (parts.length === 0) return 'a count or a ratio';
  const text = (sign: 1 | -1) =>
    parts
      .filter(([, power]) => Math.sign(power) === sign)
      .map(([name, power]) => (Math.abs(power) === 1 ? name : `${name}^${Math.abs(power)}`))
      .join(' ');
  const below = text(-1);
  return [text(1), below === '' ? '' : `per ${below === 'seconds' ? 'second' : below}`]
    .filter((part) => part !== '')
    .join(' ');
}

const KIB = 1024;
const SIZES: Readonly<Record<AmountUnit, readonly [factor: number, unit: Unit]>> = {
  '%': [0.01, NONE],
  B: [1, named('bytes')],
  kB: [1e3, named('bytes')],
  MB: [1e6, named('bytes')],
  GB: [1e9, named('bytes')],
  TB: [1e12, named('bytes')],
  KiB: [KIB, named('bytes')],
  MiB: [KIB ** 2, named('bytes')],
  GiB: [KIB ** 3, named('bytes')],
  TiB: [KIB ** 4, named('bytes')],
  ns: [1e-9, SECONDS],
  us: [1e-6, SECONDS],
  ms: [1e-3, SECONDS],
  s: [1, SECONDS],
  m: [60, SECONDS],
  h: [3600, SECONDS],
  d: [86_400, SECONDS],
  w: [604_800, SECONDS],
};
/** A written number in base units. */
export function amountOf({ value, unit }: Amount): { readonly value: number; readonly unit: Unit } {
  if (unit === null) return { value, unit: BARE };
  const [factor, own] = SIZES[unit];
  // a quotient where that is the rounder number: 80 % is 0.8
  return { value: factor < 1 ? value / Math.round(1 / factor) : value * factor, unit: own };
}
const MS: Readonly<Record<DurationUnit, number>> = { s: 1e3, m: 6e4, h: 36e5, d: 864e5, w: 6048e5 };
export const durationMs = ({ value, unit }: Duration): number => Math.round(value * MS[unit]);
/** The shortest way to write a time. */
export function durationOf(ms: number): Duration {
  const unit = [...DURATION_UNITS].reverse().find((one) => ms % MS[one] === 0) ?? 's';
  return { value: ms / MS[unit], unit };
}

/** What `as` may say, each with what it is of. */
const SHOWN: Readonly<Record<string, Unit>> = {
  bytes: named('bytes'),
  cores: named('cores'),
  seconds: SECONDS,
  percent: NONE,
  count: NONE,
  'per second': divided(NONE, SECONDS),
  ...Object.fromEntries(Object.entries(SIZES).map(([name, [, unit]]) => [name, unit])),
};
/**
 * How a value is shown: within its kind, or naming what has no unit; values stay in base units. Throws between kinds.
 */
export function shownAs(unit: Unit, as: string): Unit {
  const wanted = SHOWN[as] ?? named(as);
  const nothing = unit.bare || Object.keys(unit.of).length === 0;
  if (nothing || isAlike(unit, wanted)) return wanted;
  throw new WrongMeasure(
    `“as ${as}” is of another kind: this is ${unitWords(unit)}. Leave it out, or divide by what makes it that`,
  );
}
/** As an answer names it: "bytes", "cores", "bytes per second"; empty for counts, ratios and bare numbers. */
export const unitName = (unit: Unit): string => (unit.bare || Object.keys(unit.of).length === 0 ? '' : unitWords(unit));
