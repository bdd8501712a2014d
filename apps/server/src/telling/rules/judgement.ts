import type { Subject } from '@zetopsis/answers/rules';
import type { RuleDocument } from '@zetopsis/contract';
import type { LevelEffect, LevelStates, LevelVerdicts } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import type { StateRow } from '../../keeping/alerts/alerts.service.ts';
import type { RuleEntity } from '../../keeping/alerts/rule.entity.ts';

/** A rule with what is configured for it now. */
export type Rule = RuleEntity & RuleDocument;

/** What judging one object came to. */
export interface Judgement {
  readonly connectionId: string | null;
  readonly subject: Subject;
  state: LevelStates;
  effects: { readonly effect: LevelEffect; readonly judgedAt: EpochMs }[];
}

/** What a rule looks at in one cluster, or at once in all, and the moments at which it is judged. */
export interface Look {
  readonly moments: readonly EpochMs[];
  readonly subjects: Iterable<Subject>;
  readonly connectionOf: (subject: Subject) => string | null;
  /** Whether what was kept of an object belongs to this look. */
  readonly keeps: (row: StateRow) => boolean;
  /** What is said of one that was known and is not among the subjects; null: nothing. */
  readonly absent: (row: StateRow) => LevelVerdicts | null;
  /** Why it looks at nothing, where that is no accident: what its measure names is not there. */
  readonly problem?: string | null;
}

/** Stands for an object that is not there to be judged any more: only its end is told, from what was kept. */
export function goneSubject(row: StateRow): Subject {
  return {
    key: row.subject,
    path: { is: 'everything' },
    name: row.subject,
    there: false,
    verdicts: () => ({ warning: { is: 'gone' }, critical: { is: 'gone' } }),
    value: () => '',
    facts: () => {
      throw new Error('an object that is gone raises nothing');
    },
  };
}
