import { Injectable } from '@nestjs/common';
import type { EpochMs } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { databaseProblem } from '../../ground/platform/databaseProblem.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock } from '../../ground/platform/settings.ts';

/** What PostgreSQL did not take: rows of the journal, or numbers of series. */
type What = 'journal' | 'series';

/** Whether PostgreSQL takes what is read; said once when it ends and once when it begins again. */
@Injectable()
export class DatabaseTroubles {
  private readonly problems = new Map<What, { text: string; since: EpochMs }>();
  constructor(
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  get problem(): { readonly text: string; readonly since: EpochMs } | null {
    return this.problems.get('journal') ?? this.problems.get('series') ?? null;
  }
  has(what: What): boolean {
    return this.problems.has(what);
  }
  away(what: What, error: unknown, waiting: number): void {
    const since = this.problems.get(what)?.since;
    if (since === undefined) this.log.failure('readingsNotWritten', error, { what, waiting });
    this.problems.set(what, { text: databaseProblem(error), since: since ?? this.clock.now() });
    this.live.touch('sources');
  }
  back(what: What): void {
    if (!this.problems.delete(what)) return;
    this.log.note('readingsWritten', `PostgreSQL takes readings again (${what})`);
    this.live.touch('sources');
  }
}
