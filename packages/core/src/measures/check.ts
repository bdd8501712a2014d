import { IANAZone } from 'luxon';
import { RE2JS } from 're2js';
import type { Kind, Node, Plan, Read, WrittenStep } from './node.ts';
import { alike, type Named, outcome } from './outcome.ts';
import { printShow, printSource, printStep } from './print.ts';
import { type MeasureProblem, nearestOf, WrongMeasure } from './problem.ts';
import type { Binding, Body, Chain, Condition, Expression, Step } from './tree.ts';
import { amountOf, BARE, divided, durationMs, multiplied, shared, shownAs, unitNamed } from './units.ts';

export interface MetricInfo {
  readonly type: 'counter' | 'gauge' | 'histogram' | 'summary' | 'unknown';
  readonly unit: string | null;
}
/** What there is to be read, as somebody may see it. */
export interface Catalogue {
  readonly metric: (name: string) => MetricInfo | null;
  /** Names that may be meant by one that nothing bears. */
  readonly metrics: (like: string) => Iterable<string>;
  readonly vital: (name: string) => MetricInfo | null;
  readonly vitals: () => Iterable<string>;
  /** A saved measure. */
  readonly measure: (title: string) => Body | null;
  readonly measures: () => Iterable<string>;
}

const MOST_BINDINGS = 60;
const MOST_STEPS = 400;
const MOST_MEASURES = 20;

/** Tree → what is computed; every step fits what it is given, units and names are known. */
export function checkMeasure(
  body: Body,
  catalogue: Catalogue,
): { readonly plan: Plan } | { readonly problem: MeasureProblem } {
  try {
    return { plan: new Checker(catalogue).plan(body) };
  } catch (error) {
    if (!(error instanceof WrongMeasure)) throw error;
    return { problem: { text: error.text, at: null, nearest: error.nearest } };
  }
}

class Checker {
  private readonly reads = new Map<string, Read>();
  private readonly notes = new Set<string>();
  private readonly measures: string[] = [];
  private readonly written: WrittenStep[] = [];
  /** The binding that is looked at. */
  private bound: string | null = null;
  private steps = 0;
  private readonly catalogue: Catalogue;

  constructor(catalogue: Catalogue) {
    this.catalogue = catalogue;
  }

  plan(body: Body): Plan {
    const { node, shown } = this.body(body);
    return {
      result: node,
      shownAs: shown,
      reads: [...this.reads.values()],
      steps: this.written,
      notes: [...this.notes],
    };
  }
  /** Notes what a person wrote, and answers what it gives; what a saved measure reads is its own matter. */
  private tell(text: string, node: Node): Node {
    if (this.measures.length === 0) this.written.push({ binding: this.bound, text, node });
    return node;
  }

  private body({ bindings, result }: Body) {
    if (bindings.length > MOST_BINDINGS)
      throw new WrongMeasure(`a measure has at most ${MOST_BINDINGS} bindings: put some into a measure of their own`);
    const known = new Map<string, Node>();
    const outer = this.bound;
    for (const binding of bindings) {
      this.bound = binding.name;
      known.set(binding.name, this.binding(binding, known));
    }
    this.bound = bindings.length === 0 ? outer : null;
    if (result.is === 'chain') return { node: this.chain(result.chain, known), shown: null };
    const own = this.expression(result.expression, known);
    if (own.kind === 'histogram')
      throw new WrongMeasure(
        'buckets are no values: end with “percentile … of buckets”, “share below … of buckets” or “satisfaction”',
      );
    const node = result.as === null ? own : { ...own, unit: shownAs(own.unit, result.as) };
    return { node: this.tell(printShow(result), node), shown: result.as };
  }
  private binding({ name, chain }: Binding, known: ReadonlyMap<string, Node>): Node {
    if (known.has(name)) throw new WrongMeasure(`“${name}” is bound twice: give one of them another name`);
    return this.chain(chain, known);
  }

  private chain({ source, steps }: Chain, known: ReadonlyMap<string, Node>): Node {
    this.steps += steps.length;
    if (this.steps > MOST_STEPS)
      throw new WrongMeasure(`a measure has at most ${MOST_STEPS} steps, those of what it reads included`);
    switch (source.is) {
      case 'from':
        return this.through(this.tell(printSource(source), this.expression(source.expression, known)), steps);
      case 'measure':
        return this.through(this.tell(printSource(source), this.saved(source.title)), steps);
      case 'vital': {
        const info = this.catalogue.vital(source.name);
        if (info === null) {
          const nearest = nearestOf(source.name, this.catalogue.vitals());
          throw new WrongMeasure(`there is no vital “${source.name}”${near(nearest)}`, null, nearest);
        }
        return this.read({ is: 'vital', name: source.name }, info, steps);
      }
      case 'metric': {
        const info = this.catalogue.metric(source.name);
        if (info === null)
          this.notes.add(
            `Nothing bears the name “${source.name}”${near(nearestOf(source.name, this.catalogue.metrics(source.name)))}.`,
          );
        return this.read({ is: 'metric', name: source.name }, info, steps);
      }
    }
  }
  private saved(title: string): Node {
    const body = this.catalogue.measure(title);
    if (body === null) {
      const nearest = nearestOf(title, this.catalogue.measures());
      throw new WrongMeasure(`there is no measure “${title}”${near(nearest)}`, null, nearest);
    }
    if (this.measures.includes(title))
      throw new WrongMeasure(`“${[...this.measures, title].join('” reads “')}”: a measure cannot read itself`);
    if (this.measures.length >= MOST_MEASURES)
      throw new WrongMeasure(`measures that read measures go more than ${MOST_MEASURES} deep`);
    this.measures.push(title);
    const outer = this.bound;
    const { node } = this.body(body);
    this.bound = outer;
    this.measures.pop();
    return node;
  }
  /** Conditions right behind the read narrow what is read. */
  private read(of: Read['of'], info: MetricInfo | null, steps: readonly Step[]): Node {
    const { type, unit } = info ?? { type: 'unknown', unit: null };
    const where: Condition[] = [];
    let whateverTheScope = false;
    let i = 0;
    for (; i < steps.length; i++) {
      const step = steps[i]!;
      if (step.step === 'where') where.push(...step.where);
      else if (step.step === 'whatever the scope') whateverTheScope = true;
      else break;
    }
    for (const one of where) patternsOf(one);
    const wanted: Read = { of, where, whateverTheScope };
    const key = JSON.stringify(wanted);
    const read = this.reads.get(key) ?? wanted;
    this.reads.set(key, read);
    const kind: Kind =
      type === 'counter' || type === 'gauge' || type === 'histogram'
        ? type
        : type === 'unknown' && of.name.endsWith('_total')
          ? 'counter'
          : 'gauge';
    const unknown = type === 'unknown' && kind === 'gauge';
    const node: Node = { is: 'read', read, kind, unit: info === null ? BARE : unitNamed(unit), missingIsZero: false };
    const written = [printSource(of.is === 'vital' ? { is: 'vital', name: of.name } : { is: 'metric', name: of.name })];
    return this.through(this.tell([...written, ...steps.slice(0, i).map(printStep)].join(' '), node), steps.slice(i), {
      name: of.name,
      unknown,
      absent: info === null,
    });
  }

  private through(
    first: Node,
    steps: readonly Step[],
    of: Named = { name: null, unknown: false, absent: false },
  ): Node {
    let node = first;
    for (const step of steps) node = this.tell(printStep(step), this.step(node, step, of));
    return node;
  }
  private step(of: Node, step: Step, named: Named): Node {
    if (step.step === 'whatever the scope')
      throw new WrongMeasure('“whatever the scope” stands right behind what is read, before any other step');
    if (step.step === 'where') for (const one of step.where) patternsOf(one);
    if (step.step === 'shorten label') pattern(step.pattern);
    timesOf(step);
    const { kind, unit } = outcome(of, step, named);
    return {
      is: 'step',
      step,
      of,
      kind,
      unit,
      missingIsZero: of.missingIsZero || step.step === 'missing counts 0',
    };
  }

  private expression(own: Expression, known: ReadonlyMap<string, Node>): Node {
    switch (own.is) {
      case 'name': {
        const node = known.get(own.name);
        if (node) return node;
        const nearest = nearestOf(own.name, known.keys());
        throw new WrongMeasure(`“${own.name}” is not bound before it is used${near(nearest)}`, null, nearest);
      }
      case 'number': {
        const { value, unit } = amountOf(own.amount);
        return { is: 'number', value, kind: 'number', unit, missingIsZero: false };
      }
      case 'minus': {
        const of = this.value(own.of, known);
        return { is: 'minus', of, kind: resultKind(of, of), unit: of.unit, missingIsZero: false };
      }
      case 'smaller':
      case 'larger': {
        const [left, right] = [this.value(own.left, known), this.value(own.right, known)];
        alike(left.unit, right.unit, `“${own.is} of”`);
        return {
          is: own.is,
          left,
          right,
          kind: resultKind(left, right),
          unit: shared(left.unit, right.unit),
          missingIsZero: false,
        };
      }
      case 'operator': {
        const [left, right] = [this.value(own.left, known), this.value(own.right, known)];
        const unit =
          own.operator === '*'
            ? multiplied(left.unit, right.unit)
            : own.operator === '/'
              ? divided(left.unit, right.unit)
              : shared(left.unit, right.unit);
        if (own.operator === '+' || own.operator === '-') alike(left.unit, right.unit, `“${own.operator}”`);
        return {
          is: 'operator',
          operator: own.operator,
          left,
          right,
          pairedBy: own.pairedBy,
          kind: resultKind(left, right),
          unit,
          missingIsZero: false,
        };
      }
    }
  }
  private value(own: Expression, known: ReadonlyMap<string, Node>): Node {
    const node = this.expression(own, known);
    if (node.kind === 'histogram')
      throw new WrongMeasure('buckets cannot be computed with: take a percentile or a share of them first');
    return node;
  }
}

/** Longer than anything is kept. */
const LONGEST = { value: 400, unit: 'd' } as const;
/** Durations that a person wrote, and the zone of a calendar: a tree may come from anywhere. */
function timesOf(step: Step): void {
  const durations = [
    'stretch' in step && 'over' in step.stretch ? step.stretch.over : null,
    'by' in step ? step.by : null,
    'upTo' in step ? step.upTo : null,
    'ahead' in step ? step.ahead : null,
    'from' in step ? step.from : null,
  ];
  for (const duration of durations)
    if (duration !== null && durationMs(duration) > durationMs(LONGEST))
      throw new WrongMeasure(
        `“${step.step}” looks at ${duration.value}${duration.unit}; ${LONGEST.value}${LONGEST.unit} is the most`,
      );
  const zone = 'stretch' in step && 'zone' in step.stretch ? step.stretch.zone : 'zone' in step ? step.zone : null;
  if (zone !== null && !IANAZone.isValidZone(zone))
    throw new WrongMeasure(`“${zone}” is no time zone; one is called Europe/Oslo, or UTC`);
}
const near = (nearest: string | null): string => (nearest === null ? '' : `; “${nearest}” is the nearest`);
const resultKind = (a: Node, b: Node): Kind => (a.kind === 'number' && b.kind === 'number' ? 'number' : 'gauge');
const pattern = (text: string): void => {
  try {
    RE2JS.compile(text);
  } catch (error) {
    throw new WrongMeasure(`/${text}/ is no pattern: ${error instanceof Error ? error.message : 'it cannot be read'}`);
  }
};
function patternsOf(one: Condition): void {
  if (one.is === 'matches' || one.is === 'does not match') pattern(one.text);
}
