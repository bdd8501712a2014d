import type { FamilyOut, SampleOut } from '../exposition/index.ts';
import { percentileOfBuckets } from '../statistics/index.ts';
import { type EpochMs, HOUR, MINUTE } from '../units/index.ts';
import { endKey, type Link, type LinkRequest, type SeenBy } from './link.ts';
import { LINK_METRICS } from './wire-names.ts';

/** Upper bounds of buckets, s: from a thousandth of a second to a minute, each √2 times the one before. */
export const LINK_BOUNDS: readonly number[] = Array.from({ length: 33 }, (_, i) =>
  Number((0.001 * 2 ** (i / 2)).toPrecision(4)),
);
/** As OpenMetrics writes them, the open one last. */
const BOUND_WORDS: readonly string[] = [
  ...LINK_BOUNDS.map((bound) => (Number.isInteger(bound) ? `${bound}.0` : `${bound}`)),
  '+Inf',
];
/** Links that are counted, each side by itself: their page stays within what a page may have. What comes after is one between others. */
const MOST_LINKS = 2000;
/** What carried nothing for longer leaves its place to others: it is gone by then, and begins anew. */
export const KEPT_FOR = 26 * HOUR;
const OTHERS: Link = {
  from: { cluster: '', namespace: '', workload: 'others' },
  to: { cluster: '', namespace: '', workload: 'others' },
  toService: '',
  protocol: '',
  port: '',
};

interface Own {
  readonly labels: Readonly<Record<string, string>>;
  requests: number;
  seen: number;
  failures: number;
  refused: number;
  seconds: number;
  readonly buckets: number[];
  own: number;
  calls: number;
  readonly answers: boolean;
  lastMinute: EpochMs;
}

/** What is told of lengths is of so many minutes. */
const LENGTHS_OVER = 5;
/** Bounds of their buckets: eight to a doubling, each 9 % longer than the one before. They are no series, so there may be many. */
const PER_DOUBLING = 8;
const LEAST = 0.001;
const LENGTH_BOUNDS: readonly number[] = [
  ...Array.from({ length: 16 * PER_DOUBLING + 1 }, (_, i) => LEAST * 2 ** (i / PER_DOUBLING)),
  Number.POSITIVE_INFINITY,
];
/** Which of them holds it; on a bound, whichever of both the computer's digits say. */
const lengthBucket = (seconds: number): number =>
  Math.min(
    LENGTH_BOUNDS.length - 1,
    Math.max(0, Math.ceil(Math.log2(Math.max(seconds, LEAST) / LEAST) * PER_DOUBLING)),
  );
/** Of two ends, by side, whatever goes between them: lengths of the last minutes, in buckets. */
interface Lengths {
  readonly labels: Readonly<Record<string, string>>;
  readonly minutes: Map<EpochMs, Float64Array>;
}

/** Requests of every link since the start, as its series tell them. */
export class LinkTotals {
  private readonly own = new Map<string, Own>();
  private readonly lengths = new Map<string, Lengths>();

  get size(): number {
    return this.own.size;
  }
  /** `minute`: the beginning of the one that it is told with. */
  add({ link, seenBy, failed, refused, seconds, own, calls, messages, seen }: LinkRequest, minute: EpochMs): void {
    const known = this.of(link, seenBy);
    known.lastMinute = Math.max(known.lastMinute, minute);
    known.requests += messages;
    known.seen += seen;
    if (failed) known.failures += messages;
    if (refused) known.refused += messages;
    known.seconds += seconds * messages;
    const at = LINK_BOUNDS.findIndex((bound) => seconds <= bound);
    const bucket = at < 0 ? LINK_BOUNDS.length : at;
    known.buckets[bucket]! += messages; // it has one for each, and one more
    this.lengthsOf(known, minute)[lengthBucket(seconds)]! += messages; // so have these
    known.own += own ?? 0;
    known.calls += calls;
  }
  private lengthsOf({ labels }: Own, minute: EpochMs): Float64Array {
    const { to_service: _service, protocol: _protocol, port: _port, ...ends } = labels;
    const key = JSON.stringify(Object.values(ends));
    const pair = this.lengths.get(key) ?? { labels: ends, minutes: new Map<EpochMs, Float64Array>() };
    this.lengths.set(key, pair);
    const own = pair.minutes.get(minute) ?? new Float64Array(LENGTH_BOUNDS.length);
    pair.minutes.set(minute, own);
    return own;
  }
  private of(link: Link, seenBy: SeenBy): Own {
    const key = JSON.stringify([endKey(link.from), endKey(link.to), link.toService, link.protocol, link.port, seenBy]);
    const known = this.own.get(key);
    if (known) return known;
    if (this.own.size >= MOST_LINKS && link !== OTHERS) return this.of(OTHERS, seenBy);
    const made: Own = {
      labels: labelsOf(link, seenBy),
      requests: 0,
      seen: 0,
      failures: 0,
      refused: 0,
      seconds: 0,
      buckets: LINK_BOUNDS.map(() => 0).concat(0),
      own: 0,
      calls: 0,
      answers: seenBy === 'answerer',
      lastMinute: 0,
    };
    this.own.set(key, made);
    return made;
  }
  /** As they are at the end of a minute. */
  families(at: EpochMs): FamilyOut[] {
    for (const [key, { lastMinute }] of this.own) if (lastMinute < at - KEPT_FOR) this.own.delete(key);
    for (const [key, { minutes }] of this.lengths) {
      for (const minute of minutes.keys()) if (minute < at - LENGTHS_OVER * MINUTE) minutes.delete(minute);
      if (minutes.size === 0) this.lengths.delete(key);
    }
    const all = [...this.own.values()];
    const counter = (name: string, help: string, some: readonly Own[], value: (own: Own) => number): FamilyOut => ({
      name,
      type: 'counter',
      unit: '',
      help,
      samples: some.map((own) => ({ labels: own.labels, value: value(own) })),
    });
    const answerers = all.filter(({ answers }) => answers);
    return [
      counter(
        LINK_METRICS.requests,
        'Requests from one workload to another, each try one.',
        all,
        ({ requests }) => requests,
      ),
      counter(
        LINK_METRICS.seen,
        'Those of which a span came: the others are scaled up by what their sender says.',
        all,
        ({ seen }) => seen,
      ),
      counter(LINK_METRICS.failures, 'Those that failed, as this side saw them.', all, ({ failures }) => failures),
      counter(LINK_METRICS.refused, 'Those that reached nobody.', all, ({ refused }) => refused),
      {
        name: LINK_METRICS.duration,
        type: 'histogram',
        unit: 'seconds',
        help: 'How long they took, as this side saw it.',
        samples: durationsOf(all),
      },
      {
        name: LINK_METRICS.nearlyAll,
        type: 'gauge',
        unit: 'seconds',
        help: 'What 95 of 100 stayed below over the last five minutes, whatever goes between both ends.',
        samples: [...this.lengths.values()].flatMap(nearlyAllOf),
      },
      {
        ...counter(
          LINK_METRICS.own,
          'Time of the answerer, less what it waited for others.',
          answerers,
          ({ own }) => own,
        ),
        unit: 'seconds',
      },
      counter(LINK_METRICS.calls, 'What the answerer itself called meanwhile.', answerers, ({ calls }) => calls),
    ];
  }
}
/** None where nothing was asked. */
function nearlyAllOf({ labels, minutes }: Lengths): SampleOut[] {
  const counts = new Float64Array(LENGTH_BOUNDS.length);
  let below = 0;
  for (const i of counts.keys()) {
    for (const own of minutes.values()) below += own[i]!; // it has one for each
    counts[i] = below;
  }
  const told = percentileOfBuckets(
    { bounds: LENGTH_BOUNDS, counts: (bound) => counts[bound]!, exponential: true }, // within them
    95,
  );
  return told === null ? [] : [{ labels, value: told.value }];
}
/** Made as they are written: there are many of them. */
function* durationsOf(all: readonly Own[]): Generator<SampleOut> {
  for (const { labels, buckets, requests, seconds } of all) {
    let below = 0;
    for (const [i, count] of buckets.entries()) {
      below += count;
      yield { ending: '_bucket', labels: { ...labels, le: BOUND_WORDS[i]! }, value: below }; // it has one for each, and one more
    }
    yield { ending: '_count', labels, value: requests };
    yield { ending: '_sum', labels, value: seconds };
  }
}
const labelsOf = ({ from, to, toService, protocol, port }: Link, seenBy: SeenBy): Record<string, string> => ({
  from_cluster: from.cluster,
  from_namespace: from.namespace,
  from_workload: from.workload,
  to_cluster: to.cluster,
  to_namespace: to.namespace,
  to_workload: to.workload,
  to_service: toService,
  protocol,
  port,
  seen_by: seenBy,
});
