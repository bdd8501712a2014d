import type { FamilyOut, SampleOut } from '../exposition/index.ts';
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
  failures: number;
  refused: number;
  seconds: number;
  readonly buckets: number[];
  own: number;
  calls: number;
  readonly answers: boolean;
}

/** Requests of every link since the start, as its series tell them. */
export class LinkTotals {
  private readonly own = new Map<string, Own>();

  get size(): number {
    return this.own.size;
  }
  add({ link, seenBy, failed, refused, seconds, own, calls, messages }: LinkRequest): void {
    const known = this.of(link, seenBy);
    known.requests += messages;
    if (failed) known.failures += messages;
    if (refused) known.refused += messages;
    known.seconds += seconds * messages;
    const at = LINK_BOUNDS.findIndex((bound) => seconds <= bound);
    known.buckets[at < 0 ? LINK_BOUNDS.length : at]! += messages; // it has one for each, and one more
    known.own += own ?? 0;
    known.calls += calls;
  }
  private of(link: Link, seenBy: SeenBy): Own {
    const key = JSON.stringify([endKey(link.from), endKey(link.to), link.toService, link.protocol, link.port, seenBy]);
    const known = this.own.get(key);
    if (known) return known;
    if (this.own.size >= MOST_LINKS && link !== OTHERS) return this.of(OTHERS, seenBy);
    const made: Own = {
      labels: labelsOf(link, seenBy),
      requests: 0,
      failures: 0,
      refused: 0,
      seconds: 0,
      buckets: LINK_BOUNDS.map(() => 0).concat(0),
      own: 0,
      calls: 0,
      answers: seenBy === 'answerer',
    };
    this.own.set(key, made);
    return made;
  }
  families(): FamilyOut[] {
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
