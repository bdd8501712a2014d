import type { RuleDocument, RuleSelector, SelectedKind } from '@zetopsis/contract';
import type { FindingCode, Severity } from '@zetopsis/core/findings';
import { readDuration, writeDuration } from '@zetopsis/core/format';
import type { InventoryKind } from '@zetopsis/core/inventory';
import { parseMeasure, readWrittenAmount, writeAmount } from '@zetopsis/core/measures';
import {
  CONDITIONS,
  type Compare,
  type ConditionKind,
  type ExpectedKind,
  type ObjectChangeKind,
  RULE_LEVELS,
  type Side,
  type UnusualSide,
  type Weekday,
} from '@zetopsis/core/rules';
import { SECOND } from '@zetopsis/core/units';

/** One level as it is written: shares in percent, times as they are said, or "3 readings". */
export interface LevelDraft {
  readonly on: boolean;
  readonly bound: string;
  /** The lower of two. */
  readonly low: string;
  readonly holds: string;
}
/** A rule while somebody writes it: what stands in the fields, right or wrong. */
export interface RuleDraft {
  readonly name: string;
  /** Empty: the platform's. */
  readonly team: string;
  /** Empty: the owner of what it is about. */
  readonly tells: string;
  readonly state: RuleDocument['state'];
  readonly kind: ConditionKind;
  readonly text: string;
  /** What its measure comes out in; null where nobody knows yet. */
  readonly unit: string | null;
  readonly compare: Compare;
  readonly codes: readonly FindingCode[];
  /** Of what runs out: what it comes to, and from how much of the past. */
  readonly reaches: string;
  readonly learned: string;
  /** Of what departs from its usual. */
  readonly side: UnusualSide;
  readonly days: string;
  readonly quietFrom: string;
  readonly quietTo: string;
  /** Words of events, parted by commas; how long what happened stands. */
  readonly reasons: string;
  readonly stands: string;
  readonly changes: readonly ObjectChangeKind[];
  readonly changedKinds: readonly InventoryKind[];
  /** What is expected. */
  readonly expectedKinds: readonly ExpectedKind[];
  readonly expectedNames: string;
  readonly least: string;
  readonly most: string;
  readonly extra: boolean;
  /** When it is judged; no days: always. */
  readonly hours: {
    readonly days: readonly Weekday[];
    readonly from: string;
    readonly to: string;
    readonly zone: string;
  };
  readonly title: string;
  readonly says: string;
  /** A name and an address in each line. */
  readonly links: string;
  readonly environments: string;
  readonly kinds: readonly SelectedKind[];
  readonly names: string;
  readonly overrides: readonly OverrideDraft[];
  /** Kept as it is: teams set it for themselves. */
  readonly stricter: RuleDocument['stricter'];
  readonly levels: Readonly<Record<Severity, LevelDraft>>;
  readonly clearsBound: string;
  readonly clearsLow: string;
  readonly clearsAfter: string;
  /** Empty: with each reading. */
  readonly judged: string;
  /** Names, parted by commas. */
  readonly clusters: string;
  readonly namespaces: string;
  readonly teams: readonly string[];
  /** "tier=gold", parted by commas. */
  readonly labels: string;
  readonly criticality: RuleDocument['applies']['criticality'];
  readonly note: string;
  readonly runbook: string;
}
/** Other numbers for some of the objects. */
export interface OverrideDraft {
  readonly names: string;
  readonly namespaces: string;
  readonly labels: string;
  readonly teams: readonly string[];
  /** What else they are chosen by, where a file says so: kept as it is. */
  readonly besides: Pick<RuleSelector, 'clusters' | 'environments' | 'kinds' | 'criticality'>;
  readonly warning: string;
  readonly critical: string;
  readonly clears: string;
}
export const NO_OVERRIDE: OverrideDraft = {
  names: '',
  namespaces: '',
  labels: '',
  teams: [],
  besides: { clusters: [], environments: [], kinds: [], criticality: [] },
  warning: '',
  critical: '',
  clears: '',
};
export const NO_LEVEL: LevelDraft = { on: false, bound: '', low: '', holds: '5 min' };
export const EMPTY_DRAFT: RuleDraft = {
  name: '',
  team: '',
  tells: '',
  state: 'on trial',
  kind: 'measure',
  text: '',
  unit: null,
  compare: 'above',
  codes: [],
  reaches: '1',
  learned: '3 d',
  side: 'either',
  days: '14',
  quietFrom: '',
  quietTo: '',
  reasons: '',
  stands: '1 h',
  changes: ['removed'],
  changedKinds: [],
  expectedKinds: ['deployment'],
  expectedNames: '',
  least: '',
  most: '',
  extra: false,
  hours: { days: [], from: '06:00', to: '22:00', zone: 'UTC' },
  title: '',
  says: '',
  links: '',
  environments: '',
  kinds: [],
  names: '',
  overrides: [],
  stricter: {},
  levels: { warning: { ...NO_LEVEL, on: true }, critical: NO_LEVEL },
  clearsBound: '',
  clearsLow: '',
  clearsAfter: '5 min',
  judged: '',
  clusters: '',
  namespaces: '',
  teams: [],
  labels: '',
  criticality: [],
  note: '',
  runbook: '',
};

/** What says how its numbers are written. */
type NumbersOf = Pick<RuleDraft, 'kind' | 'text' | 'unit'>;
/** What a number in a field is of the number that is kept: shares are written in percent. */
export function scaleOf({ kind, text }: Pick<RuleDraft, 'kind' | 'text'>): number {
  if (kind === 'container memory') return 100;
  if (kind !== 'measure') return 1;
  const read = parseMeasure(text);
  return 'body' in read && read.body.result.is === 'show' && read.body.result.as === 'percent' ? 100 : 1;
}
/**
 * A number that something is compared with, as it is kept: shares are written in percent, and what runs out in times. Null: none is
 * written; undefined: it cannot be read.
 */
export function readBound(draft: NumbersOf, written: string): number | null | undefined {
  const own = written.trim();
  if (own === '') return null;
  if (draft.kind === 'running out') {
    const duration = readDuration(own);
    return duration === null ? undefined : duration / SECOND;
  }
  const amount = readWrittenAmount(own);
  if (amount === null) return undefined;
  if (amount.unit === null) return Number((amount.value / scaleOf(draft)).toPrecision(12));
  return fits(draft, amount.unit) ? amount.value : undefined;
}
/** Whether what it compares with numbers is of this kind, as far as that is known. */
const fits = (draft: NumbersOf, unit: string): boolean =>
  takesUnits(draft) ? (draft.unit ?? unit) === unit : unit === '' && draft.kind !== 'unusual';
/** A number as it is kept, as `readBound` reads it; `digits`: rounded to so many. */
export function writeBound(draft: NumbersOf, bound: number | null, digits: number | null = null): string {
  if (bound === null) return '';
  if (draft.kind === 'running out') return writeDuration(Math.round(bound) * SECOND);
  if (takesUnits(draft)) return writeAmount(Number(bound.toPrecision(12)), draft.unit, digits);
  return String(Number((bound * scaleOf(draft)).toPrecision(digits ?? 12)));
}
/** Its numbers may bear a unit: not shares, which are written in percent, and not bands. */
export const takesUnits = (draft: Pick<RuleDraft, 'kind' | 'text'>): boolean =>
  draft.kind === 'measure' && scaleOf(draft) === 1;
/** A number as it may be written of what the measure comes out in. */
export const exampleOf = ({ unit }: Pick<RuleDraft, 'unit'>): string =>
  unit === null || unit === 'bytes' ? '200 MiB' : unit === 'seconds' ? '250 ms' : '12';
export const WRITE_A_TIME = 'write such as 90 s, 5 min or 1 h 30 min';
/** What is said where one cannot be read. */
export const unreadBound = (draft: NumbersOf): string => {
  if (draft.kind === 'running out') return WRITE_A_TIME;
  if (!takesUnits(draft)) return 'this is not a number';
  return `write a number${draft.unit === null || draft.unit === '' ? '' : ` of ${draft.unit}`} such as ${exampleOf(draft)}`;
};
/** Each line of a measure is an object. */
export const isOnLines = ({ kind }: Pick<RuleDraft, 'kind'>): boolean => CONDITIONS[kind].lines;
/** Its levels compare with numbers. */
export const isBounded = ({ kind, compare }: Pick<RuleDraft, 'kind' | 'compare'>): boolean =>
  kind === 'measure' ? compare !== 'missing' : kind === 'container memory' || CONDITIONS[kind].lines;
export const sideOf = ({ kind, compare }: Pick<RuleDraft, 'kind' | 'compare'>): Side =>
  kind === 'running out' ? 'below' : kind === 'measure' && compare !== 'missing' ? compare : 'above';
/** The level whose number the curve is about: the lowest that is set. */
export const lowestOf = (draft: RuleDraft): Severity | null =>
  RULE_LEVELS.find((level) => draft.levels[level].on) ?? null;
