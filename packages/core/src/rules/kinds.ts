import { formatDuration, formatPercent } from '../format/index.ts';
import type { DurationMs } from '../units/index.ts';

/** What a rule is set to, as far as its sentence needs it. */
export interface RuleSettings {
  readonly above: number | null;
  readonly severity: string;
  readonly holds: DurationMs;
  readonly eases: DurationMs;
}
interface RuleDefinition {
  /** It compares with a share of a limit, which is set. */
  readonly hasLimit: boolean;
  /** Judged by what was measured, moment by moment; else by the state that an object is in now. */
  readonly measured: boolean;
  /** "When …". */
  readonly condition: (above: number) => string;
}

/**
 * Every kind of rule. A new one stands here; the compiler then asks for what it looks at (the subjects, in answers/rules). Its
 * first document is laid down by a migration.
 */
const RULES = {
  containerMemory: {
    hasLimit: true,
    measured: true,
    condition: (above) => `the memory of a container is above ${formatPercent(above)} of its limit`,
  },
  readyPods: {
    hasLimit: false,
    measured: false,
    condition: () => 'a workload has fewer ready pods than desired',
  },
} as const satisfies Record<string, RuleDefinition>;
export type RuleKind = keyof typeof RULES;
export const RULE_KINDS = Object.keys(RULES) as [RuleKind, ...RuleKind[]]; // its own keys
export const ruleOf = (kind: RuleKind): RuleDefinition => RULES[kind];
/** Without a share of its own. */
export const DEFAULT_ABOVE = 0.9;

/** A rule as a person would say it. */
export function ruleSentence(kind: RuleKind, { above, severity, holds, eases }: RuleSettings): string {
  const condition = ruleOf(kind).condition(above ?? DEFAULT_ABOVE);
  return `When ${condition} for ${formatDuration(holds)}, tell the owner of its namespace (${severity}); tell again when it has been over for ${formatDuration(eases)}.`;
}
