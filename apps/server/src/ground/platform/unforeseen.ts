import { Injectable } from '@nestjs/common';
import { ServerLog } from './logger.ts';
import { Clock } from './settings.ts';

/**
 * What nobody caught. It ends nothing: what is accepted is durable, and one request or reading that went wrong must not take
 * all others with it. It is counted, logged, and told on Now.
 */
@Injectable()
export class Unforeseen {
  count = 0;
  lastAt: number | null = null;
  constructor(
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  note(error: unknown): void {
    this.count++;
    this.lastAt = this.clock.now();
    this.log.failure('uncaught', error);
  }
  /** Within the last hour. */
  get lately(): number | null {
    return this.lastAt !== null && this.clock.now() - this.lastAt < 3_600_000 ? this.lastAt : null;
  }
}
