import {
  EVERYTHING,
  placeOf,
  type RehearsalAnswer,
  RuleDocument,
  readPath,
  type SelectedKind,
} from '@zetopsis/contract';
import type { FindingCode, Severity } from '@zetopsis/core/findings';
import { readDuration, writeDuration } from '@zetopsis/core/format';
import type { InventoryKind } from '@zetopsis/core/inventory';
import { parseMeasure } from '@zetopsis/core/measures';
import {
  CONDITIONS,
  type Compare,
  type Condition,
  type ConditionKind,
  conditionOf,
  type ExpectedKind,
  type ObjectChangeKind,
  RULE_LEVELS,
  type Side,
  type StarterRule,
  type UnusualSide,
  type Weekday,
} from '@zetopsis/core/rules';
import { DAY, SECOND } from '@zetopsis/core/units';
import type { RuleBegin } from '../../frame/ShowMeasure.tsx';

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
  readonly warning: string;
  readonly critical: string;
  readonly clears: string;
}
export const NO_OVERRIDE: OverrideDraft = {
  names: '',
  namespaces: '',
  labels: '',
  teams: [],
  warning: '',
  critical: '',
  clears: '',
};
const NO_LEVEL: LevelDraft = { on: false, bound: '', low: '', holds: '5 min' };
export const EMPTY_DRAFT: RuleDraft = {
  name: '',
  team: '',
  tells: '',
  state: 'on trial',
  kind: 'measure',
  text: '',
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

/** What a number in a field is of the number that is kept: shares are written in percent. */
export function scaleOf({ kind, text }: Pick<RuleDraft, 'kind' | 'text'>): number {
  if (kind === 'container memory') return 100;
  if (kind !== 'measure') return 1;
  const read = parseMeasure(text);
  return 'body' in read && read.body.result.is === 'show' && read.body.result.as === 'percent' ? 100 : 1;
}
/** Each line of a measure is an object. */
export const isOnLines = ({ kind }: Pick<RuleDraft, 'kind'>): boolean => CONDITIONS[kind].lines;
/** Its levels compare with numbers. */
export const isBounded = ({ kind, compare }: Pick<RuleDraft, 'kind' | 'compare'>): boolean =>
  kind === 'measure' ? compare !== 'missing' : kind === 'container memory' || CONDITIONS[kind].lines;
export const sideOf = ({ kind, compare }: Pick<RuleDraft, 'kind' | 'compare'>): Side =>
  kind === 'running out' ? 'below' : kind === 'measure' && compare !== 'missing' ? compare : 'above';
const shown = (bound: number | null, scale: number): string =>
  bound === null ? '' : String(Number((bound * scale).toPrecision(12)));

export function draftOf(document: RuleDocument): RuleDraft {
  const { when, levels, clears, applies } = document;
  const text = 'text' in when ? when.text : '';
  const scale = scaleOf({ kind: when.is, text });
  const level = (own: RuleDocument['levels']['warning']): LevelDraft =>
    own === null
      ? NO_LEVEL
      : {
          on: true,
          bound: shownBound(when.is, own.bound, scale),
          low: shown(own.low, scale),
          holds: own.readings === null ? writeDuration(own.holdsSeconds * SECOND) : readingsWords(own.readings),
        };
  return {
    ...EMPTY_DRAFT,
    ...conditionFields(when),
    name: document.name,
    team: document.team ?? '',
    tells: document.tells ?? '',
    state: document.state,
    kind: when.is,
    text,
    compare: when.is === 'measure' ? when.compare : 'above',
    codes: when.is === 'finding' ? when.codes : [],
    hours: document.hours ?? EMPTY_DRAFT.hours,
    title: document.title,
    says: document.says,
    links: document.links.map(({ name, address }) => `${name} ${address}`).join('\n'),
    environments: applies.environments.join(', '),
    kinds: applies.kinds,
    stricter: document.stricter,
    names: applies.names.join(', '),
    overrides: document.overrides.map((own) => ({
      names: own.applies.names.join(', '),
      namespaces: own.applies.namespaces.join(', '),
      labels: labelWords(own.applies.labels),
      teams: own.applies.teams,
      warning: shownBound(when.is, own.warning, scale),
      critical: shownBound(when.is, own.critical, scale),
      clears: shownBound(when.is, own.clears, scale),
    })),
    levels: { warning: level(levels.warning), critical: level(levels.critical) },
    clearsBound: shownBound(when.is, clears.bound, scale),
    clearsLow: shown(clears.low, scale),
    clearsAfter: writeDuration(clears.afterSeconds * SECOND),
    judged: document.judgedSeconds === null ? '' : writeDuration(document.judgedSeconds * SECOND),
    clusters: applies.clusters.join(', '),
    namespaces: applies.namespaces.join(', '),
    teams: applies.teams,
    labels: labelWords(applies.labels),
    criticality: applies.criticality,
    note: document.note,
    runbook: document.runbook,
  };
}
const labelWords = (labels: Readonly<Record<string, string>>): string =>
  Object.entries(labels)
    .map(([key, is]) => `${key}=${is}`)
    .join(', ');
/** What runs out is compared with times. */
const shownBound = (kind: ConditionKind, bound: number | null, scale: number): string =>
  kind === 'running out' && bound !== null ? writeDuration(bound * SECOND) : shown(bound, scale);
/** What is particular to a kind of condition, in the fields of the form. */
function conditionFields(when: Condition): Partial<RuleDraft> {
  switch (when.is) {
    case 'running out':
      return { reaches: when.reaches, learned: writeDuration(when.fromSeconds * SECOND) };
    case 'unusual':
      return {
        side: when.side,
        days: String(when.days),
        quietFrom: when.quiet?.from ?? '',
        quietTo: when.quiet?.to ?? '',
      };
    case 'cluster event':
      return { reasons: when.reasons.join(', '), stands: writeDuration(when.standsSeconds * SECOND) };
    case 'object change':
      return {
        changes: when.changes,
        changedKinds: when.kinds,
        stands: writeDuration(when.standsSeconds * SECOND),
      };
    case 'expected':
      return {
        expectedKinds: when.kinds,
        expectedNames: when.names.join(', '),
        least: when.least === null ? '' : String(when.least),
        most: when.most === null ? '' : String(when.most),
        extra: when.extra,
      };
    default:
      return {};
  }
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

/** A draft about what is found, heard or silent somewhere; null where a page was opened without. */
export const readBegin = (state: unknown): RuleBegin | null =>
  typeof state === 'object' && state !== null && 'begin' in state ? (state as { begin: RuleBegin }).begin : null; // our own
export function draftOfBegin(begin: RuleBegin, { team }: Pick<RuleDraft, 'team'>): RuleDraft {
  if (begin.of === 'silence') return { ...EMPTY_DRAFT, team, kind: 'not read', name: 'a source is silent' };
  const path = readPath(begin.path) ?? EVERYTHING;
  const { cluster, namespace } = placeOf(path);
  const own = path.is === 'cluster' || path.is === 'namespace' || path.is === 'everything' ? '' : begin.name;
  const scope = { team, clusters: cluster ?? '', namespaces: namespace ?? '', names: own };
  return begin.of === 'finding'
    ? {
        ...EMPTY_DRAFT,
        ...scope,
        kind: 'finding',
        codes: [begin.code],
        name: `${begin.name}: ${codeWords(begin.code)}`,
      }
    : {
        ...EMPTY_DRAFT,
        ...scope,
        // an event may be about a part of the object
        names: '',
        kind: 'cluster event',
        reasons: begin.reason,
        name: `${begin.name}: ${begin.reason}`,
      };
}
/** "imageNotPulled" as "image not pulled". */
export const codeWords = (code: string): string => code.replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`);

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
const written = (bound: number, scale: number): string => String(Number((bound * scale).toPrecision(6)));
export const withBound = (draft: RuleDraft, level: Severity, bound: number): RuleDraft => ({
  ...draft,
  levels: {
    ...draft.levels,
    [level]: {
      ...draft.levels[level],
      bound: draft.kind === 'running out' ? writeDuration(Math.round(bound) * SECOND) : written(bound, scaleOf(draft)),
    },
  },
});
/** The number of the lowest level as it is kept; null where it has none, or none that can be read. */
export function boundOf(draft: RuleDraft): number | null {
  const lowest = lowestOf(draft);
  const text = lowest === null ? '' : draft.levels[lowest].bound.trim();
  if (text === '' || !isBounded(draft)) return null;
  if (draft.kind === 'running out') {
    const duration = readDuration(text);
    return duration === null ? null : duration / SECOND;
  }
  const bound = Number(text.replace(',', '.').replace('%', '')) / scaleOf(draft);
  return Number.isFinite(bound) ? bound : null;
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
  const bound = (text: string, path: string): number | null =>
    draft.kind === 'running out' ? (text.trim() === '' ? null : seconds(text, path)) : number(text, path);
  const labelled = (text: string, path: string): Record<string, string> => {
    const parts = listed(text).map((one) => one.split('=', 2));
    if (parts.some((own) => own.length < 2)) problems.set(path, 'write such as tier=gold');
    return Object.fromEntries(parts.map(([key = '', is = '']) => [key.trim(), is.trim()]));
  };
  const condition = conditionIn(draft, seconds);
  const bounded = conditionOf(condition).bounded(condition);
  const outside = bounded && conditionOf(condition).side(condition) === 'outside';
  const level = (own: LevelDraft, name: Severity) => {
    if (!own.on) return null;
    const path = `levels.${name}`;
    const readings = /^\s*(\d{1,4})\s*readings?\s*$/i.exec(own.holds)?.[1];
    return {
      bound: bounded ? bound(own.bound, `${path}.bound`) : null,
      low: outside ? number(own.low, `${path}.low`) : null,
      readings: readings === undefined ? null : Number(readings),
      holdsSeconds: readings === undefined ? seconds(own.holds, `${path}.holdsSeconds`) : 0,
    };
  };
  const read = RuleDocument.safeParse({
    name: draft.name,
    team: draft.team === '' ? null : draft.team,
    tells: draft.tells === '' ? null : draft.tells,
    state: draft.state,
    applies: {
      clusters: listed(draft.clusters),
      namespaces: listed(draft.namespaces),
      teams: draft.teams,
      labels: labelled(draft.labels, 'applies.labels'),
      criticality: draft.criticality,
      environments: listed(draft.environments),
      kinds: draft.kinds,
      names: listed(draft.names),
    },
    when: condition,
    levels: { warning: level(draft.levels.warning, 'warning'), critical: level(draft.levels.critical, 'critical') },
    clears: {
      bound: bounded ? bound(draft.clearsBound, 'clears.bound') : null,
      low: outside ? number(draft.clearsLow, 'clears.low') : null,
      afterSeconds: seconds(draft.clearsAfter, 'clears.afterSeconds'),
    },
    judgedSeconds: draft.judged.trim() === '' ? null : seconds(draft.judged, 'judgedSeconds'),
    hours: draft.hours.days.length === 0 ? null : draft.hours,
    overrides:
      bounded && !outside
        ? draft.overrides.map((own, i) => ({
            applies: {
              names: listed(own.names),
              namespaces: listed(own.namespaces),
              labels: labelled(own.labels, `overrides.${i}.applies.labels`),
              teams: own.teams,
            },
            warning: draft.levels.warning.on ? bound(own.warning, `overrides.${i}.warning`) : null,
            critical: draft.levels.critical.on ? bound(own.critical, `overrides.${i}.critical`) : null,
            clears: bound(own.clears, `overrides.${i}.clears`),
          }))
        : [],
    stricter: bounded && !outside && draft.team === '' ? draft.stricter : {},
    title: draft.title,
    says: draft.says,
    links: linesIn(draft.links).map((line) => {
      const at = line.lastIndexOf(' ');
      return { name: line.slice(0, Math.max(0, at)).trim(), address: line.slice(at + 1) };
    }),
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
const linesIn = (text: string): string[] =>
  text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '');
const counted = (text: string): number | null => (text.trim() === '' ? null : Number(text));
function conditionIn(draft: RuleDraft, seconds: (text: string, path: string) => number): Condition {
  const { kind, text, compare, codes, quietFrom, quietTo } = draft;
  switch (kind) {
    case 'running out':
      return { is: kind, text, reaches: draft.reaches.trim(), fromSeconds: seconds(draft.learned, 'when.fromSeconds') };
    case 'unusual':
      return {
        is: kind,
        text,
        side: draft.side,
        days: Number(draft.days),
        quiet: quietFrom.trim() === '' && quietTo.trim() === '' ? null : { from: quietFrom.trim(), to: quietTo.trim() },
      };
    case 'cluster event':
      return { is: kind, reasons: listed(draft.reasons), standsSeconds: seconds(draft.stands, 'when.standsSeconds') };
    case 'object change':
      return {
        is: kind,
        changes: draft.changes,
        kinds: draft.changedKinds,
        standsSeconds: seconds(draft.stands, 'when.standsSeconds'),
      };
    case 'expected':
      return {
        is: kind,
        kinds: draft.expectedKinds,
        names: listed(draft.expectedNames),
        least: counted(draft.least),
        most: counted(draft.most),
        extra: draft.extra,
      };
    case 'measure':
      return { is: 'measure', text, compare };
    case 'finding':
      return { is: 'finding', codes };
    case 'container memory':
    case 'fewer ready':
    case 'not read':
    case 'itself':
      return { is: kind };
  }
}
/** The first that is wrong within a part of the form, so that a part that is shut does not hide it. */
export const problemWithin = (problems: Problems, part: string): string | undefined =>
  [...problems].find(([path]) => path === part || path.startsWith(`${part}.`))?.[1];
/** The level whose number the curve is about: the lowest that is set. */
export const lowestOf = (draft: RuleDraft): Severity | null =>
  RULE_LEVELS.find((level) => draft.levels[level].on) ?? null;
