import { Injectable } from '@nestjs/common';
import { ServerLog } from './logger.ts';
import { Clock } from './settings.ts';

const TOLD_FOR = 3_600_000; // ms
const KEPT = 20;

export interface Anew {
  readonly what: string;
  readonly why: string;
  readonly at: number;
  /** Times within the last hour. */
  readonly count: number;
}

/** Parts of Zetopsis that ended and were begun anew: the work goes on, and a person should know. */
@Injectable()
export class BegunAnew {
  private readonly parts = new Map<string, { why: string; times: number[] }>();
  constructor(
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  /** `what`: one of a few parts; `why`: what it said at its end. */
  note(what: string, why: string): void {
    const known = this.parts.get(what) ?? { why, times: [] };
    known.why = why;
    known.times = [...known.times, this.clock.now()].slice(-KEPT);
    this.parts.set(what, known);
    this.log.warning('begunAnew', why, { part: what });
  }
  /** Within the last hour, the newest first. */
  lately(): Anew[] {
    const since = this.clock.now() - TOLD_FOR;
    return [...this.parts]
      .flatMap(([what, { why, times }]) => {
        const own = times.filter((at) => at > since);
        const at = own.at(-1);
        return at === undefined ? [] : [{ what, why, at, count: own.length }];
      })
      .sort((a, b) => b.at - a.at);
  }
}
