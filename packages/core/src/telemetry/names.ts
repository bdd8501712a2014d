import { UNIT_WORDS } from './wire-names.ts';

const cleaned = (text: string) => text.replace(/[^a-zA-Z0-9_]+/g, '_').replace(/^(?=\d)/, '_');

/** The unit's word; empty where it has none. What stands in braces only comments. */
export function unitWord(unit: string): string {
  const bare = unit.replace(/\{[^}]*\}/g, '').trim();
  const [over = '', per] = bare.split('/');
  const word = UNIT_WORDS[over] ?? cleaned(over);
  if (per === undefined) return word;
  const below = (UNIT_WORDS[per] ?? cleaned(per)).replace(/s$/, '');
  return below === '' ? word : `${word === '' ? '' : `${word}_`}per_${below}`;
}

/** A metric's name the OpenMetrics way, without a counter's ending: dots become underscores, the unit is appended. */
export function familyName(name: string, unit: string): string {
  const base = cleaned(name).replace(/_total$/, '');
  const word = unitWord(unit);
  return word === '' || base === word || base.endsWith(`_${word}`) ? base : `${base}_${word}`;
}

export const labelName = (key: string): string => cleaned(key);
