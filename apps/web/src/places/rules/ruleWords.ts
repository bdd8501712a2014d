import type { RuleAnswer } from '@zetopsis/contract';
import { formatDuration } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { ruleSentence } from '@zetopsis/core/rules';

/** A rule as a person would say it. `teams`: what their keys are called. */
export function sentenceOf({ document, unit, shownAs, owner }: RuleAnswer, teams: ReadonlyMap<string, string>): string {
  const { tells } = document;
  const told = tells === null ? (document.team === null ? null : owner) : (teams.get(tells) ?? tells);
  return ruleSentence({ ...document, tells: told }, (value) => valueWords(value, unit ?? '', shownAs));
}
export function judgedWords({ document, judgedAt, problem }: RuleAnswer, now: number): string {
  if (document.state === 'off') return 'switched off';
  if (problem !== null) return problem;
  return judgedAt === null ? 'not judged yet' : `judged up to ${formatDuration(Math.max(0, now - judgedAt))} ago`;
}
/** What one judging costs. */
export const costWords = (tookMs: number | null): string =>
  tookMs === null
    ? ''
    : tookMs < 1
      ? '< 1 ms'
      : tookMs < 1000
        ? `${Math.round(tookMs)} ms`
        : `${(tookMs / 1000).toFixed(1)} s`;
