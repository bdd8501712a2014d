import { PageMemory } from '@zetopsis/core/exposition';
import type { Clock } from '../../ground/platform/settings.ts';
import type { FetchedPage, FetchResult } from './fetched.ts';
import { type EndpointPlan, printOf } from './plans.ts';

export interface EndpointStatus {
  state: 'waiting' | 'read' | 'late' | 'failing' | 'paused' | 'retired';
  since: number;
  lastReadingAt: number | null;
  last: FetchedPage | null;
  lastAt: number | null;
  error: string | null;
  errorAt: number | null;
  nextDueAt: number | null;
}
export const freshStatus = (now: number, lastReadingAt: number | null): EndpointStatus => ({
  state: 'waiting',
  since: now,
  lastReadingAt,
  last: null,
  lastAt: null,
  error: null,
  errorAt: null,
  nextDueAt: null,
});

/** Never wait longer than this for one page, unless it was set. */
const LONGEST_TIMEOUT = 10_000;
export const timeoutFor = (intervalMs: number): number => Math.min(LONGEST_TIMEOUT, Math.max(500, intervalMs * 0.8));

/** Whatever brings an endpoint's readings. */
export interface Reads {
  readonly plan: EndpointPlan;
  readonly status: EndpointStatus;
  /** Of its pages, which differ in their values mostly. */
  readonly memory: PageMemory;
  /** Of the plan it was made for. */
  readonly print: string;
  /** The time that a reading will bear which is due already and not kept yet; null where none is awaited. */
  awaited(now: number): number | null;
  start(): void;
  stop(): void;
}

/** How a reading went, as the endpoint's state. */
export function noteResult(status: EndpointStatus, result: FetchResult, at: number): void {
  const state = result.ok ? 'read' : 'failing';
  if (status.state !== state) status.since = at;
  status.state = state;
  if (result.ok) {
    status.last = result.fetched;
    status.lastAt = at;
  } else {
    status.error = result.reason;
    status.errorAt = at;
  }
}

/** Reads one endpoint again and again at its own place in the interval, never twice at once. */
export class EndpointReader implements Reads {
  readonly status: EndpointStatus;
  readonly memory = new PageMemory();
  readonly print: string;
  private timer: NodeJS.Timeout | null = null;
  private stopped = false;
  /** When the reading that comes next, or is under way, is due; null while there is none. */
  private dueAt: number | null = null;
  private readonly phase: number;

  constructor(
    readonly plan: EndpointPlan,
    private readonly clock: Clock,
    private readonly fetch: (plan: EndpointPlan, timeoutMs: number) => Promise<FetchResult>,
    private readonly took: (plan: EndpointPlan, scheduledAt: number, result: FetchResult) => Promise<void>,
    lastReadingAt: number | null,
  ) {
    // endpoints are spread over the interval by their number: golden ratio steps leave no crowd
    this.phase = Math.floor(((plan.id * 0.618033988749895) % 1) * plan.intervalMs);
    const { id: _id, ...draft } = plan;
    this.print = printOf(draft);
    this.status = freshStatus(clock.now(), lastReadingAt);
  }

  start(): void {
    this.schedule();
  }
  stop(): void {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
    this.dueAt = null;
  }
  awaited(now: number): number | null {
    return this.dueAt !== null && this.dueAt <= now ? this.dueAt : null;
  }

  private schedule(): void {
    if (this.stopped) return;
    const { intervalMs } = this.plan;
    const now = this.clock.now();
    const due = Math.floor((now - this.phase) / intervalMs) * intervalMs + this.phase + intervalMs;
    this.status.nextDueAt = due;
    this.dueAt = due;
    this.timer = setTimeout(() => void this.readOnce(due), Math.max(0, due - now));
  }

  private async readOnce(due: number): Promise<void> {
    const { intervalMs, timeoutMs } = this.plan;
    const began = this.clock.now();
    const result = await this.fetch(this.plan, timeoutMs ?? timeoutFor(intervalMs));
    if (this.stopped) return;
    // the scheduled time is kept while the true one is within 1 % of the interval: equal steps pack best
    const at = Math.abs(began - due) <= intervalMs / 100 ? due : began;
    noteResult(this.status, result, began);
    await this.took(this.plan, at, result);
    this.schedule();
  }
}
