import { DAY, type DurationMs, HOUR } from '../units/index.ts';
import type { Node } from './node.ts';
import type { Step, Stretch } from './tree.ts';
import { durationMs } from './units.ts';

const BIN: Readonly<Record<'hour' | 'day' | 'week', DurationMs>> = { hour: HOUR, day: 26 * HOUR, week: 8 * DAY };
const ofStretch = (stretch: Stretch): DurationMs => ('over' in stretch ? durationMs(stretch.over) : BIN[stretch.by]);
function ofStep(step: Step): DurationMs {
  if ('stretch' in step) return ofStretch(step.stretch);
  if (step.step === 'earlier') return durationMs(step.by);
  if (step.step === 'fill gaps') return durationMs(step.upTo);
  return 'from' in step ? durationMs(step.from) : 0;
}
/** How far before the first moment samples are needed, beside those that still hold there. */
export function lookBackOf(node: Node): DurationMs {
  switch (node.is) {
    case 'read':
    case 'number':
      return 0;
    case 'step':
      return ofStep(node.step) + lookBackOf(node.of);
    case 'minus':
      return lookBackOf(node.of);
    case 'operator':
    case 'smaller':
    case 'larger':
      return Math.max(lookBackOf(node.left), lookBackOf(node.right));
  }
}
