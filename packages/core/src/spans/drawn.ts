import type { EpochMs } from '../units/index.ts';
import { isEntry, type Span } from './span.ts';

type Step = Pick<Span, 'spanId' | 'parentId' | 'kind' | 'at' | 'took'>;
/** Clocks of machines never agree to the hair: less than that is no shift, ms. */
const AGREE = 0.5;

/**
 * By how much each step is drawn later than its clock says, ms: an answerer's step that does not lie within its caller's stands in its
 * middle, with everything below it. Only those that are moved. Nothing else is corrected: durations are of one clock each.
 */
export function shiftsOf(steps: readonly Step[]): ReadonlyMap<string, number> {
  const known = new Map(steps.map((step) => [step.spanId, step]));
  const below = new Map<string, Step[]>();
  const tops: Step[] = [];
  for (const step of steps) {
    const parent = known.get(step.parentId);
    if (parent === undefined || parent === step) tops.push(step);
    else {
      const own = below.get(parent.spanId) ?? [];
      own.push(step);
      below.set(parent.spanId, own);
    }
  }
  const shifts = new Map<string, number>();
  const seen = new Set<string>();
  const waiting = tops.map((step) => ({ step, shift: 0 }));
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const { step, shift } = next;
    if (seen.has(step.spanId)) continue;
    seen.add(step.spanId);
    if (shift !== 0) shifts.set(step.spanId, shift);
    for (const child of below.get(step.spanId) ?? [])
      waiting.push({ step: child, shift: shift + (isAnswerOf(child, step) ? shiftInto(child, step) : 0) });
  }
  return shifts;
}
/** Another machine's clock is meant: a step that was called, and waited for, from elsewhere. */
const isAnswerOf = (child: Step, parent: Step): boolean => isEntry(child) && parent.kind === 'client';
function shiftInto(child: Step, parent: Step): number {
  const begins: EpochMs = child.at - parent.at;
  const ends = parent.at + parent.took - (child.at + child.took);
  if (begins >= -AGREE && ends >= -AGREE) return 0;
  return (ends - begins) / 2;
}
