import type { Beside } from '../samples/index.ts';
import type { DurationMs, EpochMs } from '../units/index.ts';
import { type Node, type Plan, walk } from './node.ts';
import type { Step, Stretch } from './tree.ts';
import { durationMs } from './units.ts';

type Named = Step['step'];
type OfStep<N extends Named> = Extract<Step, { step: N }>;
interface FromBuckets<N extends Named> {
  /** Whether it says of buckets of a length what it says of their samples, at moments that are their borders. */
  readonly asExact: (step: OfStep<N>, bucket: DurationMs, of: Node) => boolean;
  /** What it needs of them beside their last values or their growth. */
  readonly needs?: (step: OfStep<N>) => readonly Beside[];
  /** Buckets do not tell it, not even roughly. */
  readonly never?: true;
}

const always = () => true;
/** Labels and values are changed as they come. */
const PLAIN = { asExact: always };
const wholeStretch = (stretch: Stretch, bucket: DurationMs): boolean =>
  // bins of the calendar begin with hours, or with half of one
  'over' in stretch ? durationMs(stretch.over) % bucket === 0 : (30 * 60_000) % bucket === 0;
/** What is computed before it is known at the buckets' borders only, and between them of samples. */
const ofRead = (of: Node): boolean => {
  let own = of;
  while (own.is === 'step' && CHANGES_LABELS.has(own.step.step)) own = own.of;
  return own.is === 'read';
};
const CHANGES_LABELS: ReadonlySet<Named> = new Set([
  'where',
  'treat as counter',
  'whatever the scope',
  'add labels',
  'rename label',
  'shorten label',
  'called',
  'missing counts 0',
  'earlier',
]);
const whole = {
  asExact: ({ stretch }: { readonly stretch: Stretch }, bucket: DurationMs, of: Node) =>
    ofRead(of) && wholeStretch(stretch, bucket),
};
const never = { asExact: () => false, never: true } as const;
/** A trend is laid through points that lie further apart than buckets are long. */
const TREND = { asExact: always, needs: (): readonly Beside[] => ['sum', 'count', 'nans'] };

/** Each step: when roll-ups may stand for samples, and what of them. */
const STEPS: { readonly [N in Named]: FromBuckets<N> } = {
  where: PLAIN,
  'treat as counter': PLAIN,
  'whatever the scope': PLAIN,
  growth: whole,
  'per second': whole,
  change: whole,
  slope: never,
  'over time': {
    ...whole,
    needs: ({ what }) => {
      switch (what) {
        case 'average':
          return ['sum', 'count', 'nans'];
        case 'total':
          return ['sum', 'nans'];
        case 'count':
          return ['count', 'nans'];
        case 'deviation':
          return ['squares', 'sum', 'count', 'nans'];
        case 'highest':
          return ['max'];
        case 'lowest':
          return ['min'];
        case 'latest':
          return [];
      }
    },
  },
  'percentile over time': never,
  'time above': never,
  'time below': never,
  across: PLAIN,
  'percentile across': PLAIN,
  'percentile of buckets': PLAIN,
  'share below of buckets': PLAIN,
  satisfaction: PLAIN,
  top: PLAIN,
  bottom: PLAIN,
  'keep above': PLAIN,
  'keep below': PLAIN,
  earlier: { asExact: ({ by }, bucket) => durationMs(by) % bucket === 0 },
  'add labels': PLAIN,
  'rename label': PLAIN,
  'shorten label': PLAIN,
  called: PLAIN,
  'fill gaps': { asExact: () => false },
  'missing counts 0': PLAIN,
  forecast: TREND,
  'time until': TREND,
  usual: TREND,
};
const of = <N extends Named>(step: OfStep<N>): FromBuckets<N> => STEPS[step.step];

function eachStep({ result }: Plan, visit: (step: Step, of: Node) => void): void {
  walk(result, (node) => {
    if (node.is === 'step') visit(node.step, node.of);
  });
}
/** Whether roll-ups of this length answer a body at these moments exactly as their samples do. */
export function rollsUpExactly(plan: Plan, times: ArrayLike<EpochMs>, bucket: DurationMs): boolean {
  for (let i = 0; i < times.length; i++) if (times[i]! % bucket !== 0) return false;
  let exact = true;
  eachStep(plan, (step, node) => {
    exact &&= of(step).asExact(step, bucket, node);
  });
  return exact;
}
/** What is read of roll-ups beside their last values or their growth. */
export function neededOfRollUps(plan: Plan): Beside[] {
  const all = new Set<Beside>();
  eachStep(plan, (step) => {
    for (const one of of(step).needs?.(step) ?? []) all.add(one);
  });
  return [...all];
}
/** Whether a stretch of figures is looked at that were computed before, each at every moment at which something was read. */
export function looksAtFigures(plan: Plan): boolean {
  let found = false;
  eachStep(plan, (step, node) => {
    found ||= 'stretch' in step && !ofRead(node);
  });
  return found;
}
/** A step that is asked of what was read itself, and that roll-ups do not tell. */
export function stepOfSamples(plan: Plan): Step | null {
  let found: Step | null = null;
  eachStep(plan, (step, node) => {
    if (of(step).never === true && ofRead(node)) found ??= step;
  });
  return found;
}
