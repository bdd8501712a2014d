import type { RuleAnswer } from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';

/** A rule as a person would say it. */
export function ruleSentence(rule: RuleAnswer): string {
  const condition =
    rule.kind === 'containerMemory'
      ? `the memory of a container is above ${Math.round((rule.above ?? 0) * 1000) / 10} % of its limit`
      : 'a workload has fewer ready pods than desired';
  return `When ${condition} for ${formatDuration(rule.holdsSeconds * 1000)}, tell the owner of its namespace (${rule.severity}); tell again when it has been over for ${formatDuration(rule.easesSeconds * 1000)}.`;
}

export function ruleState(rule: RuleAnswer, now: number): string {
  if (!rule.enabled) return 'switched off';
  const judged =
    rule.judgedAt === null ? 'not judged yet' : `judged up to ${formatDuration(Math.max(0, now - rule.judgedAt))} ago`;
  // who sees only a part is not told how many there are in all
  const counts = rule.watching === null ? '' : `watching ${rule.watching} objects · ${rule.building ?? 0} building · `;
  return `${counts}${rule.raised} raised · ${judged}`;
}
