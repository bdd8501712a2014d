import { type RehearsalAnswer, RuleDocument } from '@zetopsis/contract';
import type { FindingCode, Severity } from '@zetopsis/core/findings';
import { readDuration, writeDuration } from '@zetopsis/core/format';
import { parseMeasure } from '@zetopsis/core/measures';
import {
  type Compare,
  type Condition,
  type ConditionKind,
  conditionOf,
  RULE_LEVELS,
  type StarterRule,
} from '@zetopsis/core/rules';
import { DAY, SECOND } from '@zetopsis/core/units';

/** One level as it is written: shares in percent, times as they are said, or "3 readings". */
export interface LevelDraft {
  readonly on: boolean;
  readonly bound: string;
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
  readonly compare: Compare;
  readonly codes: readonly FindingCode[];
  readonly levels: Readonly<Record<Severity, LevelDraft>>;
  readonly clearsBound: string;
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
const NO_LEVEL: LevelDraft = { on: false, bound: '', holds: '5 min' };
export const EMPTY_DRAFT: RuleDraft = {
  name: '',
  team: '',
  tells: '',
  state: 'on trial',
  kind: 'measure',
  text: '',
  compare: 'above',
  codes: [],
  levels: { warning: { ...NO_LEVEL, on: true }, critical: NO_LEVEL },
  clearsBound: '',
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

/** What a number in a field is of the number that is kept: shares are written in percent. */
export function scaleOf({ kind, text }: Pick<RuleDraft, 'kind' | 'text'>): number {
  if (kind === 'container memory') return 100;
  if (kind !== 'measure') return 1;
  const read = parseMeasure(text);
  return 'body' in read && read.body.result.is === 'show' && read.body.result.as === 'percent' ? 100 : 1;
}
const shown = (bound: number | null, scale: number): string =>
  bound === null ? '' : String(Number((bound * scale).toPrecision(12)));

export function draftOf(document: RuleDocument): RuleDraft {
  const { when, levels, clears, applies } = document;
  const text = when.is === 'measure' ? when.text : '';
  const scale = scaleOf({ kind: when.is, text });
  const level = (own: RuleDocument['levels']['warning']): LevelDraft =>
    own === null
      ? NO_LEVEL
      : {
          on: true,
          bound: shown(own.bound, scale),
          holds: own.readings === null ? writeDuration(own.holdsSeconds * SECOND) : readingsWords(own.readings),
        };
  return {
    name: document.name,
    team: document.team ?? '',
    tells: document.tells ?? '',
    state: document.state,
    kind: when.is,
    text,
    compare: when.is === 'measure' ? when.compare : 'above',
    codes: when.is === 'finding' ? when.codes : [],
    levels: { warning: level(levels.warning), critical: level(levels.critical) },
    clearsBound: shown(clears.bound, scale),
    clearsAfter: writeDuration(clears.afterSeconds * SECOND),
    judged: document.judgedSeconds === null ? '' : writeDuration(document.judgedSeconds * SECOND),
    clusters: applies.clusters.join(', '),
    namespaces: applies.namespaces.join(', '),
    teams: applies.teams,
    labels: Object.entries(applies.labels)
      .map(([key, is]) => `${key}=${is}`)
      .join(', '),
    criticality: applies.criticality,
    note: document.note,
    runbook: document.runbook,
  };
}
const readingsWords = (count: number): string => `${count} reading${count === 1 ? '' : 's'}`;

/** A rule that one may begin with, on trial until somebody has looked at what it raises. */
export const draftOfStarter = (starter: StarterRule, { team }: Pick<RuleDraft, 'team'>): RuleDraft => ({
  ...draftOf(RuleDocument.parse({ name: starter.title, ...withoutTitle(starter) })),
  state: 'on trial',
  team,
});
const withoutTitle = ({ title: _title, about: _about, ...rule }: StarterRule) => rule;

/** What is tried to find a number: no value is past it by chance. */
export const PROBE = '0';
/**
 * The number to begin with, from what other numbers would have come to: the nearest that raises at most one alert a week; the
 * farthest where too little is known for any to have raised one. Null where nothing was read.
 */
export function proposedBound(
  { curve, from, to }: Pick<RehearsalAnswer, 'curve' | 'from' | 'to'>,
  side: 'above' | 'below',
): number | null {
  const weeks = Math.max(1, (to - from) / (7 * DAY));
  const seen = curve.filter(({ bound }) => bound !== Number(PROBE));
  const inOrder = side === 'above' ? seen : [...seen].reverse();
  if (inOrder[0]?.raised === 0) return inOrder.at(-1)!.bound;
  return inOrder.find(({ raised }) => raised <= weeks)?.bound ?? null;
}

/** What would make a rule quieter, as it is handed from page to page. */
export interface Suggested {
  readonly suggested: { readonly is: 'hold longer' | 'clear later'; readonly ms: number } | { readonly is: 'on trial' };
}
export const readSuggested = (state: unknown): Suggested['suggested'] | null =>
  typeof state === 'object' && state !== null && 'suggested' in state ? (state as Suggested).suggested : null; // our own
export function draftSuggested(draft: RuleDraft, suggested: Suggested['suggested']): RuleDraft {
  if (suggested.is === 'on trial') return { ...draft, state: 'on trial' };
  const lasts = writeDuration(suggested.ms);
  if (suggested.is === 'clear later') return { ...draft, clearsAfter: lasts };
  const { warning, critical } = draft.levels;
  return {
    ...draft,
    levels: {
      warning: warning.on ? { ...warning, holds: lasts } : warning,
      critical: critical.on ? { ...critical, holds: lasts } : critical,
    },
  };
}

/** By the path of the field. */
export type Problems = ReadonlyMap<string, string>;
export type ReadDraft = { readonly document: RuleDocument } | { readonly problems: Problems };
/** What a draft says, or what is wrong with it, each at its field. */
export function documentOf(draft: RuleDraft): ReadDraft {
  const problems = new Map<string, string>();
  const scale = scaleOf(draft);
  const number = (text: string, path: string): number | null => {
    const own = text.trim().replace(',', '.').replace(/%$/, '').trim();
    if (own === '') return null;
    const value = Number(own);
    if (Number.isFinite(value)) return Number((value / scale).toPrecision(12));
    problems.set(path, 'this is not a number');
    return null;
  };
  const seconds = (text: string, path: string): number => {
    const duration = readDuration(text);
    if (duration !== null) return duration / SECOND;
    problems.set(path, 'write such as 90 s, 5 min or 1 h 30 min');
    return 0;
  };
  const condition = conditionIn(draft);
  const bounded = conditionOf(condition).bounded(condition);
  const level = (own: LevelDraft, name: Severity) => {
    if (!own.on) return null;
    const path = `levels.${name}`;
    const readings = /^\s*(\d{1,4})\s*readings?\s*$/i.exec(own.holds)?.[1];
    return {
      bound: bounded ? number(own.bound, `${path}.bound`) : null,
      readings: readings === undefined ? null : Number(readings),
      holdsSeconds: readings === undefined ? seconds(own.holds, `${path}.holdsSeconds`) : 0,
    };
  };
  const labels = listed(draft.labels).map((one) => one.split('=', 2));
  if (labels.some((parts) => parts.length < 2)) problems.set('applies.labels', 'write such as tier=gold');
  const read = RuleDocument.safeParse({
    name: draft.name,
    team: draft.team === '' ? null : draft.team,
    tells: draft.tells === '' ? null : draft.tells,
    state: draft.state,
    applies: {
      clusters: listed(draft.clusters),
      namespaces: listed(draft.namespaces),
      teams: draft.teams,
      labels: Object.fromEntries(labels.map(([key = '', is = '']) => [key.trim(), is.trim()])),
      criticality: draft.criticality,
    },
    when: condition,
    levels: { warning: level(draft.levels.warning, 'warning'), critical: level(draft.levels.critical, 'critical') },
    clears: {
      bound: bounded ? number(draft.clearsBound, 'clears.bound') : null,
      afterSeconds: seconds(draft.clearsAfter, 'clears.afterSeconds'),
    },
    judgedSeconds: draft.judged.trim() === '' ? null : seconds(draft.judged, 'judgedSeconds'),
    note: draft.note,
    runbook: draft.runbook,
  });
  if (!read.success)
    for (const issue of read.error.issues) {
      const path = issue.path.join('.');
      if (!problems.has(path)) problems.set(path, issue.message);
    }
  return read.success && problems.size === 0 ? { document: read.data } : { problems };
}
const listed = (text: string): string[] =>
  text
    .split(/[,\n]/)
    .map((part) => part.trim())
    .filter((part) => part !== '');
function conditionIn({ kind, text, compare, codes }: RuleDraft): Condition {
  switch (kind) {
    case 'measure':
      return { is: 'measure', text, compare };
    case 'finding':
      return { is: 'finding', codes };
    case 'container memory':
    case 'fewer ready':
    case 'not read':
      return { is: kind };
  }
}
/** The first that is wrong within a part of the form, so that a part that is shut does not hide it. */
export const problemWithin = (problems: Problems, part: string): string | undefined =>
  [...problems].find(([path]) => path === part || path.startsWith(`${part}.`))?.[1];
/** The level whose number the curve is about: the lowest that is set. */
export const lowestOf = (draft: RuleDraft): Severity | null =>
  RULE_LEVELS.find((level) => draft.levels[level].on) ?? null;
