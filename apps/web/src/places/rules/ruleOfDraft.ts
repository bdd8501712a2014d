import { RuleDocument } from '@zetopsis/contract';
import type { Severity } from '@zetopsis/core/findings';
import { readDuration } from '@zetopsis/core/format';
import { type Condition, conditionOf } from '@zetopsis/core/rules';
import { SECOND } from '@zetopsis/core/units';

import { type LevelDraft, type RuleDraft, readBound, unreadBound, WRITE_A_TIME } from './ruleDraft.ts';

/** By the path of the field. */
export type Problems = ReadonlyMap<string, string>;
export type ReadDraft = { readonly document: RuleDocument } | { readonly problems: Problems };
/** What a draft says, or what is wrong with it, each at its field. */
export function documentOf(draft: RuleDraft): ReadDraft {
  const problems = new Map<string, string>();
  const bound = (text: string, path: string): number | null => {
    const read = readBound(draft, text);
    if (read === undefined) problems.set(path, unreadBound(draft));
    return read ?? null;
  };
  const seconds = (text: string, path: string): number => {
    const duration = readDuration(text);
    if (duration !== null) return duration / SECOND;
    problems.set(path, WRITE_A_TIME);
    return 0;
  };
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
      low: outside ? bound(own.low, `${path}.low`) : null,
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
      low: outside ? bound(draft.clearsLow, 'clears.low') : null,
      afterSeconds: seconds(draft.clearsAfter, 'clears.afterSeconds'),
    },
    judgedSeconds: draft.judged.trim() === '' ? null : seconds(draft.judged, 'judgedSeconds'),
    hours: draft.hours.days.length === 0 ? null : draft.hours,
    overrides:
      bounded && !outside
        ? draft.overrides.map((own, i) => ({
            applies: {
              ...own.besides,
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
