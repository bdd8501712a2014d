import { Injectable } from '@nestjs/common';
import { noiseOf } from '@zetopsis/answers/rules';
import type { NoiseAnswer } from '@zetopsis/contract';
import { DAY } from '@zetopsis/core/units';
import { type Asker, KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { nightsIn } from './nights.ts';
import { RulesService } from './rules.service.ts';

const LOOKED_BACK = 30 * DAY;

/** Which rules are loud, and what would have made them quieter. */
@Injectable()
export class NoiseReport {
  constructor(
    private readonly rules: RulesService,
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
      const past = await this.alerts.pastOf(rule.id, from);
      if (past.length === 0) continue;
      const { levels, clears } = rule;
      const holds = Math.max(levels.warning?.holdsSeconds ?? 0, levels.critical?.holdsSeconds ?? 0) * 1000;
      const noise = noiseOf(past, { holds, clearsAfter: clears.afterSeconds * 1000 }, atNight);
      found.push({ key: rule.key, name: rule.name, ...noise });
    }
    return { from, to, rules: found.sort((a, b) => b.messages - a.messages || b.raised - a.raised) };
  }
}
