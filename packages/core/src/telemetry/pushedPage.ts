import { type FamilyOut, numberText, type SampleOut } from '../exposition/index.ts';
import { seriesKey } from '../series/index.ts';
import { boundsOf, type Exponential, joined } from './exponential.ts';
import { familyName, unitWord } from './names.ts';
import { type Point, toTheEnd } from './readMetrics.ts';

/** What is counted on from one push to the next, of a sender that says only what came since. Plain data: it is kept. */
export interface Accumulated {
  /** The newest push that was counted, ms: one that is not newer was counted already. */
  readonly at: number;
  readonly sums: Readonly<Record<string, number>>;
  readonly exponentials: Readonly<Record<string, Exponential>>;
}
export const NOTHING_YET: Accumulated = { at: 0, sums: {}, exponentials: {} };

/** Of one sender. Guards against labels that are others at each push: what is counted on is kept, and written each time. */
const MOST_COUNTED_ON = 20_000;

export interface PushedPage {
  readonly families: readonly FamilyOut[];
  /** Null when nothing of it is counted on. */
  readonly accumulated: Accumulated | null;
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
  const families = new Map<string, { family: FamilyOut; samples: SampleOut[] }>();
  const sums: Record<string, number> = { ...before.sums };
  const exponentials: Record<string, Exponential> = { ...before.exponentials };
  const at = points.reduce((newest, point) => Math.max(newest, point.at), 0);
  const again = at <= before.at;
  let countedOn = Object.keys(sums).length + Object.keys(exponentials).length;
  let refused = 0;
  let problem: string | null = null;
  let counted = false;
  const refuse = (why: string) => {
    refused++;
    problem ??= why;
  };

  for (const point of points) {
    yield;
    const name = familyName(point.metric, point.unit);
    const type = typeOf(point);
    const known = families.get(name);
    if (known && known.family.type !== type) {
      refuse('a metric of this name stands there with another type already');
      continue;
    }
    const pairs = Object.entries(point.labels).sort(([a], [b]) => (a < b ? -1 : 1));
    const isKnown = [name, `${name}_count`].some((part) => sums[seriesKey(part, pairs)] !== undefined);
    if (point.delta && countedOn >= MOST_COUNTED_ON && !isKnown) {
      refuse(
        `more than ${MOST_COUNTED_ON} series of this sender say only what came since; let it send sums, or fewer labels`,
      );
      continue;
    }
    const entry = known ?? begun(name, type, point);
    families.set(name, entry);
    const on = (part: string, value: number): number => {
      if (!point.delta) return value;
      counted = true;
      const key = seriesKey(`${name}${part}`, pairs);
      if (sums[key] === undefined) countedOn++;
      if (!again) sums[key] = (sums[key] ?? 0) + value;
      return sums[key] ?? value;
    };
    const parts = (bounds: readonly { bound: number; count: number }[], count: number, sum: number | null) => {
      for (const { bound, count: below } of bounds)
        entry.samples.push({ ending: '_bucket', labels: { ...point.labels, le: boundText(bound) }, value: below });
      entry.samples.push({ ending: '_bucket', labels: { ...point.labels, le: '+Inf' }, value: count });
      entry.samples.push({ ending: '_count', labels: point.labels, value: count });
      if (sum !== null) entry.samples.push({ ending: '_sum', labels: point.labels, value: on('_sum', sum) });
    };

    const { value } = point;
    switch (value.is) {
      case 'number':
        entry.samples.push({ labels: point.labels, value: on('', value.value) });
        break;
      case 'histogram': {
        let below = 0;
        const bounds = value.bounds.map((bound, i) => {
          below += value.counts[i]!;
          return { bound, count: on(`_bucket ${bound}`, below) };
        });
        const count = on('_count', below + (value.counts.at(-1) ?? 0));
        parts(
          bounds.filter(({ bound }) => Number.isFinite(bound)),
          count,
          value.sum,
        );
        break;
      }
      case 'exponential': {
        const key = seriesKey(name, pairs);
        const held = exponentials[key];
        let own = value.buckets;
        if (point.delta) {
          counted = true;
          if (held) own = again ? held : joined(held, own);
          if (held === undefined) countedOn++;
          exponentials[key] = own;
        }
        parts(boundsOf(own), on('_count', value.count), value.sum);
        break;
      }
      case 'summary':
        for (const { quantile, value: at_ } of value.quantiles)
          entry.samples.push({ labels: { ...point.labels, quantile: boundText(quantile) }, value: at_ });
        entry.samples.push({ ending: '_count', labels: point.labels, value: value.count });
        entry.samples.push({ ending: '_sum', labels: point.labels, value: value.sum });
        break;
    }
  }
  return {
    families: [...families.values()].map(({ family, samples }) => ({ ...family, samples })),
    accumulated: counted ? { at: Math.max(at, before.at), sums, exponentials } : null,
    refused,
    problem,
  };
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
