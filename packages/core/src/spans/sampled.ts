import { TRACE_STATE } from './wire-names.ts';

/** Nobody keeps less than one in so many: what says so is not believed. */
export const MOST_STANDS = 10_000;
const DIGITS = 14;
const WHOLE = 16 ** DIGITS;
const LONGEST = 512;
const THRESHOLD = /^[0-9a-f]{1,14}$/;

/**
 * For how many a span stands that its sender chose to send, by the threshold in its trace state (hex digits of the share that is left out, as
 * the standard has it); 1 where nothing is said, or nothing that could be.
 */
export function standsFor(traceState: string): number {
  if (traceState.length > LONGEST) return 1;
  for (const member of traceState.split(',')) {
    const [vendor, value = ''] = member.trim().split('=', 2);
    if (vendor !== TRACE_STATE.vendor) continue;
    for (const part of value.split(';')) {
      const [key, threshold = ''] = part.split(':', 2);
      if (key !== TRACE_STATE.threshold || !THRESHOLD.test(threshold)) continue;
      const left = WHOLE - Number.parseInt(threshold.padEnd(DIGITS, '0'), 16);
      return left * MOST_STANDS < WHOLE ? 1 : WHOLE / left;
    }
  }
  return 1;
}
/** The same said again, for whoever it is sent on to; empty where it stands for itself. */
export function traceStateOf(stands: number): string {
  if (!(stands > 1)) return '';
  const threshold = Math.round(WHOLE * (1 - 1 / stands))
    .toString(16)
    .padStart(DIGITS, '0')
    .replace(/0+$/, '');
  return `${TRACE_STATE.vendor}=${TRACE_STATE.threshold}:${threshold}`;
}
