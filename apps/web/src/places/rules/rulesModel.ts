import type { RuleAnswer } from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { ruleSentence } from '@zetopsis/core/rules';
import { SECOND } from '@zetopsis/core/units';

/** A rule as a person would say it. */
export const sentenceOf = ({ kind, above, severity, holdsSeconds, easesSeconds }: RuleAnswer): string =>
  ruleSentence(kind, { above, severity, holds: holdsSeconds * SECOND, eases: easesSeconds * SECOND });

export function ruleState(rule: RuleAnswer, now: number): string {
  if (!rule.enabled) return 'switched off';
  const judged =
    rule.judgedAt === null ? 'not judged yet' : `judged up to ${formatDuration(Math.max(0, now - rule.judgedAt))} ago`;
  // who sees only a part is not told how many there are in all
  const counts = rule.watching === null ? '' : `watching ${rule.watching} objects · ${rule.building ?? 0} building · `;
  return `${counts}${rule.raised} raised · ${judged}`;
}
