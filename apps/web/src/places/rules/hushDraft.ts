import { HushDocument } from '@zetopsis/contract';
import { readDuration } from '@zetopsis/core/format';
import type { Weekday } from '@zetopsis/core/rules';
import type { Problems } from './ruleOfDraft.ts';

/** A hush while somebody plans it. */
export interface HushDraft {
  readonly reason: string;
  readonly team: string;
  readonly kind: 'from now' | 'once' | 'weekly' | 'maintenance';
  /** "2 h": from now on. */
  readonly lasts: string;
  /** As a field of the browser has a moment: without a zone, in its own. */
  readonly from: string;
  readonly to: string;
  readonly zone: string;
  readonly days: readonly Weekday[];
  readonly begins: string;
  readonly ends: string;
  /** Empty: all of them. */
  readonly rule: string;
  readonly clusters: string;
  readonly namespaces: string;
}
export const emptyHush = (zone: string, team: string): HushDraft => ({
  reason: '',
  team,
  kind: 'from now',
  lasts: '2 h',
  from: '',
  to: '',
  zone,
  days: ['Mon', 'Tue', 'Wed', 'Thu', 'Fri'],
  begins: '22:00',
  ends: '06:00',
  rule: '',
  clusters: '',
  namespaces: '',
});
const listed = (text: string): string[] =>
  text
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');

/** What a draft says at a moment, or what is wrong with it, each at its field. */
export function hushOf(
  draft: HushDraft,
  now: number,
): { readonly document: HushDocument } | { readonly problems: Problems } {
  const problems = new Map<string, string>();
  const moment = (text: string, path: string): string => {
    const at = Date.parse(text);
    if (Number.isNaN(at)) problems.set(path, 'a day and a time');
    return Number.isNaN(at) ? new Date(now).toISOString() : new Date(at).toISOString();
  };
  const when = () => {
    switch (draft.kind) {
      case 'from now': {
        const lasts = readDuration(draft.lasts);
        if (lasts === null || lasts === 0) problems.set('lasts', 'write such as 30 min, 2 h or 1 d');
        return { is: 'once', from: new Date(now).toISOString(), to: new Date(now + (lasts || 1000)).toISOString() };
      }
      case 'once':
        return { is: 'once', from: moment(draft.from, 'when.from'), to: moment(draft.to, 'when.to') };
      case 'weekly':
        return { is: 'weekly', zone: draft.zone, days: draft.days, from: draft.begins, to: draft.ends };
      case 'maintenance':
        return { is: 'maintenance' };
    }
  };
  const read = HushDocument.safeParse({
    reason: draft.reason,
    team: draft.team === '' ? null : draft.team,
    rules: draft.rule === '' ? [] : [draft.rule],
    applies: { clusters: listed(draft.clusters), namespaces: listed(draft.namespaces) },
    when: when(),
  });
  if (!read.success)
    for (const { path, message } of read.error.issues) {
      const at = path.join('.');
      if (!problems.has(at)) problems.set(at, message);
    }
  return read.success && problems.size === 0 ? { document: read.data } : { problems };
}
