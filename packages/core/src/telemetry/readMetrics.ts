import { asWire, child, has, text, type Wire } from '../inventory/wireReader.ts';
import { toTheEnd } from '../steps/index.ts';
import { type Buckets, type Exponential, HIGHEST_SCALE, holdsDoubles, LOWEST_SCALE } from './exponential.ts';
import { labelName } from './names.ts';
import { attributesOf, BadPart, Guarded, items, nanos, number, whole } from './requestParts.ts';
import { FIELD, IDENTIFYING, NO_VALUE_FLAG, TEMPORALITY } from './wire-names.ts';

/** What one point says. */
export type PointValue =
  | { readonly is: 'number'; readonly value: number }
  | {
      readonly is: 'histogram';
      readonly bounds: readonly number[];
      /** One more than bounds. */
      readonly counts: readonly number[];
      readonly sum: number | null;
    }
  | { readonly is: 'exponential'; readonly buckets: Exponential; readonly sum: number | null; readonly count: number }
  | {
      readonly is: 'summary';
      readonly quantiles: readonly { readonly quantile: number; readonly value: number }[];
      readonly sum: number;
      readonly count: number;
    };
export interface Point {
  readonly metric: string;
  readonly unit: string;
  readonly help: string;
  readonly labels: Readonly<Record<string, string>>;
  /** Only grows, but for resets. */
  readonly counts: boolean;
  /** Says what came since the point before, not what came in all. */
  readonly delta: boolean;
  /** ms. */
  readonly at: number;
  readonly value: PointValue;
}
/** One sender: a process, a host. */
export interface PushedResource {
  /** What tells it from others of the same key, for people to read. */
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly points: readonly Point[];
}
export interface PushedMetrics {
  readonly resources: readonly PushedResource[];
  readonly refused: number;
  /** Why the first of those was refused. */
  readonly problem: string | null;
}

/** Guards against a sender whose payload would fill the memory: it is somebody else's program. */
export interface PushLimits {
  readonly points: number;
  readonly resources: number;
  readonly labels: number;
  readonly buckets: number;
}
export const DEFAULT_PUSH_LIMITS: PushLimits = { points: 100_000, resources: 200, labels: 64, buckets: 10_000 };

/** Keys that become the same label are put together in their order, as the protocol's mapping to OpenMetrics says. */
function labelsOf(attributes: readonly (readonly [string, string])[]): Record<string, string> {
  const out: Record<string, string> = {};
  for (const [key, value] of [...attributes].sort(([a], [b]) => (a < b ? -1 : 1))) {
    const name = labelName(key);
    out[name] = out[name] === undefined ? value : `${out[name]};${value}`;
  }
  return out;
}

function bucketsOf(wire: Wire, scale: number, limits: PushLimits): Buckets {
  const counts = items(wire, FIELD.counts, limits.buckets).map((_, i, all) =>
    whole({ count: all[i] } as Wire, 'count'),
  );
  const sent = number(wire, FIELD.offset) ?? 0;
  if (!Number.isInteger(sent)) throw new BadPart('an offset is no whole number');
  // buckets at the ends that count nothing say nothing
  const first = counts.findIndex((count) => count > 0);
  if (first < 0) return { offset: 0, counts: [] };
  const buckets = { offset: sent + first, counts: counts.slice(first, counts.findLastIndex((count) => count > 0) + 1) };
  if (!holdsDoubles(scale, buckets)) throw new BadPart('an offset lies outside the range of doubles');
  return buckets;
}

function pointValue(kind: string, wire: Wire, limits: PushLimits): PointValue {
  if (kind === FIELD.gauge || kind === FIELD.sum) {
    const value = number(wire, FIELD.asDouble) ?? number(wire, FIELD.asInt);
    if (value === null) throw new BadPart('a point has no value');
    return { is: 'number', value };
  }
  const sum = has(wire, FIELD.total) ? number(wire, FIELD.total) : null;
  if (kind === FIELD.histogram) {
    const bounds = items(wire, FIELD.bounds, limits.buckets).map(Number);
    const counts = items(wire, FIELD.counts, limits.buckets + 1).map((_, i, all) =>
      whole({ count: all[i] } as Wire, 'count'),
    );
    if (counts.length === 0) return { is: 'histogram', bounds: [], counts: [whole(wire, FIELD.count)], sum };
    if (counts.length !== bounds.length + 1) throw new BadPart('a histogram has not one count more than bounds');
    if (bounds.some((bound, i) => Number.isNaN(bound) || (i > 0 && bound <= bounds[i - 1]!)))
      throw new BadPart('the bounds of a histogram do not ascend');
    return { is: 'histogram', bounds, counts, sum };
  }
  if (kind === FIELD.exponential) {
    const scale = number(wire, FIELD.scale) ?? 0;
    if (!Number.isInteger(scale) || scale < LOWEST_SCALE || scale > HIGHEST_SCALE)
      throw new BadPart('the scale of an exponential histogram is not between −10 and 20');
    return {
      is: 'exponential',
      buckets: {
        scale,
        zeroCount: whole(wire, FIELD.zeroCount),
        zeroThreshold: whole(wire, FIELD.zeroThreshold),
        positive: bucketsOf(child(wire, FIELD.positive), scale, limits),
        negative: bucketsOf(child(wire, FIELD.negative), scale, limits),
      },
      sum,
      count: whole(wire, FIELD.count),
    };
  }
  return {
    is: 'summary',
    quantiles: items(wire, FIELD.quantiles, 100).map((one) => ({
      quantile: number(asWire(one), FIELD.quantile) ?? Number.NaN,
      value: number(asWire(one), FIELD.value) ?? Number.NaN,
    })),
    sum: sum ?? 0,
    count: whole(wire, FIELD.count),
  };
}
/** A point as it was sent; undefined where it says that it has no value. */
function pointOf(
  { metric, kind, limits }: { readonly metric: Wire; readonly kind: string; readonly limits: PushLimits },
  wire: Wire,
): Point | undefined {
  const name = text(metric, FIELD.name);
  if (name === '' || name.length > 255) throw new BadPart('a metric has no name, or one of more than 255 letters');
  if (((number(wire, FIELD.flags) ?? 0) & NO_VALUE_FLAG) !== 0) return undefined;
  const holder = child(metric, kind);
  const temporality = number(holder, FIELD.temporality) ?? 0;
  const additive = kind === FIELD.sum || kind === FIELD.histogram || kind === FIELD.exponential;
  if (additive && temporality !== TEMPORALITY.delta && temporality !== TEMPORALITY.cumulative)
    throw new BadPart(`${name} says neither that it is cumulative nor that it is not`);
  return {
    metric: name,
    unit: text(metric, FIELD.unit).slice(0, 63),
    help: text(metric, FIELD.help).slice(0, 500),
    labels: labelsOf(attributesOf(wire, limits.labels)),
    counts:
      kind !== FIELD.gauge &&
      !(kind === FIELD.sum && metric[FIELD.sum] !== undefined && holder[FIELD.monotonic] !== true),
    delta: additive && temporality === TEMPORALITY.delta,
    at: nanos(wire, FIELD.time),
    value: pointValue(kind, wire, limits),
  };
}
const KINDS = [FIELD.gauge, FIELD.sum, FIELD.histogram, FIELD.exponential, FIELD.summary] as const;

/** Points of a metrics request of the open telemetry protocol. A bad point costs that point; a request without any is empty. */
export function readMetrics(request: unknown, limits: PushLimits = DEFAULT_PUSH_LIMITS): PushedMetrics {
  return toTheEnd(readMetricsBySteps(request, limits));
}
/** The same, point by point: a hundred thousand of them take a while. */
export function* readMetricsBySteps(
  request: unknown,
  limits: PushLimits = DEFAULT_PUSH_LIMITS,
): Generator<void, PushedMetrics> {
  const parts = new Guarded();
  let points = 0;
  const resources: PushedResource[] = [];
  for (const foreign of parts.try(() => items(asWire(request), FIELD.resources, limits.resources)) ?? []) {
    const wire = asWire(foreign);
    const attributes = parts.try(() => attributesOf(child(wire, FIELD.resource), 256)) ?? [];
    const known = new Map(attributes);
    const identity = IDENTIFYING.flatMap((key): [string, string][] => {
      const value = known.get(key);
      return value === undefined || value === '' ? [] : [[key, value]];
    });
    const own: Point[] = [];
    for (const scope of parts.try(() => items(wire, FIELD.scopes, 1000)) ?? [])
      for (const foreignMetric of parts.try(() => items(asWire(scope), FIELD.metrics, 20_000)) ?? []) {
        const metric = asWire(foreignMetric);
        const kind = KINDS.find((one) => has(metric, one));
        yield;
        if (kind === undefined) continue;
        for (const foreignPoint of parts.try(() => items(child(metric, kind), FIELD.points, limits.points)) ?? []) {
          const point = parts.try(() => {
            if (++points > limits.points) throw new BadPart(`more than ${limits.points} points at once`);
            return pointOf({ metric, kind, limits }, asWire(foreignPoint));
          });
          if (point) own.push(point);
          yield;
        }
      }
    resources.push({
      name:
        identity
          .map(([, value]) => value)
          .join(' ')
          .slice(0, 200) || 'unnamed',
      labels: labelsOf(identity),
      points: own,
    });
  }
  return { resources, refused: parts.refused, problem: parts.problem };
}
