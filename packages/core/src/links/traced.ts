import type { Span } from '../spans/index.ts';
import { type EpochMs, SECOND } from '../units/index.ts';
import { type LinkEnd, type LinkRequest, pairKey } from './link.ts';
import { type FolderTools, LinkFolder } from './pairing.ts';

/** A whole trace, as far as it is kept. */
export interface LinkTrace {
  readonly traceId: string;
  /** For how many it stands. */
  readonly weight: number;
  /** `pod`: empty where none told them. */
  readonly spans: readonly { readonly end: LinkEnd; readonly pod: string; readonly span: Span }[];
}
/** One request of a link with the trace that it is of. */
export interface TracedRequest {
  readonly traceId: string;
  /** When it began by its caller's clock, else its answerer's. */
  readonly at: EpochMs;
  /** As the answerer calls what it did; where nothing came of it, as the caller calls what it asked for. */
  readonly operation: string;
  readonly seconds: number;
  readonly failed: boolean;
}
export interface TracedOperation {
  readonly operation: string;
  /** Scaled up from what is kept. */
  readonly requests: number;
  readonly failedShare: number;
  /** s: 95 of 100 within. */
  readonly nearlyAll: number;
}
/** From one pod to another. */
export interface TracedWay extends Omit<TracedOperation, 'operation'> {
  /** Empty: that is not told, or no pod. */
  readonly from: string;
  readonly to: string;
}
/** What goes over one link, as whole traces tell. */
export interface TracedLink {
  readonly requests: number;
  /** Of what people started (traces that begin with an answer to somebody outside): in how many it had a part. */
  readonly people: number;
  /** The most frequent first. */
  readonly operations: readonly TracedOperation[];
  /** The most frequent first; those beyond the 300 that came first are in none. */
  readonly ways: readonly TracedWay[];
  readonly slowest: readonly TracedRequest[];
  /** The newest first. */
  readonly failed: readonly TracedRequest[];
}
export interface TracedLinks {
  /** By the key of their pair. */
  readonly links: ReadonlyMap<string, TracedLink>;
  /** Traces that people started, scaled up. */
  readonly people: number;
}

const EXAMPLES = 4;
const MOST_OPERATIONS = 200;
const MOST_WAYS = 300;
const NEARLY_ALL = 0.95;
interface Counted {
  weight: number;
  failed: number;
  readonly lengths: [number, number][];
}
interface Gathered {
  people: number;
  requests: number;
  readonly operations: Map<string, Counted>;
  /** By the pod of the caller, and that of the answerer. */
  readonly ways: Map<string, Map<string, Counted>>;
  waysKnown: number;
  readonly all: TracedRequest[];
  lastTrace: string;
}

/**
 * Which links whole traces went over, by operation, with examples. A request that both sides told of is one, and counts as its
 * caller saw it. Operations beyond the 200 of a link that came first are "others".
 */
export class LinkTracing {
  private readonly links = new Map<string, Gathered>();
  private people = 0;
  constructor(private readonly tools: FolderTools) {}

  add({ traceId, weight, spans }: LinkTrace): void {
    const begun = startedByPeople(spans) * weight;
    this.people += begun;
    for (const { request, traced, way } of requestsOf({ traceId, spans }, this.tools)) {
      const key = pairKey(request.link);
      const own = this.links.get(key) ?? {
        people: 0,
        requests: 0,
        operations: new Map<string, Counted>(),
        ways: new Map<string, Map<string, Counted>>(),
        waysKnown: 0,
        all: [],
        lastTrace: '',
      };
      this.links.set(key, own);
      if (own.lastTrace !== traceId) own.people += begun;
      own.lastTrace = traceId;
      add(own, traced, weight * request.messages);
      addWay(own, way, traced, weight * request.messages);
    }
  }
  /** Some links at a time. */
  *toldBySteps(): Generator<void, TracedLinks> {
    const links = new Map<string, TracedLink>();
    for (const [key, own] of this.links) {
      links.set(key, linkOf(own));
      yield;
    }
    return { links, people: this.people };
  }
}
function add(own: Gathered, traced: TracedRequest, weight: number): void {
  own.requests += weight;
  own.all.push(traced);
  const known = own.operations.has(traced.operation) || own.operations.size < MOST_OPERATIONS;
  const name = known ? traced.operation : 'others';
  own.operations.set(name, count(own.operations.get(name), traced, weight));
}
function addWay(own: Gathered, { from, to }: Way, traced: TracedRequest, weight: number): void {
  const ways = own.ways.get(from) ?? new Map<string, Counted>();
  const known = ways.get(to);
  if (!known && own.waysKnown >= MOST_WAYS) return;
  if (!known) own.waysKnown++;
  own.ways.set(from, ways);
  ways.set(to, count(known, traced, weight));
}
function count(known: Counted | undefined, { failed, seconds }: TracedRequest, weight: number): Counted {
  const own = known ?? { weight: 0, failed: 0, lengths: [] };
  own.weight += weight;
  if (failed) own.failed += weight;
  own.lengths.push([seconds, weight]);
  return own;
}
const figuresOf = ({ weight, failed, lengths }: Counted) => ({
  requests: weight,
  failedShare: failed / weight,
  nearlyAll: within(lengths, NEARLY_ALL),
});
function linkOf({ people, requests, operations, ways, all }: Gathered): TracedLink {
  return {
    requests,
    people,
    operations: [...operations]
      .map(([operation, counted]) => ({ operation, ...figuresOf(counted) }))
      .sort((a, b) => b.requests - a.requests),
    ways: [...ways]
      .flatMap(([from, others]) => [...others].map(([to, counted]) => ({ from, to, ...figuresOf(counted) })))
      .sort((a, b) => b.requests - a.requests),
    slowest: all.toSorted((a, b) => b.seconds - a.seconds).slice(0, EXAMPLES),
    failed: all
      .filter(({ failed }) => failed)
      .sort((a, b) => b.at - a.at)
      .slice(0, EXAMPLES),
  };
}
/** The least length within which a share of all lies. */
function within(lengths: readonly (readonly [number, number])[], share: number): number {
  const sorted = lengths.toSorted((a, b) => a[0] - b[0]);
  let left = share * sorted.reduce((sum, [, weight]) => sum + weight, 0);
  for (const [length, weight] of sorted) {
    left -= weight;
    if (left <= 1e-9) return length;
  }
  return sorted.at(-1)?.[0] ?? 0;
}
/** For how many a trace stands by what its sender left out; 0 of what no person began: work of its own, or of which the beginning is missing. */
function startedByPeople(spans: LinkTrace['spans']): number {
  const root = spans.find(({ span }) => span.parentId === '');
  return root?.span.kind === 'server' ? (root.span.stands ?? 1) : 0;
}
interface Way {
  readonly from: string;
  readonly to: string;
}
interface Asked {
  readonly request: LinkRequest;
  readonly traced: TracedRequest;
  readonly way: Way;
}
/** Each request once: as its caller told it, else as its answerer did. */
function requestsOf({ traceId, spans }: Pick<LinkTrace, 'traceId' | 'spans'>, tools: FolderTools): Asked[] {
  const folder = new LinkFolder(tools);
  for (const { end, span } of spans) folder.add(end, [span], 0);
  const requests = folder.fold(Number.POSITIVE_INFINITY, Number.MAX_SAFE_INTEGER);
  const asked = new Set(requests.flatMap(({ seenBy, spanId }) => (seenBy === 'caller' ? [spanId] : [])));
  const byId = new Map(spans.map((one) => [one.span.spanId, one]));
  const answers = new Map(
    spans.flatMap((one) =>
      one.span.kind === 'server' || one.span.kind === 'consumer' ? [[one.span.parentId, one] as const] : [],
    ),
  );
  return requests.flatMap((request): Asked[] => {
    const own = byId.get(request.spanId);
    if (!own || (request.seenBy === 'answerer' && asked.has(own.span.parentId))) return [];
    const { span } = own;
    const answer = request.seenBy === 'caller' ? answers.get(span.spanId) : undefined;
    const traced = {
      traceId,
      at: span.at,
      operation: (answer?.span ?? span).name,
      seconds: span.took / SECOND,
      failed: request.failed,
    };
    const way = request.seenBy === 'caller' ? { from: own.pod, to: answer?.pod ?? '' } : { from: '', to: own.pod };
    return [{ request, traced, way }];
  });
}
