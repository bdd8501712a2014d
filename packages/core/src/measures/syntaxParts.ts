import { IANAZone } from 'luxon';
import { nearestOf, WrongMeasure } from './problem.ts';
import type { Scanner } from './scanner.ts';
import {
  type Across,
  AMOUNT_UNITS,
  type Amount,
  type Condition,
  DURATION_UNITS,
  type Duration,
  type Stretch,
} from './tree.ts';

export function readAmount(scanner: Scanner): Amount {
  const begun = scanner.offset;
  const { value, unit } = scanner.number();
  if (unit === null) return { value, unit: null };
  const known = AMOUNT_UNITS.find((one) => one === unit);
  if (known === undefined)
    throw new WrongMeasure(
      `“${unit}” is no unit of a number; there are ${AMOUNT_UNITS.join(' ')}`,
      begun,
      nearestOf(unit, AMOUNT_UNITS),
    );
  return { value, unit: known };
}
export function readSignedAmount(scanner: Scanner): Amount {
  if (!scanner.minus()) return readAmount(scanner);
  const amount = readAmount(scanner);
  return amount.value === 0 ? amount : { ...amount, value: -amount.value };
}

export function readDuration(scanner: Scanner): Duration {
  const begun = scanner.offset;
  if (!scanner.numberBegins()) throw scanner.wrong('a duration such as 5m, 2h or 1d');
  const { value, unit } = scanner.number();
  const known = DURATION_UNITS.find((one) => one === unit);
  if (known === undefined || value <= 0)
    throw new WrongMeasure('a duration is a number above 0 with s, m, h, d or w written on to it, such as 5m', begun);
  return { value, unit: known };
}
/** A number with nothing written on to it, within bounds. */
export function readPlain(scanner: Scanner, what: string, fits: (value: number) => boolean): number {
  const begun = scanner.offset;
  if (!scanner.numberBegins()) throw scanner.wrong(what);
  const { value, unit } = scanner.number();
  if (unit !== null || !fits(value)) throw new WrongMeasure(`${what} was expected`, begun);
  return value;
}

export function readStretch(scanner: Scanner): Stretch {
  if (scanner.words('over')) return { over: readDuration(scanner) };
  if (!scanner.words('by')) throw scanner.wrong('“over” and a duration, or “by” hour, day or week');
  const by = (['hour', 'day', 'week'] as const).find((one) => scanner.words(one));
  if (by === undefined) throw scanner.wrong('“hour”, “day” or “week”');
  scanner.expectWords('in');
  return { by, zone: readZone(scanner) };
}
export function readZone(scanner: Scanner): string {
  const { name, offset } = scanner.zone();
  if (!IANAZone.isValidZone(name))
    throw new WrongMeasure(`“${name}” is no time zone; one is called Europe/Oslo, or UTC`, offset);
  return name;
}
export function readLabels(scanner: Scanner): string[] {
  const labels = [scanner.longName('a label')];
  while (scanner.mark(',')) labels.push(scanner.longName('a label'));
  return labels;
}
/** `for each …`, `overall`; null where neither stands. */
export function readAcross(scanner: Scanner): Across | null {
  if (scanner.words('overall')) return { overall: true };
  return scanner.words('for', 'each') ? { each: readLabels(scanner) } : null;
}

export function readConditions(scanner: Scanner): Condition[] {
  const conditions = [readCondition(scanner)];
  while (scanner.words('and')) conditions.push(readCondition(scanner));
  return conditions;
}
function readCondition(scanner: Scanner): Condition {
  const label = scanner.longName('a label');
  const text = () => scanner.string('a text');
  for (const [is, words] of ONE_TEXT) if (scanner.words(...words)) return { label, is, text: text() };
  if (scanner.words('does', 'not', 'match')) return { label, is: 'does not match', text: scanner.pattern() };
  if (scanner.words('matches')) return { label, is: 'matches', text: scanner.pattern() };
  if (!scanner.words('is'))
    throw scanner.wrong(
      '“is”, “contains”, “starts with”, “ends with”, “matches” or “does not match”',
      nearestOf(scanner.peekWord() ?? '', ['is', 'contains', 'starts', 'ends', 'matches']),
    );
  if (scanner.words('present')) return { label, is: 'is present' };
  if (scanner.words('missing')) return { label, is: 'is missing' };
  if (scanner.words('not')) return { label, is: 'is not', text: text() };
  if (scanner.words('any', 'of')) return { label, is: 'is any of', texts: readTexts(scanner) };
  if (scanner.words('none', 'of')) return { label, is: 'is none of', texts: readTexts(scanner) };
  return { label, is: 'is', text: text() };
}
const ONE_TEXT = [
  ['contains', ['contains']],
  ['starts with', ['starts', 'with']],
  ['ends with', ['ends', 'with']],
] as const;
function readTexts(scanner: Scanner): string[] {
  scanner.expectMark('(');
  const texts = [scanner.string('a text')];
  while (scanner.mark(',')) texts.push(scanner.string('a text'));
  scanner.expectMark(')');
  return texts;
}
