import { AMOUNT_UNITS } from './tree.ts';
import { amountOf, unitName } from './units.ts';

/** A number that somebody wrote. */
export interface WrittenAmount {
  /** In base units: bytes, seconds; of a share 1 is all. */
  readonly value: number;
  /** What it is of: "bytes", "seconds"; empty of a share; null where only a number was written. */
  readonly unit: string | null;
}
const LONGEST = 60;
const WRITTEN = /^([-+]?\d+(?:[.,]\d+)?(?:e[-+]?\d{1,3})?)\s*([a-z%]*)$/i;

/** As a person writes it: "200 MiB", "1,5h", "85%", "12"; null where it is none. */
export function readWrittenAmount(text: string): WrittenAmount | null {
  const own = text.trim();
  const parts = own.length > LONGEST ? null : WRITTEN.exec(own);
  if (parts === null) return null;
  const [, number = '', ending = ''] = parts;
  const value = Number(number.replace(',', '.'));
  if (!Number.isFinite(value)) return null;
  if (ending === '') return { value, unit: null };
  const unit = AMOUNT_UNITS.find((one) => one === ending);
  if (unit === undefined) return null;
  const amount = amountOf({ value, unit });
  return { value: amount.value, unit: unitName(amount.unit) };
}

const SIZES = ['TiB', 'GiB', 'MiB', 'KiB'] as const;
const TIMES = ['h', 'm', 's', 'ms', 'us'] as const;
/** Digits that a number in another unit may have; what needs more stays as it is. */
const DIGITS = 4;

/**
 * The shortest way to write it that is read as the very same number; `unit`: what it is of. `digits`: rounded to so many, where
 * that is near enough.
 */
export function writeAmount(value: number, unit: string | null, digits: number | null = null): string {
  const units = unit === 'bytes' ? SIZES : unit === 'seconds' ? TIMES : [];
  for (const one of units) {
    const { value: size } = amountOf({ value: 1, unit: one });
    const count = Number((value / size).toPrecision(digits ?? DIGITS));
    if (Math.abs(count) < 1) continue;
    const text = `${count} ${one}`;
    if (digits !== null || readWrittenAmount(text)?.value === value) return text;
  }
  return String(digits === null ? value : Number(value.toPrecision(digits)));
}
