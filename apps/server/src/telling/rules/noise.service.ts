import { Injectable } from '@nestjs/common';
import { noiseOf, quieted } from '@zetopsis/answers/rules';
import type { NoiseAnswer, QuieterAnswer, RuleDocument } from '@zetopsis/contract';
import { DAY } from '@zetopsis/core/units';
import { type Asker, KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import type { Rule } from './judgement.ts';
import { KeptRules } from './keptRules.service.ts';
import { nightsIn } from './nights.ts';
import { Rehearsals } from './rehearsal.service.ts';
import { RulesService } from './rules.service.ts';

const LOOKED_BACK = 30 * DAY;
/** What is suggested is rehearsed over so long. */
const REHEARSED = 7 * DAY;

/** Which rules are loud, and what would have made them quieter. */
@Injectable()
export class NoiseReport {
  constructor(
    private readonly rules: RulesService,
    private readonly kept: KeptRules,
    private readonly rehearsals: Rehearsals,
    private readonly forTeams: KeptForTeams,
    private readonly alerts: AlertsService,
    private readonly settings: Settings,
    private readonly clock: Clock,
  ) {}

  async of(asker: Asker): Promise<NoiseAnswer> {
    const to = this.clock.now();
    const from = to - LOOKED_BACK;
    const atNight = nightsIn(this.settings.config.zone);
    const found: NoiseAnswer['rules'] = [];
    for (const rule of this.rules.known()) {
      if (!this.forTeams.seesAllOf(asker, rule.team)) continue;
      const noise = await this.noiseOf(rule, from, atNight);
      if (noise !== null) found.push({ key: rule.key, name: rule.name, ...noise });
    }
    return { from, to, rules: found.sort((a, b) => b.messages - a.messages || b.raised - a.raised) };
  }
  /** What is suggested for one rule, rehearsed beside the rule as it is. */
  async quieter(asker: Asker, key: string): Promise<QuieterAnswer> {
    const rule = await this.kept.look(asker, key);
    const to = this.clock.now();
    const noise = await this.noiseOf(rule, to - LOOKED_BACK, () => false);
    const suggestion = noise?.suggestion ?? null;
    if (suggestion === null || suggestion.is === 'on trial')
      throw new Refusal('conflict', 'Nothing is suggested for this rule that could be rehearsed.');
    const { id, key: _key, judgedMs, ...document } = rule;
    const from = to - REHEARSED;
    const loud = async (of: RuleDocument) => {
      const { raised, left, messages } = await this.rehearsals.rehearse(asker, { document: of, from, to });
      return { raised: raised.length + left, messages: messages.all };
    };
    // one after the other: they are one person's
    const asItIs = await loud(document);
    return { from, to, asItIs, asSuggested: await loud(quieted(document, suggestion)) };
  }
  private async noiseOf({ id, levels, clears }: Rule, from: number, atNight: (at: number) => boolean) {
    const past = await this.alerts.pastOf(id, from);
    if (past.length === 0) return null;
    const holds = Math.max(levels.warning?.holdsSeconds ?? 0, levels.critical?.holdsSeconds ?? 0) * 1000;
    return noiseOf(past, { holds, clearsAfter: clears.afterSeconds * 1000 }, atNight);
  }
}
