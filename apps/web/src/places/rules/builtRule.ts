import { type RuleAnswer, RuleDocument } from '@zetopsis/contract';

/** A rule as it is answered, for tests: who asks may change it. */
export const builtRule = (document: object, more: Partial<RuleAnswer> = {}): RuleAnswer => ({
  key: 'm',
  document: RuleDocument.parse({ name: 'm', ...document }),
  owner: null,
  unit: '',
  shownAs: 'percent',
  problem: null,
  mayChange: true,
  matched: 3,
  building: 1,
  raised: 0,
  worst: null,
  lastRaisedAt: null,
  judgedAt: 5000,
  tookMs: 12,
  ...more,
});
