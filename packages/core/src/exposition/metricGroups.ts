import { type Labels, seriesKey } from '../series/index.ts';
import type { EpochMs } from '../units/index.ts';
import type { Family } from './families.ts';
import { readNumber } from './numbers.ts';
import { LineError, type Problems } from './problems.ts';

/**
 * What a value must be on its own. Warm reading applies the same checks to values whose place in the page is known.
 * `bucket`: not below the one before it in its group; `counted`: equal to the last bucket of its group.
 */
export const CHECKS = { none: 0, counts: 1, one: 2, state: 3, bucket: 4, counted: 5, finite: 6 } as const;
export type Check = (typeof CHECKS)[keyof typeof CHECKS];

export function checkOf({ type }: Family, ending: string): Check {
  switch (type) {
    case 'counter':
      return ending === '_created' ? CHECKS.finite : CHECKS.counts;
    case 'histogram':
      if (ending === '_bucket') return CHECKS.bucket;
      if (ending === '_count') return CHECKS.counted;
      return ending === '_created' ? CHECKS.finite : CHECKS.counts;
    case 'gaugehistogram':
      if (ending === '_bucket') return CHECKS.bucket;
      return ending === '_gcount' ? CHECKS.counted : CHECKS.none;
    case 'summary':
      if (ending === '') return CHECKS.none;
      return ending === '_created' ? CHECKS.finite : CHECKS.counts;
    case 'stateset':
      return CHECKS.state;
    case 'info':
      return CHECKS.one;
    case 'gauge':
    case 'unknown':
      return CHECKS.none;
  }
}

/** Whether a value passes for itself; what it must be beside others is left to its group. */
export function passes(check: Check, value: number): boolean {
  switch (check) {
    case CHECKS.none:
      return true;
    case CHECKS.counts:
    case CHECKS.bucket:
    case CHECKS.counted:
      return value >= 0;
    case CHECKS.one:
      return value === 1;
    case CHECKS.state:
      return value === 0 || value === 1;
    case CHECKS.finite:
      return Number.isFinite(value);
  }
}
export function demand(check: Check, name: string, value: number): void {
  if (passes(check, value)) return;
  if (check === CHECKS.one) throw new LineError('badState', 1, `${name} is information and bears the value 1`);
  if (check === CHECKS.state) throw new LineError('badState', 1, `${name} is a state and bears the value 0 or 1`);
  if (check === CHECKS.finite) throw new LineError('badValue', 1, `${name} is a time and cannot be ${value}`);
  throw new LineError('counterValue', 1, `${name} counts up from 0; ${value} cannot be`);
}

/** Families whose metrics are several lines that must stand, and be right, together. */
export const isGrouped = ({ type }: Family): boolean =>
  type === 'histogram' || type === 'gaugehistogram' || type === 'summary' || type === 'stateset';

const labelOf = (labels: Labels, name: string) => labels.find(([known]) => known === name)?.[1];
const without = (labels: Labels, name: string) =>
  seriesKey(
    '',
    labels.filter(([known]) => known !== name),
  );

/** OpenMetrics 1.0, "Overall structure" and the sections on each type: what the lines of one metric are together. */
export class MetricGroups {
  private key: string | null = null;
  private readonly finished = new Set<string>();
  private family: Family | null = null;
  private line = 0;
  private at: EpochMs | null = null;
  private lastBound = Number.NEGATIVE_INFINITY;
  private lastCount = 0;
  private buckets = 0;
  private counted: number | null = null;
  private summed = false;
  private readonly problems: Problems;
  constructor(problems: Problems) {
    this.problems = problems;
  }

  /** Takes a line that is right for itself. Throws when it is wrong in its metric; answers whether its metric goes on. */
  add({
    family,
    ending,
    labels,
    value,
    at,
    line,
  }: {
    readonly family: Family;
    readonly ending: string;
    readonly labels: Labels;
    readonly value: number;
    readonly at: EpochMs | null;
    readonly line: number;
  }): void {
    const key = this.keyOf(family, ending, labels);
    if (family !== this.family || key !== this.key) {
      if (family !== this.family) this.leaveFamily();
      else this.leaveGroup();
      this.family = family;
      this.key = key;
      if (this.finished.delete(key))
        this.problems.report('interleaved', line, 1, `the lines of one metric of ${family.name} stand apart`);
    } else if (at !== this.at) this.leavePoint(true); // the same metric at another time
    this.at = at;
    this.line = line;
    if (ending === '_bucket') this.bucket(family, labels, value);
    else if (ending === '_count' || ending === '_gcount') this.counted = value;
    else if (ending === '_sum' || ending === '_gsum') this.summed = true;
  }
  private keyOf(family: Family, ending: string, labels: Labels): string {
    if (ending === '_bucket') {
      const bound = labelOf(labels, 'le');
      if (bound === undefined) throw new LineError('badBucket', 1, 'a bucket has a label “le” with its upper bound');
      const number = readNumber(bound);
      if (number === null || Number.isNaN(number))
        throw new LineError('badBucket', 1, `“${bound.slice(0, 40)}” is no upper bound of a bucket`);
      return without(labels, 'le');
    }
    if (family.type === 'summary' && ending === '') {
      const rank = readNumber(labelOf(labels, 'quantile') ?? '');
      if (rank === null || !(rank >= 0 && rank <= 1))
        throw new LineError('badQuantile', 1, 'a quantile has a label “quantile” between 0 and 1');
      return without(labels, 'quantile');
    }
    if (family.type === 'stateset') {
      if (labelOf(labels, family.name) === undefined)
        throw new LineError('badState', 1, `a state stands in a label called ${family.name}`);
      return without(labels, family.name);
    }
    return seriesKey('', labels);
  }
  private bucket(family: Family, labels: Labels, value: number): void {
    const bound = readNumber(labelOf(labels, 'le')!)!; // both looked at in keyOf
    if (bound <= this.lastBound && this.buckets > 0)
      this.problems.report('badHistogram', this.line, 1, `the buckets of ${family.name} do not stand in order`);
    else if (value < this.lastCount)
      this.problems.report('badHistogram', this.line, 1, `a bucket of ${family.name} holds less than a smaller one`);
    this.lastBound = bound;
    this.lastCount = value;
    this.buckets++;
  }
  private leaveGroup(): void {
    if (this.key !== null) this.finished.add(this.key);
    this.leavePoint();
    this.key = null;
  }
  /** A metric at one time is over: its lines are looked at together. */
  private leavePoint(another = false): void {
    const { family } = this;
    if (family && (family.type === 'histogram' || family.type === 'gaugehistogram')) {
      const wrong = (text: string) => this.problems.report('badHistogram', this.line, 1, `${family.name} ${text}`);
      const whole = this.buckets > 0 && this.lastBound === Number.POSITIVE_INFINITY;
      if (!whole && another)
        this.problems.report(
          'interleaved',
          this.line,
          1,
          `the lines of ${family.name} at one time stand apart: all of one time come together, then those of the next`,
        );
      else if (!whole) wrong('has no bucket up to +Inf');
      else if (this.counted !== null && this.counted !== this.lastCount) wrong('counts otherwise than its last bucket');
      if (this.summed && this.counted === null) wrong('has a sum but no count');
    }
    this.lastBound = Number.NEGATIVE_INFINITY;
    this.lastCount = 0;
    this.buckets = 0;
    this.counted = null;
    this.summed = false;
  }
  /** Another family begins, or the page ends. */
  leaveFamily(): void {
    this.leaveGroup();
    this.finished.clear();
    this.family = null;
  }
}
