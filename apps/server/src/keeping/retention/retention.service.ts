import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { type RetentionAnswer, RetentionDocument } from '@zetopsis/contract';
import { DAY, HOUR } from '@zetopsis/core/units';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../store/lease.service.ts';
import { SeriesNumbers } from '../store/seriesNumbers.ts';
import { KEPT, RetentionStore } from './retention.store.ts';

const KEY = 'kept';
const FIRST_AFTER = 60_000;

/** Keeps what is kept for as long as is configured, and no longer. The audit log and revisions are kept for ever. */
@Injectable()
export class RetentionService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly cleaning = new Repeated(() => this.clean(), HOUR);
  private lastCleanedAt: number | null = null;
  private problem: string | null = null;

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly store: RetentionStore,
    private readonly audit: AuditService,
    private readonly numbers: SeriesNumbers,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.configuration.addCheck((wanted) => [
      ...(wanted.get('retention', KEY) === null
        ? [{ kind: 'retention' as const, key: KEY, path: [], text: `Retention needs an entry called “${KEY}”.` }]
        : []),
      ...[...wanted.all('retention').keys()]
        .filter((key) => key !== KEY)
        .map((key) => ({ kind: 'retention' as const, key, path: [], text: `Retention has one entry, “${KEY}”.` })),
    ]);
    this.cleaning.begin(FIRST_AFTER);
  }
  async onApplicationShutdown(): Promise<void> {
    await this.cleaning.stop();
  }

  private get keep(): RetentionDocument {
    // the check above keeps it there; one from before this version lacks what has a default
    return RetentionDocument.parse(this.configuration.get('retention', KEY)!);
  }

  /** Once; also what the hourly turn does. */
  async clean(): Promise<void> {
    if (this.lease.epoch === 0) return;
    const keep = this.keep;
    try {
      for (const kept of KEPT) {
        const before = this.clock.now() - keep[kept.keep] * DAY;
        let removed = 0;
        for (;;) {
          const some = await this.store.removeSome(kept, before);
          removed += some;
          if (some === 0 || this.cleaning.ending) break;
        }
        if (removed > 0)
          await this.audit.noteOwn({
            action: 'removed what is past its time',
            on: kept.what,
            detail: `${removed} ${kept.past === null ? 'partitions' : 'rows'}, ${keep[kept.keep]} days are kept`,
          });
      }
      await this.forgetSeries(keep);
      this.lastCleanedAt = this.clock.now();
      this.problem = null;
    } catch (error) {
      this.problem = 'Nothing could be removed; the server’s log says why. It is tried again within the hour.';
      this.log.failure('retentionNotKept', error);
    }
  }

  /** Series that ended before all that is kept of them went. */
  private async forgetSeries(keep: RetentionDocument): Promise<void> {
    const before = this.clock.now() - Math.max(keep.samplesDays, keep.fiveMinutesDays, keep.hoursDays) * DAY;
    while (!this.cleaning.ending && (await this.numbers.forgetSomeEndedBefore(before)));
  }

  async answer(): Promise<RetentionAnswer> {
    return {
      keep: this.keep,
      held: await this.store.held(),
      lastCleanedAt: this.lastCleanedAt,
      problem: this.problem,
    };
  }
  async change(by: string, keep: RetentionDocument): Promise<void> {
    await this.configuration.change({
      by,
      what: 'changed how long data are kept',
      wishes: [{ kind: 'retention', key: KEY, after: keep }],
    });
  }
}
