import { Injectable, type OnModuleInit } from '@nestjs/common';
import { RetentionDocument } from '@zetopsis/contract';
import { type DurationMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';

export interface SeriesLimits {
  readonly perEndpoint: number;
  readonly perTeam: number;
  readonly inAll: number;
}
export type Bound = keyof SeriesLimits;
const UNTIL_CONFIGURED: SeriesLimits = { perEndpoint: 200_000, perTeam: 500_000, inAll: 2_000_000 };

/** What bounds the store. As configured, for what comes in from now on. */
@Injectable()
export class StoreLimits implements OnModuleInit {
  private known: { readonly kept: RetentionDocument; readonly series: SeriesLimits } | null = null;

  constructor(private readonly configuration: ConfigurationService) {}
  onModuleInit(): void {
    this.configuration.onApplied('retention', () => {
      this.known = null;
    });
  }
  private look(): StoreLimits['known'] {
    if (this.known !== null) return this.known;
    const found = this.configuration.get('retention', 'kept');
    if (found === null) return null;
    // one from before this version lacks what has a default
    const kept = RetentionDocument.parse(found);
    const { seriesPerEndpoint, seriesPerTeam, seriesInAll } = kept;
    const series = { perEndpoint: seriesPerEndpoint, perTeam: seriesPerTeam, inAll: seriesInAll };
    this.known = { kept, series };
    return this.known;
  }

  /** Bytes of readings that may wait while PostgreSQL is away. */
  get waitingRoom(): number {
    return 256 * 1024 * 1024;
  }
  /** How late a reading may come, or be timed by its page. */
  get lateWindow(): DurationMs {
    const known = this.look();
    return known === null ? HOUR : known.kept.lateMinutes * MINUTE;
  }
  /** The same object until they change. */
  get series(): SeriesLimits {
    return this.look()?.series ?? UNTIL_CONFIGURED;
  }
  /** Set by the administrators; null lets the disk be asked. */
  get roomGigabytes(): number | null {
    return this.look()?.kept.spaceGigabytes || null;
  }
}
