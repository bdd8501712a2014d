/**
 * A measure's body as a tree: plain JSON, what the text is read into and printed from. Schema: contract, measures. Nothing in it
 * is evaluated here; the meaning stands in design/measures.md.
 */

/** 24h, 7d, 30s: above 0. */
export interface Duration {
  readonly value: number;
  readonly unit: DurationUnit;
}
export const DURATION_UNITS = ['s', 'm', 'h', 'd', 'w'] as const;
export type DurationUnit = (typeof DURATION_UNITS)[number];

/** A number as it was written: 512MiB, 80%, 200ms; `unit` null: a bare one. */
export interface Amount {
  readonly value: number;
  readonly unit: AmountUnit | null;
}
export const AMOUNT_UNITS = [
  '%',
  'B',
  'kB',
  'MB',
  'GB',
  'TB',
  'KiB',
  'MiB',
  'GiB',
  'TiB',
  'ns',
  'us',
  'ms',
  's',
  'm',
  'h',
  'd',
  'w',
] as const;
export type AmountUnit = (typeof AMOUNT_UNITS)[number];

export const CONDITION_KINDS = [
  'is',
  'is not',
  'is any of',
  'is none of',
  'contains',
  'starts with',
  'ends with',
  'matches',
  'does not match',
  'is present',
  'is missing',
] as const;
type OneText = 'is' | 'is not' | 'contains' | 'starts with' | 'ends with' | 'matches' | 'does not match';
export type Condition = { readonly label: string } & (
  | { readonly is: OneText; readonly text: string }
  | { readonly is: 'is any of' | 'is none of'; readonly texts: readonly string[] }
  | { readonly is: 'is present' | 'is missing' }
);

export type Source =
  | { readonly is: 'metric'; readonly name: string }
  | { readonly is: 'vital'; readonly name: string }
  | { readonly is: 'measure'; readonly title: string }
  /** What was computed before, so that steps may follow arithmetic. */
  | { readonly is: 'from'; readonly expression: Expression };

/** The stretch that a step over time looks at: sliding, or bins of the calendar. */
export type Stretch = { readonly over: Duration } | { readonly by: 'hour' | 'day' | 'week'; readonly zone: string };
/** Which series come together: those that are alike in some labels, or all. */
export type Across = { readonly each: readonly string[] } | { readonly overall: true };

export const OVER_TIME = ['average', 'highest', 'lowest', 'latest', 'total', 'count', 'deviation'] as const;
export type OverTime = (typeof OVER_TIME)[number];
export const ACROSS = ['total', 'average', 'highest', 'lowest', 'count', 'deviation'] as const;
export type AcrossKind = (typeof ACROSS)[number];

export type Step = { readonly comments?: readonly string[] } & (
  | { readonly step: 'where'; readonly where: readonly Condition[] }
  | { readonly step: 'treat as counter' }
  | { readonly step: 'whatever the scope' }
  | { readonly step: 'growth' | 'per second' | 'change' | 'slope'; readonly stretch: Stretch }
  | { readonly step: 'over time'; readonly what: OverTime; readonly stretch: Stretch }
  | { readonly step: 'percentile over time'; readonly percentile: number; readonly stretch: Stretch }
  | { readonly step: 'time above' | 'time below'; readonly bound: Amount; readonly stretch: Stretch }
  | { readonly step: 'across'; readonly what: AcrossKind; readonly across: Across }
  | { readonly step: 'percentile across'; readonly percentile: number; readonly across: Across }
  | { readonly step: 'percentile of buckets'; readonly percentile: number; readonly across: Across | null }
  | { readonly step: 'share below of buckets'; readonly bound: Amount; readonly across: Across | null }
  | { readonly step: 'satisfaction'; readonly target: Amount; readonly across: Across | null }
  | { readonly step: 'top' | 'bottom'; readonly count: number }
  | { readonly step: 'keep above' | 'keep below'; readonly bound: Amount }
  | { readonly step: 'earlier'; readonly by: Duration }
  | { readonly step: 'add labels'; readonly labels: readonly string[] }
  | { readonly step: 'rename label'; readonly label: string; readonly to: string }
  | { readonly step: 'shorten label'; readonly label: string; readonly pattern: string }
  | { readonly step: 'called'; readonly template: string }
  | { readonly step: 'fill gaps'; readonly upTo: Duration; readonly with: 'last' | 'zero' | 'a straight line' }
  | { readonly step: 'missing counts 0' }
  | { readonly step: 'forecast'; readonly ahead: Duration; readonly from: Duration; readonly rhythm: boolean }
  | { readonly step: 'time until'; readonly bound: Amount; readonly from: Duration }
  | { readonly step: 'usual'; readonly from: Duration; readonly zone: string | null }
);

export interface Chain {
  readonly source: Source;
  readonly steps: readonly Step[];
}

export const OPERATORS = ['+', '-', '*', '/'] as const;
export type Operator = (typeof OPERATORS)[number];
export type Expression =
  | { readonly is: 'name'; readonly name: string }
  /** At least 0: a sign is an operator. */
  | { readonly is: 'number'; readonly amount: Amount }
  | { readonly is: 'minus'; readonly of: Expression }
  | {
      readonly is: 'operator';
      readonly operator: Operator;
      readonly left: Expression;
      readonly right: Expression;
      /** The labels that pair lines of both sides; null: all that they bear. */
      readonly pairedBy: readonly string[] | null;
    }
  | { readonly is: 'smaller' | 'larger'; readonly left: Expression; readonly right: Expression };

export interface Binding {
  readonly name: string;
  readonly chain: Chain;
  readonly comments?: readonly string[];
}
export interface Body {
  readonly bindings: readonly Binding[];
  /** A body that is one chain has no bindings, and shows nothing else. */
  readonly result:
    | { readonly is: 'chain'; readonly chain: Chain; readonly comments?: readonly string[] }
    | {
        readonly is: 'show';
        readonly expression: Expression;
        /** "bytes", "percent", "per second", or any unit. */
        readonly as: string | null;
        readonly comments?: readonly string[];
      };
  /** Behind everything. */
  readonly comments?: readonly string[];
}
