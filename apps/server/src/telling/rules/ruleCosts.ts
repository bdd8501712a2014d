import { Injectable } from '@nestjs/common';
import type { EpochMs } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { Durations, gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Clock } from '../../ground/platform/settings.ts';

/** How judging a rule went the last time. */
export interface RuleCost {
  readonly tookMs: number;
  readonly matched: number;
  /** Why it could not be judged; null while it can. */
  readonly problem: string | null;
}
/** What takes longer than this, once, is named. */
export const COSTLY_MS = 5000;
type Judged = readonly { readonly key: string; readonly judgedMs: EpochMs | null }[];

/** What judging costs, by the number of the rule. */
@Injectable()
export class RuleCosts {
  private readonly known = new Map<number, RuleCost>();
  private readonly times = new Durations('judging_duration', 'How long judging one rule took.');
  private judged: () => Judged = () => [];

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly clock: Clock,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => [
      this.times.family,
      gauge({
        name: 'judging_behind',
        unit: 'seconds',
        help: 'How long ago the rule was last judged that waits longest.',
        samples: this.behind() / 1000,
      }),
    ]);
  }
  /** Who knows up to when each rule is judged. */
  onAsked(judged: () => Judged): void {
    this.judged = judged;
  }
  of(ruleId: number): RuleCost | null {
    return this.known.get(ruleId) ?? null;
  }
  set(ruleId: number, cost: RuleCost): void {
    this.known.set(ruleId, cost);
    this.times.note({}, cost.tookMs / 1000);
  }
  private behind(): number {
    const judged = this.judged().flatMap(({ key, judgedMs }) =>
      judgedMs !== null && this.configuration.get('rule', key)?.state !== 'off' ? [judgedMs] : [],
    );
    return judged.length === 0 ? 0 : Math.max(0, this.clock.now() - Math.min(...judged));
  }
}
