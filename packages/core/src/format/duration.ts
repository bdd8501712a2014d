import { DAY, type DurationMs, HOUR, MINUTE, SECOND } from '../units/index.ts';

const UNITS = [
  ['d', DAY],
  ['h', HOUR],
  ['min', MINUTE],
  ['s', SECOND],
] as const;

/** A duration to be read back and changed: every part that it has, in whole seconds. "1 min 40 s", "2 h", "0 s". */
export function writeDuration(duration: DurationMs): string {
  let rest = Math.round(duration / SECOND) * SECOND;
  const parts = UNITS.flatMap(([unit, length]) => {
    const count = Math.floor(rest / length);
    rest -= count * length;
    return count === 0 ? [] : [`${count} ${unit}`];
  });
  return parts.join(' ') || '0 s';
}

/** What somebody wrote as a duration: numbers with d, h, min or s, the longest first. Null where it is none. */
export function readDuration(text: string): DurationMs | null {
  const parts = /^\s*(?:(\d{1,5}) ?d)?\s*(?:(\d{1,6}) ?h)?\s*(?:(\d{1,7}) ?min)?\s*(?:(\d{1,8}) ?s)?\s*$/.exec(text);
  const counts = parts?.slice(1) ?? [];
  if (counts.every((count) => count === undefined)) return null;
  return UNITS.reduce((sum, [, length], i) => sum + Number(counts[i] ?? 0) * length, 0);
}
