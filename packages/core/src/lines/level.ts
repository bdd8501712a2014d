import { type Field, LINE_LEVELS, type LineLevel } from './line.ts';

const WORDS: ReadonlyMap<string, LineLevel> = new Map<string, LineLevel>([
  ...LINE_LEVELS.map((level) => [level, level] as const),
  ['finest', 'trace'],
  ['fine', 'debug'],
  ['verbose', 'debug'],
  ['dbg', 'debug'],
  ['information', 'info'],
  ['inf', 'info'],
  ['notice', 'info'],
  ['warn', 'warning'],
  ['wrn', 'warning'],
  ['err', 'error'],
  ['eror', 'error'],
  ['severe', 'error'],
  ['critical', 'fatal'],
  ['crit', 'fatal'],
  ['alert', 'fatal'],
  ['emerg', 'fatal'],
  ['emergency', 'fatal'],
  ['panic', 'fatal'],
]);
const FIELDS: readonly string[] = ['level', 'severity', 'lvl'];
const FIRST_WORDS = 5;

/** Of the protocol's severity number, four to a level; null of 0 and of what is none. */
export const levelOfSeverity = (severity: number): LineLevel | null =>
  Number.isInteger(severity) && severity >= 1 && severity <= 24 ? LINE_LEVELS[Math.floor((severity - 1) / 4)]! : null;

export const levelOfWord = (word: string): LineLevel | null => WORDS.get(word.toLowerCase()) ?? null;

/** A field's value: a word, or a number from 10 (trace) to 60 (fatal). */
function levelOfValue(value: string): LineLevel | null {
  const named = levelOfWord(value.trim());
  if (named !== null || !/^[1-6]\d$/.test(value)) return named;
  return LINE_LEVELS[Math.floor(Number(value) / 10) - 1]!; // 10 to 69
}
export function levelOfFields(fields: readonly Field[]): LineLevel | null {
  for (const [name, value] of fields) {
    const level = FIELDS.includes(name.toLowerCase()) ? levelOfValue(value) : null;
    if (level !== null) return level;
  }
  return null;
}
/** The first level word among the first five: upper case, in brackets or before a colon. Any other word is the message's own. */
export function levelInText(text: string): LineLevel | null {
  const words = text.slice(0, 300).trimStart().split(/\s+/, FIRST_WORDS);
  for (const word of words) {
    const inside = /^[[(<]?([A-Za-z]{3,11})[\])>]?(:?),?$/.exec(word);
    if (inside === null) continue;
    const [whole, bare = '', colon] = inside;
    const level = levelOfWord(bare);
    if (level !== null && (bare === bare.toUpperCase() || /^[[(<]/.test(whole) || colon === ':')) return level;
  }
  return null;
}
