import { PageMemory } from '@zetopsis/core/exposition';
import type { Clock } from '../../ground/platform/settings.ts';
import { freshStatus, type Reads } from './endpointReader.ts';
import { type EndpointPlan, printOf } from './plans.ts';

/** Who pushes: an endpoint that is not asked. */
export class PushedSender implements Reads {
  readonly status: Reads['status'];
  readonly memory = new PageMemory();
  readonly print: string;

  constructor(
    readonly plan: EndpointPlan,
    clock: Clock,
    lastReadingAt: number | null,
  ) {
    const { id: _id, ...draft } = plan;
    this.print = printOf(draft);
    this.status = freshStatus(clock.now(), lastReadingAt);
  }
  awaited(): null {
    return null; // when it comes is not known
  }
  start(): void {
    // it comes by itself
  }
  stop(): void {
    // nothing is under way
  }
}
