import type { Kind, Node } from './node.ts';
import { WrongMeasure } from './problem.ts';
import type { Step } from './tree.ts';
import { amountOf, BARE, divided, isAlike, NONE, perSecond, SECONDS, type Unit, unitWords } from './units.ts';

/** What was read, for words about it. */
export interface Named {
  readonly name: string | null;
  /** Its page does not say what it is, and its name neither. */
  readonly unknown: boolean;
  /** Nothing bears its name: any step fits, and nothing is drawn. */
  readonly absent: boolean;
}
export function alike(a: Unit, b: Unit, what: string): void {
  if (!isAlike(a, b))
    throw new WrongMeasure(`${what} takes two of one unit: one side is ${unitWords(a)}, the other ${unitWords(b)}`);
}
const IS: Readonly<Record<Kind, string>> = {
  counter: 'a counter',
  gauge: 'a gauge',
  histogram: 'a histogram',
  number: 'a number',
};

/** What a step makes of what it is given. Throws where it does not fit, with one that would. */
export function outcome(
  of: Node,
  step: Step,
  { name, unknown, absent }: Named,
): { readonly kind: Kind; readonly unit: Unit } {
  const { kind, unit } = of;
  const what = name === null ? 'this' : `“${name}”`;
  const refuse = (needs: string, instead: string): void => {
    if (absent) return;
    throw new WrongMeasure(
      `“${step.step}” needs ${needs}; ${what} is ${unknown ? 'of no known type' : IS[kind]}. ${instead}`,
    );
  };
  if (kind === 'number') refuse('lines', 'A number has none.');
  const gauge = (own: Unit) => ({ kind: 'gauge' as const, unit: own });
  const plain = () => {
    if (kind === 'histogram') refuse('values', 'Take “percentile … of buckets” or “share below … of buckets” first.');
  };
  const level = () => {
    plain();
    if (kind === 'counter') refuse('a gauge', '“per second over 5m” or “growth over 5m” makes one of it.');
  };
  const buckets = () => {
    if (kind !== 'histogram') refuse('a histogram', 'Its buckets are read by the name of the histogram itself.');
  };
  const same = (bound: Unit) => alike(unit, bound, `“${step.step}”`);
  switch (step.step) {
    case 'whatever the scope':
    case 'where':
    case 'rename label':
    case 'shorten label':
    case 'called':
    case 'add labels':
    case 'earlier':
      return { kind, unit };
    case 'treat as counter':
      return kind === 'gauge' ? { kind: 'counter', unit } : { kind, unit };
    case 'growth':
    case 'per second':
      if (kind === 'gauge')
        refuse('a counter', unknown ? '“treat as counter” before it says that it is one.' : '“change over 5m”?');
      return { kind: kind === 'histogram' ? kind : 'gauge', unit: ofGrowth(step.step, kind, unit) };
    case 'change':
      level();
      return gauge(unit);
    case 'slope':
      level();
      return gauge(divided(unit.bare ? NONE : unit, SECONDS));
    case 'over time':
      plain();
      return gauge(step.what === 'count' ? NONE : unit);
    case 'percentile over time':
      plain();
      return gauge(unit);
    case 'time above':
    case 'time below':
      level();
      same(amountOf(step.bound).unit);
      return gauge(NONE);
    case 'across':
      if (step.what === 'total' && kind === 'histogram') return { kind, unit };
      plain();
      return gauge(step.what === 'count' ? NONE : unit);
    case 'percentile across':
      plain();
      return gauge(unit);
    case 'percentile of buckets':
      buckets();
      return gauge(unit);
    case 'share below of buckets':
      buckets();
      same(amountOf(step.bound).unit);
      return gauge(NONE);
    case 'satisfaction':
      buckets();
      same(amountOf(step.target).unit);
      return gauge(NONE);
    case 'top':
    case 'bottom':
      plain();
      return gauge(unit);
    case 'keep above':
    case 'keep below':
      plain();
      same(amountOf(step.bound).unit);
      return gauge(unit);
    case 'fill gaps':
    case 'missing counts 0':
      plain();
      return { kind: step.step === 'fill gaps' ? 'gauge' : kind, unit };
    case 'forecast':
    case 'usual':
      level();
      return gauge(unit);
    case 'time until':
      level();
      same(amountOf(step.bound).unit);
      return gauge(SECONDS);
  }
}
/** Of a histogram the buckets count observations, whose unit stays. */
const ofGrowth = (step: 'growth' | 'per second', kind: Kind, unit: Unit): Unit =>
  step === 'growth' || kind === 'histogram' ? unit : perSecond(unit.bare ? BARE : unit);
