import type { FindingCode, Severity } from '../findings/index.ts';
import { formatDuration, formatPercent } from '../format/index.ts';
import { readyOfDesiredEach, shareOfLimitEach } from '../measures/index.ts';
import type { DurationMs } from '../units/index.ts';

/** What each kind of condition is set to, beside the numbers of its levels. */
export interface ConditionOf {
  /** The memory of a container against its limit; levels are shares of it. */
  readonly 'container memory': { readonly is: 'container memory' };
  readonly 'fewer ready': { readonly is: 'fewer ready' };
  /** Anything that is found wrong; no codes: whatever it is. */
  readonly finding: { readonly is: 'finding'; readonly codes: readonly FindingCode[] };
  /** Each line of a measure is an object; levels are in its unit. */
  readonly measure: { readonly is: 'measure'; readonly text: string; readonly compare: Compare };
  /** Clusters, endpoints and senders that nothing comes from. */
  readonly 'not read': { readonly is: 'not read' };
}
export type ConditionKind = keyof ConditionOf;
export type Condition = ConditionOf[ConditionKind];
export const COMPARES = ['above', 'below', 'missing'] as const;
export type Compare = (typeof COMPARES)[number];

interface Definition<K extends ConditionKind> {
  /** In a list of kinds. */
  readonly title: string;
  /** Each level compares with a number of its own; else a level is how grave what is found is. */
  readonly bounded: (condition: ConditionOf[K]) => boolean;
  /** Judged by what was read, moment by moment; else by how things stand now. */
  readonly measured: boolean;
  /** "When …"; `bound` is a level's number in words. */
  readonly words: (condition: ConditionOf[K], bound: string) => string;
  /** "above", "below": on which side of its number a level holds. */
  readonly side: (condition: ConditionOf[K]) => 'above' | 'below';
  /** How a bound is said. */
  readonly boundWords: (bound: number, amount: (value: number) => string) => string;
  /** The same as a measure, which can be asked about any time that is kept; null where there is none. */
  readonly measure: (condition: ConditionOf[K]) => string | null;
}

/**
 * Every kind of condition. A new one stands here; the compiler then asks for its schema (contract/rules) and for what it looks
 * at (the subjects, in answers/rules).
 */
export const CONDITIONS: { readonly [K in ConditionKind]: Definition<K> } = {
  'container memory': {
    title: 'memory of a container near its limit',
    bounded: () => true,
    measured: true,
    words: (_, bound) => `the memory of a container is above ${bound} of its limit`,
    side: () => 'above',
    boundWords: (bound) => formatPercent(bound),
    measure: () => shareOfLimitEach('memory'),
  },
  'fewer ready': {
    title: 'fewer pods ready than desired',
    bounded: () => false,
    measured: false,
    words: () => 'a workload has fewer ready pods than desired',
    side: () => 'below',
    boundWords: () => '',
    measure: () => readyOfDesiredEach(),
  },
  finding: {
    title: 'something is found wrong',
    bounded: () => false,
    measured: false,
    words: ({ codes }) =>
      codes.length === 0 ? 'anything is found wrong' : `one of these is found: ${codes.map(codeWords).join(', ')},`,
    side: () => 'above',
    boundWords: () => '',
    measure: () => null,
  },
  measure: {
    title: 'a measure against a threshold',
    bounded: ({ compare }) => compare !== 'missing',
    measured: true,
    words: ({ compare }, bound) =>
      compare === 'missing' ? 'a line of its measure has no value any more' : `its measure is ${compare} ${bound}`,
    side: ({ compare }) => (compare === 'below' ? 'below' : 'above'),
    boundWords: (bound, amount) => amount(bound),
    measure: ({ text }) => text,
  },
  'not read': {
    title: 'a cluster, endpoint or sender is silent',
    bounded: () => false,
    measured: false,
    words: () => 'nothing comes from a cluster, an endpoint or a sender',
    side: () => 'above',
    boundWords: () => '',
    measure: () => null,
  },
};
export const CONDITION_KINDS = Object.keys(CONDITIONS) as [ConditionKind, ...ConditionKind[]]; // its own keys
/** The definition of the kind that a condition is of. */
export const conditionOf = (condition: Condition): Definition<ConditionKind> =>
  CONDITIONS[condition.is] as Definition<ConditionKind>; // each gets conditions of its own kind

/** "notReady" as "not ready". */
const codeWords = (code: string): string => code.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** What a level of a rule is set to. */
export interface RuleLevel {
  readonly bound: number | null;
  readonly holdsSeconds: number;
  /** In how many readings in a row, instead of a time. */
  readonly readings: number | null;
}
export interface RuleWords {
  readonly when: Condition;
  readonly levels: Readonly<Record<Severity, RuleLevel | null>>;
  readonly clears: { readonly bound: number | null; readonly afterSeconds: number };
  /** Who is told; null: the owner of what it is about. */
  readonly tells: string | null;
  readonly state: 'on' | 'on trial' | 'off';
}
const SECOND: DurationMs = 1000;
/** With a blank before it; nothing where it need not hold. */
const heldFor = ({ holdsSeconds, readings }: RuleLevel): string => {
  if (readings !== null) return readings === 1 ? ' in one reading' : ` in ${readings} readings in a row`;
  return holdsSeconds === 0 ? '' : ` for ${formatDuration(holdsSeconds * SECOND)}`;
};

/** A rule as a person would say it; `amount`: a bound of a measure in its unit. */
export function ruleSentence(
  { when, levels, clears, tells, state }: RuleWords,
  amount: (value: number) => string,
): string {
  const definition = conditionOf(when);
  const { warning, critical } = levels;
  const first = warning ?? critical;
  if (first === null) return 'It has no level: it never tells anything.';
  const bounded = definition.bounded(when);
  const bound = ({ bound: own }: RuleLevel) => (bounded && own !== null ? definition.boundWords(own, amount) : '');
  const graver =
    warning !== null && critical !== null
      ? bounded
        ? `; ${definition.side(when)} ${bound(critical)}${heldFor(critical)}: critical`
        : `; what is critical by itself${heldFor(critical)}: critical`
      : '';
  const over =
    bounded && clears.bound !== null
      ? `back ${definition.side(when) === 'above' ? 'below' : 'above'} ${definition.boundWords(clears.bound, amount)}`
      : 'over';
  const after = clears.afterSeconds === 0 ? '' : ` for ${formatDuration(clears.afterSeconds * SECOND)}`;
  const level = warning === null ? 'critical' : 'warning';
  const trial = state === 'on trial' ? ' On trial: nobody is told yet.' : '';
  return `When ${definition.words(when, bound(first))}${heldFor(first)}, tell ${tells ?? 'the owner'} (${level})${graver}. Tell again when it has been ${over}${after}.${trial}`;
}
