import { type FamilyOut, numberText, type SampleOut } from '../exposition/index.ts';
import { seriesKey } from '../series/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { boundsOf, type Exponential, joined } from './exponential.ts';
import { familyName, unitWord } from './names.ts';
import type { Point } from './readMetrics.ts';

/** What is counted on from one push to the next, of a sender that says only what came since. */
export interface Accumulated {
  /** The newest push that was counted, ms: one that is not newer was counted already. */
  readonly at: number;
  readonly sums: ReadonlyMap<string, number>;
  readonly exponentials: ReadonlyMap<string, Exponential>;
}
export const NOTHING_YET: Accumulated = { at: 0, sums: new Map(), exponentials: new Map() };
/** The same as it grows; one push changes little of it. */
export class CountedOn implements Accumulated {
  at: number;
  readonly sums: Map<string, number>;
  readonly exponentials: Map<string, Exponential>;
  constructor({ at, sums, exponentials }: Accumulated = NOTHING_YET) {
    this.at = at;
    this.sums = new Map(sums);
    this.exponentials = new Map(exponentials);
  }
  /** Once a push is kept. */
  take({ at, sums, exponentials }: Accumulated): void {
    this.at = at;
    for (const [key, sum] of sums) this.sums.set(key, sum);
    for (const [key, buckets] of exponentials) this.exponentials.set(key, buckets);
  }
}

/** Of one sender. Guards against labels that are others at each push: what is counted on is kept, and written each time. */
const MOST_COUNTED_ON = 20_000;

export interface PushedPage {
  readonly families: readonly FamilyOut[];
  /** What of it is counted on, and only that; null when nothing is. */
  readonly counted: Accumulated | null;
  readonly refused: number;
  /** Why the first of those was refused. */
  readonly problem: string | null;
}

/**
 * The points of one resource as metrics of a page: everything cumulative, a histogram as its parts. An exponential one is
 * kept at bounds of its own scale or a coarser one, where its counts are exact.
 */
export function pushedPage(points: readonly Point[], before: Accumulated): PushedPage {
  return toTheEnd(pushedPageBySteps(points, before));
}
/** The same, point by point. */
export function* pushedPageBySteps(points: readonly Point[], before: Accumulated): Generator<void, PushedPage> {
  const page = new PageOfPoints(points, before);
  for (const point of points) {
    yield;
    page.add(point);
  }
  return page.page();
}

type Pairs = readonly (readonly [string, string])[];
interface Own {
  readonly point: Point;
  readonly name: string;
  readonly pairs: Pairs;
  readonly samples: SampleOut[];
}

class PageOfPoints {
  private readonly families = new Map<string, { family: FamilyOut; samples: SampleOut[] }>();
  /** What this push changes: what was before is never walked. */
  private readonly sums = new Map<string, number>();
  private readonly exponentials = new Map<string, Exponential>();
  private readonly at: number;
  /** It was counted already: a push that was sent again. */
  private readonly again: boolean;
  private countedOn: number;
  private refused = 0;
  private problem: string | null = null;
  private counted = false;

  constructor(
    points: readonly Point[],
    private readonly before: Accumulated,
  ) {
    const at = points.reduce((newest, point) => Math.max(newest, point.at), 0);
    this.again = at <= before.at;
    this.at = Math.max(at, before.at);
    this.countedOn = before.sums.size + before.exponentials.size;
  }

  add(point: Point): void {
    const name = familyName(point.metric, point.unit);
    const type = typeOf(point);
    const known = this.families.get(name);
    if (known && known.family.type !== type) {
      this.refuse('a metric of this name stands there with another type already');
      return;
    }
    const pairs = Object.entries(point.labels).sort(([a], [b]) => (a < b ? -1 : 1));
    const isKnown = [name, `${name}_count`].some((part) => this.sumOf(seriesKey(part, pairs)) !== undefined);
    if (point.delta && this.countedOn >= MOST_COUNTED_ON && !isKnown) {
      this.refuse(
        `more than ${MOST_COUNTED_ON} series of this sender say only what came since; let it send sums, or fewer labels`,
      );
      return;
    }
    const entry = known ?? begun(name, type, point);
    this.families.set(name, entry);
    this.take({ point, name, pairs, samples: entry.samples });
  }
  page(): PushedPage {
    const { at, sums, exponentials, refused, problem } = this;
    return {
      families: [...this.families.values()].map(({ family, samples }) => ({ ...family, samples })),
      counted: this.counted ? { at, sums, exponentials } : null,
      refused,
      problem,
    };
  }

  private refuse(why: string): void {
    this.refused++;
    this.problem ??= why;
  }
  /** What a part of a point counts to by now. */
  private on({ point, name, pairs }: Own, part: string, value: number): number {
    if (!point.delta) return value;
    this.counted = true;
    const key = seriesKey(`${name}${part}`, pairs);
    const before = this.sumOf(key);
    if (before === undefined) this.countedOn++;
    if (this.again) return before ?? value;
    const sum = (before ?? 0) + value;
    this.sums.set(key, sum);
    return sum;
  }
  private sumOf(key: string): number | undefined {
    return this.sums.get(key) ?? this.before.sums.get(key);
  }
  private buckets(own: Own, bounds: readonly { bound: number; count: number }[], count: number): void {
    const { labels } = own.point;
    for (const { bound, count: below } of bounds)
      own.samples.push({ ending: '_bucket', labels: { ...labels, le: boundText(bound) }, value: below });
    own.samples.push({ ending: '_bucket', labels: { ...labels, le: '+Inf' }, value: count });
    own.samples.push({ ending: '_count', labels, value: count });
  }
  private sum(own: Own, sum: number | null): void {
    if (sum !== null) own.samples.push({ ending: '_sum', labels: own.point.labels, value: this.on(own, '_sum', sum) });
  }

  private take(own: Own): void {
    const { value, labels } = own.point;
    switch (value.is) {
      case 'number':
        own.samples.push({ labels, value: this.on(own, '', value.value) });
        break;
      case 'histogram': {
        let below = 0;
        const bounds = value.bounds.map((bound, i) => {
          below += value.counts[i]!; // one more count than bounds
          return { bound, count: this.on(own, `_bucket ${bound}`, below) };
        });
        const count = this.on(own, '_count', below + (value.counts.at(-1) ?? 0));
        this.buckets(
          own,
          bounds.filter(({ bound }) => Number.isFinite(bound)),
          count,
        );
        this.sum(own, value.sum);
        break;
      }
      case 'exponential':
        this.buckets(own, boundsOf(this.joinedOn(own, value.buckets)), this.on(own, '_count', value.count));
        this.sum(own, value.sum);
        break;
      case 'summary':
        for (const { quantile, value: at } of value.quantiles)
          own.samples.push({ labels: { ...labels, quantile: boundText(quantile) }, value: at });
        own.samples.push({ ending: '_count', labels, value: value.count });
        own.samples.push({ ending: '_sum', labels, value: value.sum });
        break;
    }
  }
  private joinedOn({ point, name, pairs }: Own, buckets: Exponential): Exponential {
    if (!point.delta) return buckets;
    const key = seriesKey(name, pairs);
    const held = this.exponentials.get(key) ?? this.before.exponentials.get(key);
    this.counted = true;
    if (held === undefined) this.countedOn++;
    const joint = held === undefined ? buckets : this.again ? held : joined(held, buckets);
    this.exponentials.set(key, joint);
    return joint;
  }
}

/** The canonical form of a bound (OpenMetrics 1.0, "Considerations: Canonical Numbers"): a whole number has its point. */
const boundText = (bound: number) =>
  Number.isInteger(bound) && Math.abs(bound) < 1e15 ? `${bound}.0` : numberText(bound);

function typeOf({ value, counts }: Point): FamilyOut['type'] {
  switch (value.is) {
    case 'number':
      return counts ? 'counter' : 'gauge';
    case 'histogram':
    case 'exponential':
      return 'histogram';
    case 'summary':
      return 'summary';
  }
}
function begun(name: string, type: FamilyOut['type'], { unit, help }: Point) {
  const word = unitWord(unit);
  return { family: { name, type, unit: name.endsWith(`_${word}`) ? word : '', help, samples: [] }, samples: [] };
}
