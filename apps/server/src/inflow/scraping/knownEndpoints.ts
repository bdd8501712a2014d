import { Injectable } from '@nestjs/common';
import type { Page } from '@zetopsis/core/exposition';
import { CLOCK_AHEAD } from '@zetopsis/core/findings';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import type { EndpointStatus, Reads } from './endpointReader.ts';
import type { EndpointPlan } from './plans.ts';

/** An endpoint with how it goes: one that is read, or one that is not (any more). */
export interface OwnEndpoint {
  readonly plan: EndpointPlan;
  readonly status: EndpointStatus;
}

/** The endpoints there are: those that are read, and those that are known and not read. */
@Injectable()
export class KnownEndpoints {
  readonly readers = new Map<number, Reads>();
  /** Somebody wanted it so, or what it was of is gone. */
  readonly idle = new Map<number, OwnEndpoint>();
  /** Whose an endpoint is, also one that is read no more. */
  readonly connectionOf = new Map<number, string>();

  get(id: number): OwnEndpoint | undefined {
    return this.readers.get(id) ?? this.idle.get(id);
  }
  *all(): Generator<OwnEndpoint> {
    yield* this.readers.values();
    yield* this.idle.values();
  }
  /** The readers of nodes' pages of these connections. */
  *nodesOf(...connectionIds: readonly string[]): Generator<Reads> {
    for (const reader of this.readers.values())
      if (reader.plan.kind === 'node' && connectionIds.includes(reader.plan.connectionId ?? '')) yield reader;
  }

  /** How far the clocks of a cluster's nodes are ahead of ours, as far as the newest pages bear times of their own. */
  skewsOf(connectionId: string): ReadonlyMap<string, DurationMs> {
    const skews = new Map<string, DurationMs>();
    for (const { plan, status } of this.nodesOf(connectionId)) {
      const newest = status.last?.page.times && newestOf(status.last.page.times);
      if (status.lastAt !== null && newest != null) skews.set(plan.name, newest - status.lastAt);
    }
    return skews;
  }
}

function newestOf(times: Float64Array): EpochMs | null {
  let newest: EpochMs | null = null;
  for (const time of times) if (!Number.isNaN(time) && (newest === null || time > newest)) newest = time;
  return newest;
}
/**
 * Nothing is measured after it was read: where a page says so, its clock is wrong, and its times are not followed. Else what it says
 * now would stand among what it says once its clock is set right, and counters would seem to start again and again.
 */
export function atItsReading<P extends Pick<Page, 'times'>>(page: P, at: EpochMs): P {
  const newest = page.times && newestOf(page.times);
  return newest !== null && newest > at + CLOCK_AHEAD ? { ...page, times: null } : page;
}
