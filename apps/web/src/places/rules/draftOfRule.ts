import { EVERYTHING, placeOf, RuleDocument, readPath } from '@zetopsis/contract';
import { writeDuration } from '@zetopsis/core/format';
import type { Condition, StarterRule } from '@zetopsis/core/rules';
import { SECOND } from '@zetopsis/core/units';
import type { RuleBegin } from '../../frame/ShowMeasure.tsx';

import { EMPTY_DRAFT, type LevelDraft, NO_LEVEL, type RuleDraft, writeBound } from './ruleDraft.ts';

/** `unit`: what its measure comes out in, where that is known. */
export function draftOf(document: RuleDocument, unit: string | null = null): RuleDraft {
  const { when, levels, clears, applies } = document;
  const text = 'text' in when ? when.text : '';
  const shown = (bound: number | null) => writeBound({ kind: when.is, text, unit }, bound);
  const level = (own: RuleDocument['levels']['warning']): LevelDraft =>
    own === null
      ? NO_LEVEL
      : {
          on: true,
          bound: shown(own.bound),
          low: shown(own.low),
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
    unit,
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
    overrides: document.overrides.map(({ applies: { names, namespaces, labels, teams, ...besides }, ...own }) => ({
      names: names.join(', '),
      namespaces: namespaces.join(', '),
      labels: labelWords(labels),
      teams,
      besides,
      warning: shown(own.warning),
      critical: shown(own.critical),
      clears: shown(own.clears),
    })),
    levels: { warning: level(levels.warning), critical: level(levels.critical) },
    clearsBound: shown(clears.bound),
    clearsLow: shown(clears.low),
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
