import type { RehearsalAnswer } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { proposedBound } from '@zetopsis/core/rules';
import {
  EMPTY_DRAFT,
  isBounded,
  isOnLines,
  lowestOf,
  NO_LEVEL,
  type RuleDraft,
  readBound,
  sideOf,
  writeBound,
} from './ruleDraft.ts';

/** What is tried to find a number: no value is past it by chance. */
const PROBE = '0';
/** The number to begin with, from what a probe would have come to; null where nothing was read. */
export const proposedFrom = (
  { curve, from, to }: Pick<RehearsalAnswer, 'curve' | 'from' | 'to'>,
  side: 'above' | 'below',
): number | null => proposedBound(curve, { from, to, side, except: Number(PROBE) });

/** A number is looked for: of what is compared with one. */
export const isProposable = (draft: RuleDraft): boolean =>
  isBounded(draft) && sideOf(draft) !== 'outside' && draft.kind !== 'running out' && isOnLines(draft);
export const probingDraft = (draft: RuleDraft, level: Severity): RuleDraft => ({
  ...draft,
  name: 'a draft',
  clearsBound: '',
  overrides: [],
  levels: {
    ...EMPTY_DRAFT.levels,
    warning: NO_LEVEL,
    critical: NO_LEVEL,
    [level]: { ...draft.levels[level], bound: PROBE },
  },
});
const DIGITS = 5;
/** `unit`: what its measure came out in. */
export const withBound = (draft: RuleDraft, level: Severity, bound: number, unit: string | null): RuleDraft => ({
  ...draft,
  unit,
  levels: {
    ...draft.levels,
    [level]: { ...draft.levels[level], bound: writeBound({ ...draft, unit }, bound, DIGITS) },
  },
});
/** The number of the lowest level as it is kept; null where it has none, or none that can be read. */
export function boundOf(draft: RuleDraft): number | null {
  const lowest = lowestOf(draft);
  const text = lowest === null ? '' : draft.levels[lowest].bound;
  return isBounded(draft) ? (readBound(draft, text) ?? null) : null;
}
