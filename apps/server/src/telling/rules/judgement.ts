import { type Subject } from '@zetopsis/answers/rules';
import { type RuleDocument } from '@zetopsis/contract';
import { type RuleEffect, type RuleState } from '@zetopsis/core/rules';
import { type EpochMs } from '@zetopsis/core/units';
import { RuleEntity } from '../../keeping/alerts/rule.entity.ts';

/** A rule with what is configured for it now. */
export type Rule = RuleEntity & RuleDocument;

/** What judging one object came to. */
export interface Judgement {
  readonly connectionId: string;
  readonly subject: Subject;
  state: RuleState;
  effects: { readonly effect: RuleEffect; readonly judgedAt: EpochMs }[];
}
