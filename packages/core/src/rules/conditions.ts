import type { FindingCode, Severity } from '../findings/index.ts';
import { formatDuration, formatPercent } from '../format/index.ts';
import type { InventoryKind } from '../inventory/index.ts';
import { parseMeasure, readyOfDesiredEach, shareOfLimitEach, withStep } from '../measures/index.ts';
import type { DurationMs } from '../units/index.ts';
import { hoursWords, type WeeklyHours } from './hush.ts';

/** What each kind of condition is set to, beside the numbers of its levels. */
export interface ConditionOf {
  /** The memory of a container against its limit; levels are shares of it. */
  readonly 'container memory': { readonly is: 'container memory' };
  readonly 'fewer ready': { readonly is: 'fewer ready' };
  /** Anything that is found wrong; no codes: whatever it is. */
  readonly finding: { readonly is: 'finding'; readonly codes: readonly FindingCode[] };
  /** Each line of a measure is an object; levels are in its unit. */
  readonly measure: { readonly is: 'measure'; readonly text: string; readonly compare: Compare };
  /** Each line of a measure by how soon it comes to an amount, as it has gone; levels are in seconds. */
  readonly 'running out': {
    readonly is: 'running out';
    readonly text: string;
    /** As measures write it: 1, 100%, 20GiB. */
    readonly reaches: string;
    readonly fromSeconds: number;
  };
  /**
   * Each line of a measure by how far it is from what is usual; levels are in bands: 1 is where one in ten of what was before
   * lies beyond. `quiet`: usual is what it was then, at whatever hour; null: what it was at this hour of other days.
   */
  readonly unusual: {
    readonly is: 'unusual';
    readonly text: string;
    readonly side: UnusualSide;
    readonly days: number;
    readonly quiet: { readonly from: string; readonly to: string } | null;
  };
  /** Clusters, endpoints and senders that nothing comes from. */
  readonly 'not read': { readonly is: 'not read' };
  /** What a cluster says of an object; no reasons: any warning. `standsSeconds`: so long after it was said last. */
  readonly 'cluster event': {
    readonly is: 'cluster event';
    readonly reasons: readonly string[];
    readonly standsSeconds: number;
  };
  /** Objects that were made, changed or removed; no kinds: any that people set up. */
  readonly 'object change': {
    readonly is: 'object change';
    readonly changes: readonly ObjectChangeKind[];
    readonly kinds: readonly InventoryKind[];
    readonly standsSeconds: number;
  };
  /** What should be there in a scope, by name or by how many; what is not, and what should not be. */
  readonly expected: {
    readonly is: 'expected';
    readonly kinds: readonly ExpectedKind[];
    /** `*` stands for any part of a name. */
    readonly names: readonly string[];
    readonly least: number | null;
    readonly most: number | null;
    /** What no name fits is told as well. */
    readonly extra: boolean;
  };
  /** Readings lost, messages that nobody takes, rules that cannot be judged, … */
  readonly itself: { readonly is: 'itself' };
}
export const UNUSUAL_SIDES = ['above', 'below', 'either'] as const;
export type UnusualSide = (typeof UNUSUAL_SIDES)[number];
export const OBJECT_CHANGES = ['created', 'changed', 'removed'] as const;
export type ObjectChangeKind = (typeof OBJECT_CHANGES)[number];
/** What can be expected to run: it has a name that lasts, and says whether it does. */
export const EXPECTED_KINDS = [
  'deployment',
  'stateful set',
  'daemon set',
  'cron job',
  'node',
  'namespace',
] as const satisfies readonly InventoryKind[];
export type ExpectedKind = (typeof EXPECTED_KINDS)[number];
export type ConditionKind = keyof ConditionOf;
export type Condition = ConditionOf[ConditionKind];
export const COMPARES = ['above', 'below', 'outside', 'missing'] as const;
export type Compare = (typeof COMPARES)[number];

export type Side = 'above' | 'below' | 'outside';

interface Definition<K extends ConditionKind> {
  /** In a list of kinds. */
  readonly title: string;
  /** Each level compares with a number of its own; else a level is how grave what is found is. */
  readonly bounded: (condition: ConditionOf[K]) => boolean;
  /** Judged by what was read, moment by moment; else by how things stand now. */
  readonly measured: boolean;
  /** Each line of its measure is an object. */
  readonly lines: boolean;
  /** It looks at what is found, heard or missing: that there is nothing of it is as it should be. */
  readonly finds: boolean;
  /** It looks at what no team owns. */
  readonly platform: boolean;
  /** "When …"; `bound` is a level's number in words. */
  readonly words: (condition: ConditionOf[K], bound: string) => string;
  /** On which side of its number a level holds; outside: of two. */
  readonly side: (condition: ConditionOf[K]) => Side;
  /** How a graver level is set off from the first: “above 90 %”; `bound` in words. */
  readonly beyond: (condition: ConditionOf[K], bound: string) => string;
  /** How a bound is said. */
  readonly boundWords: (bound: number, amount: (value: number) => string) => string;
  /** The same as a measure, which can be asked about any time that is kept; null where there is none. */
  readonly measure: (condition: ConditionOf[K]) => string | null;
}

const UNMEASURED = { side: (): Side => 'above', beyond: () => '', boundWords: () => '', measure: () => null };
const SECOND: DurationMs = 1000;
/**
 * Every kind of condition. A new one stands here; the compiler then asks for its schema (contract/rules) and for what it looks
 * at (the subjects, in answers/rules).
 */
export const CONDITIONS: { readonly [K in ConditionKind]: Definition<K> } = {
  'container memory': {
    title: 'memory of a container near its limit',
    bounded: () => true,
    measured: true,
    lines: false,
    finds: false,
    platform: false,
    words: (_, bound) => `the memory of a container is above ${bound} of its limit`,
    side: () => 'above',
    beyond: (_, bound) => `above ${bound}`,
    boundWords: (bound) => formatPercent(bound),
    measure: () => shareOfLimitEach('memory'),
  },
  'fewer ready': {
    title: 'fewer pods ready than desired',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: false,
    platform: false,
    words: () => 'a workload has fewer ready pods than desired',
    side: () => 'below',
    beyond: () => '',
    boundWords: () => '',
    measure: () => readyOfDesiredEach(),
  },
  finding: {
    title: 'something is found wrong',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: false,
    words: ({ codes }) =>
      codes.length === 0 ? 'anything is found wrong' : `one of these is found: ${codes.map(codeWords).join(', ')},`,
    side: () => 'above',
    beyond: () => '',
    boundWords: () => '',
    measure: () => null,
  },
  measure: {
    title: 'a measure against a threshold',
    bounded: ({ compare }) => compare !== 'missing',
    measured: true,
    lines: true,
    finds: false,
    platform: false,
    words: ({ compare }, bound) =>
      compare === 'missing'
        ? 'a line of its measure has no value any more'
        : `its measure is ${compare === 'outside' ? 'outside of' : compare} ${bound}`,
    side: ({ compare }) => (compare === 'missing' ? 'above' : compare),
    beyond: ({ compare }, bound) => `${compare === 'outside' ? 'outside of' : compare} ${bound}`,
    boundWords: (bound, amount) => amount(bound),
    measure: ({ text }) => text,
  },
  'running out': {
    title: 'something runs out soon',
    bounded: () => true,
    measured: true,
    lines: true,
    finds: false,
    platform: false,
    words: ({ reaches }, bound) => `its measure will be at ${reaches} within ${bound}, as it goes,`,
    side: () => 'below',
    beyond: (_, bound) => `within ${bound}`,
    boundWords: (bound) => formatDuration(bound * SECOND),
    measure: ({ text, reaches, fromSeconds }) => textUntil(text, reaches, fromSeconds),
  },
  unusual: {
    title: 'a measure departs from its usual',
    bounded: () => true,
    measured: true,
    lines: true,
    finds: false,
    platform: false,
    words: ({ side, quiet }, bound) =>
      `its measure is more than ${bound} ${side === 'either' ? 'away from' : side} what is usual ${quiet === null ? 'at this hour' : 'in the quiet stretch that was chosen'}`,
    side: () => 'above',
    beyond: (_, bound) => `more than ${bound}`,
    boundWords: (bound) => `${Number(bound.toPrecision(3))} band${bound === 1 ? '' : 's'}`,
    measure: ({ text }) => text,
  },
  'not read': {
    title: 'a cluster, endpoint or sender is silent',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: true,
    words: () => 'nothing comes from a cluster, an endpoint or a sender',
    ...UNMEASURED,
  },
  'cluster event': {
    title: 'the cluster says something of an object',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: false,
    words: ({ reasons }) =>
      reasons.length === 0 ? 'the cluster warns of an object' : `the cluster says ${either(reasons)} of an object`,
    ...UNMEASURED,
  },
  'object change': {
    title: 'an object is made, changed or removed',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: false,
    words: ({ changes, kinds }) =>
      `${kinds.length === 0 ? 'something that people set up' : `a ${either(kinds)}`} is ${either(changes)}`,
    ...UNMEASURED,
  },
  expected: {
    title: 'what should be there is not, or what should not is',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: false,
    words: expectedWords,
    ...UNMEASURED,
  },
  itself: {
    title: 'Zetopsis itself is not well',
    bounded: () => false,
    measured: false,
    lines: false,
    finds: true,
    platform: true,
    words: () => 'Zetopsis loses readings, cannot tell, cannot judge or is held up',
    ...UNMEASURED,
  },
};
export const CONDITION_KINDS = Object.keys(CONDITIONS) as [ConditionKind, ...ConditionKind[]]; // its own keys
/** The definition of the kind that a condition is of. */
export const conditionOf = (condition: Condition): Definition<ConditionKind> =>
  CONDITIONS[condition.is] as Definition<ConditionKind>; // each gets conditions of its own kind

function expectedWords({ kinds, names, least, most, extra }: ConditionOf['expected']): string {
  const parts = [
    ...(names.length === 0 ? [] : [`${names.join(', ')} is not there or has nothing ready`]),
    ...(extra ? [`anything else is there`] : []),
    ...(least === null ? [] : [`fewer than ${least} are there`]),
    ...(most === null ? [] : [`more than ${most} are there`]),
  ];
  return `of the ${kinds.map((kind) => `${kind}s`).join(', ')} that it looks at ${either(parts)}`;
}
const either = (parts: readonly string[]): string =>
  parts.length < 2 ? (parts[0] ?? '') : `${parts.slice(0, -1).join(', ')} or ${parts.at(-1)}`;
/** How soon a measure comes to an amount, as a measure; itself where it cannot be read: what is wrong is said of it. */
function textUntil(text: string, reaches: string, fromSeconds: number): string {
  const read = parseMeasure(text);
  return 'body' in read ? withStep(read.body, `time until ${reaches} from ${fromSeconds}s`) : text;
}
/** "notReady" as "not ready". */
const codeWords = (code: string): string => code.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

/** What a level of a rule is set to. */
export interface RuleLevel {
  readonly bound: number | null;
  /** The lower of two between which it does not hold. */
  readonly low: number | null;
  readonly holdsSeconds: number;
  /** In how many readings in a row, instead of a time. */
  readonly readings: number | null;
}
export interface RuleWords {
  readonly when: Condition;
  readonly levels: Readonly<Record<Severity, RuleLevel | null>>;
  readonly clears: { readonly bound: number | null; readonly low: number | null; readonly afterSeconds: number };
  /** When it is judged at all; null: always. */
  readonly hours: WeeklyHours | null;
  /** Who is told; null: the owner of what it is about. */
  readonly tells: string | null;
  readonly state: 'on' | 'on trial' | 'off';
}
/** With a blank before it; nothing where it need not hold. */
const heldFor = ({ holdsSeconds, readings }: RuleLevel): string => {
  if (readings !== null) return readings === 1 ? ' in one reading' : ` in ${readings} readings in a row`;
  return holdsSeconds === 0 ? '' : ` for ${formatDuration(holdsSeconds * SECOND)}`;
};

/** A rule as a person would say it; `amount`: a bound of a measure in its unit. */
export function ruleSentence(
  { when, levels, clears, hours, tells, state }: RuleWords,
  amount: (value: number) => string,
): string {
  const definition = conditionOf(when);
  const { warning, critical } = levels;
  const first = warning ?? critical;
  if (first === null) return 'It has no level: it never tells anything.';
  const bounded = definition.bounded(when);
  const side = definition.side(when);
  const said = (own: number) => definition.boundWords(own, amount);
  const bound = ({ bound: own, low }: Pick<RuleLevel, 'bound' | 'low'>) =>
    !bounded || own === null ? '' : side === 'outside' && low !== null ? `${said(low)} to ${said(own)}` : said(own);
  const graver =
    warning !== null && critical !== null
      ? bounded
        ? `; ${definition.beyond(when, bound(critical))}${heldFor(critical)}: critical`
        : `; what is critical by itself${heldFor(critical)}: critical`
      : '';
  const over =
    bounded && clears.bound !== null
      ? `back ${side === 'outside' ? 'within' : side === 'above' ? 'below' : 'above'} ${bound(clears)}`
      : 'over';
  const after = clears.afterSeconds === 0 ? '' : ` for ${formatDuration(clears.afterSeconds * SECOND)}`;
  const level = warning === null ? 'critical' : 'warning';
  const trial = state === 'on trial' ? ' On trial: nobody is told yet.' : '';
  const judged = hours === null ? '' : ` Judged only ${hoursWords(hours)}.`;
  return `When ${definition.words(when, bound(first))}${heldFor(first)}, tell ${tells ?? 'the owner'} (${level})${graver}. Tell again when it has been ${over}${after}.${judged}${trial}`;
}
