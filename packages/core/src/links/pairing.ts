import type { Span } from '../spans/index.ts';
import { toTheEnd } from '../steps/index.ts';
import { type EpochMs, MINUTE, SECOND } from '../units/index.ts';
import { type Link, type LinkEnd, type LinkRequest, OUTSIDE, readPort } from './link.ts';
import { CALL } from './wire-names.ts';

/** Whom a call names, where no span of the answerer came. */
export interface Named {
  readonly service: string;
  readonly address: string;
  readonly port: string;
}
export interface FolderTools {
  /** Who is meant, by what was known then. Never null: what is not known is outside, by its name. */
  readonly named: (whom: Named, from: LinkEnd) => LinkEnd;
}
interface Held {
  readonly end: LinkEnd;
  readonly spanId: string;
  readonly parentId: string;
  readonly kind: Span['kind'];
  readonly at: EpochMs;
  readonly took: number;
  readonly failed: boolean;
  readonly unreached: boolean;
  readonly whom: Named;
  readonly caller: string;
  readonly protocol: string;
  readonly messages: number;
  readonly stands: number;
  done: boolean;
}
interface Trace {
  readonly spans: Map<string, Held>;
  lastAt: EpochMs;
}

/** Spans that are held until their other end is there, or the wait is over. */
export const MOST_HELD = 300_000;
/** An answerer whose caller has not come is counted alone after so long. */
const WAITS = 60 * SECOND;
/** What is folded is known for so long: a child may come late. */
const KNOWN_FOR = 2 * MINUTE;
const DEEPEST = 16;
const AT_ONCE = 200;
const UNREACHED = /refused|reset|unreachable|no.?route|connect|nobody answers/i;
const CALLS: ReadonlySet<Span['kind']> = new Set(['client', 'producer']);
const ANSWERS: ReadonlySet<Span['kind']> = new Set(['server', 'consumer']);

/** Puts callers' spans and their answerers' together, by parent: each request once for each side that told of it. */
export class LinkFolder {
  private readonly traces = new Map<string, Trace>();
  private held = 0;
  /** When the newest span that came ended, and when it came. */
  newest: { readonly endedAt: EpochMs; readonly cameAt: EpochMs } | null = null;
  /** Spans that were let go before their other end could come, as too many were held. */
  overflowed = 0;

  constructor(private readonly tools: FolderTools) {}

  add(end: LinkEnd, spans: readonly Span[], now: EpochMs): void {
    for (const span of spans) {
      const trace = this.traces.get(span.traceId) ?? { spans: new Map<string, Held>(), lastAt: now };
      this.traces.set(span.traceId, trace);
      trace.lastAt = now;
      this.newest = { endedAt: Math.max(this.newest?.endedAt ?? 0, span.at + span.took), cameAt: now };
      // the same span once more is one
      if (trace.spans.has(span.spanId)) continue;
      trace.spans.set(span.spanId, heldOf(end, span));
      this.held++;
    }
    while (this.held > MOST_HELD) {
      const [oldest] = this.traces;
      if (!oldest) return;
      this.overflowed += oldest[1].spans.size;
      this.letGo(oldest[0], oldest[1]);
    }
  }

  /** What ended before `until`, in the order of its minutes. */
  fold(until: EpochMs, now: EpochMs): LinkRequest[] {
    return toTheEnd(this.foldBySteps(until, now));
  }
  /** The same, some traces at a time; spans may come meanwhile. */
  *foldBySteps(until: EpochMs, now: EpochMs): Generator<void, LinkRequest[]> {
    const requests: LinkRequest[] = [];
    let looked = 0;
    for (const [id, trace] of this.traces) {
      if (++looked % AT_ONCE === 0) yield;
      const children = childrenOf(trace);
      const due = [...trace.spans.values()].filter((span) => !span.done && endOf(span) < until);
      // callers first: their answerers are counted with them
      for (const span of due) if (CALLS.has(span.kind)) this.foldOne({ trace, children, span, now }, requests);
      for (const span of due) if (!span.done) this.foldOne({ trace, children, span, now }, requests);
      const isOver = trace.lastAt < now - KNOWN_FOR;
      if (isOver && [...trace.spans.values()].every(({ done, kind }) => done || kind === 'internal'))
        this.letGo(id, trace);
      else if (trace.lastAt < now - 2 * KNOWN_FOR) this.letGo(id, trace);
    }
    return requests.sort((a, b) => a.minute - b.minute);
  }
  private letGo(id: string, { spans }: Trace): void {
    this.held -= spans.size;
    this.traces.delete(id);
  }
  private foldOne(
    {
      trace,
      children,
      span,
      now,
    }: {
      readonly trace: Trace;
      readonly children: ReadonlyMap<string, readonly Held[]>;
      readonly span: Held;
      readonly now: EpochMs;
    },
    requests: LinkRequest[],
  ): void {
    if (CALLS.has(span.kind)) {
      span.done = true;
      const answers = (children.get(span.spanId) ?? []).filter(({ kind }) => ANSWERS.has(kind));
      const first = answers[0];
      const link = linkOf(span.end, first?.end ?? this.tools.named(span.whom, span.end), span);
      if (link === null) {
        for (const answer of answers) answer.done = true;
        return;
      }
      const minute = minuteOf(endOf(span));
      requests.push(
        requestOf({ link, seenBy: 'caller', minute, span, refused: span.failed && !first && span.unreached }),
      );
      for (const answer of answers) {
        if (answer.done) continue;
        answer.done = true;
        const { own, calls } = workOf(answer, children);
        const through = span.kind === 'producer' ? { ...answer, took: Math.max(0, answer.at - endOf(span)) } : answer;
        requests.push({
          ...requestOf({ link, seenBy: 'answerer', minute, span: through, refused: false }),
          own,
          calls,
        });
      }
      return;
    }
    if (!ANSWERS.has(span.kind)) {
      span.done = true;
      return;
    }
    const parent = trace.spans.get(span.parentId);
    // whoever called ends later, or is to come: it is counted with that
    if (parent !== undefined && !parent.done && CALLS.has(parent.kind)) return;
    if (span.parentId !== '' && parent === undefined && endOf(span) > now - WAITS) return;
    span.done = true;
    const from =
      span.caller === '' ? OUTSIDE : this.tools.named({ service: '', address: span.caller, port: '' }, span.end);
    const link = linkOf(from.workload.startsWith('host:') ? OUTSIDE : from, span.end, span);
    if (link === null) return;
    const { own, calls } = workOf(span, children);
    requests.push({
      ...requestOf({ link, seenBy: 'answerer', minute: minuteOf(endOf(span)), span, refused: false }),
      own,
      calls,
    });
  }
}

const endOf = ({ at, took }: Pick<Held, 'at' | 'took'>): EpochMs => at + took;
const minuteOf = (at: EpochMs): EpochMs => Math.floor(at / MINUTE) * MINUTE;
function childrenOf({ spans }: Trace): Map<string, Held[]> {
  const children = new Map<string, Held[]>();
  for (const span of spans.values()) {
    const own = children.get(span.parentId) ?? [];
    own.push(span);
    children.set(span.parentId, own);
  }
  return children;
}
/** Null of what a program sends to itself. */
function linkOf(from: LinkEnd, to: LinkEnd, { whom, protocol }: Held): Link | null {
  if (from.cluster === to.cluster && from.namespace === to.namespace && from.workload === to.workload) return null;
  return { from, to, toService: whom.service || whom.address, protocol, port: whom.port };
}
const requestOf = ({
  link,
  seenBy,
  minute,
  span,
  refused,
}: {
  readonly link: Link;
  readonly seenBy: LinkRequest['seenBy'];
  readonly minute: EpochMs;
  readonly span: Held;
  readonly refused: boolean;
}): LinkRequest => ({
  link,
  seenBy,
  spanId: span.spanId,
  minute,
  failed: span.failed,
  refused,
  seconds: span.took / 1000,
  own: null,
  calls: 0,
  messages: span.messages * span.stands,
  seen: span.messages,
});
/** An answerer's time less what it waited for others, and how many it asked; steps within the program are looked through. */
function workOf(answer: Held, children: ReadonlyMap<string, readonly Held[]>): { own: number; calls: number } {
  const waits: [from: number, to: number][] = [];
  let calls = 0;
  const look = (id: string, depth: number): void => {
    if (depth > DEEPEST) return;
    for (const child of children.get(id) ?? []) {
      if (child.kind === 'client') waits.push([child.at, endOf(child)]);
      if (CALLS.has(child.kind)) calls++;
      else if (!ANSWERS.has(child.kind)) look(child.spanId, depth + 1);
    }
  };
  look(answer.spanId, 0);
  let waited = 0;
  let upTo = answer.at;
  for (const [from, to] of waits.sort((a, b) => a[0] - b[0])) {
    waited += Math.max(0, Math.min(to, endOf(answer)) - Math.max(from, upTo));
    upTo = Math.max(upTo, to);
  }
  return { own: Math.max(0, answer.took - waited) / 1000, calls };
}

const NAME = 253;
function heldOf(end: LinkEnd, span: Span): Held {
  let whom = { service: '', address: '', port: '' };
  let caller = '';
  let protocol = '';
  let messages = 1;
  let error = '';
  for (const [name, value] of span.fields)
    switch (name) {
      case CALL.peer:
        whom = { ...whom, service: value.slice(0, NAME) };
        break;
      case CALL.address:
        whom = { ...whom, address: value.slice(0, NAME) };
        break;
      case CALL.port:
        whom = { ...whom, port: readPort(value) };
        break;
      case CALL.caller:
        caller = value.slice(0, NAME);
        break;
      case CALL.http:
        protocol ||= 'http';
        break;
      case CALL.rpc:
        protocol = value.slice(0, 20);
        break;
      case CALL.base:
      case CALL.baseOld:
        protocol = 'data base';
        break;
      case CALL.queue:
      case CALL.queueName:
        protocol = 'queue';
        break;
      case CALL.messages:
        messages = Math.min(1_000_000, Math.max(1, Math.floor(Number(value)) || 1));
        break;
      case CALL.error:
        error = value;
        break;
    }
  return {
    end,
    spanId: span.spanId,
    parentId: span.parentId,
    kind: span.kind,
    at: span.at,
    took: span.took,
    failed: span.failed,
    unreached: UNREACHED.test(error) || UNREACHED.test(span.message),
    whom,
    caller,
    protocol: protocol || (span.kind === 'producer' || span.kind === 'consumer' ? 'queue' : ''),
    messages: span.kind === 'producer' || span.kind === 'consumer' ? messages : 1,
    stands: span.stands ?? 1,
    done: false,
  };
}
