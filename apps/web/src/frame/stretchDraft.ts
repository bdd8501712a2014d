import { StretchDocument, type StretchKind } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';

/** A stretch while somebody marks it; times as the fields of a form have them, in the zone of who looks. */
export interface StretchDraft {
  readonly kind: StretchKind;
  readonly title: string;
  readonly scope: readonly string[];
  readonly team: string;
  readonly from: string;
  /** Empty: it goes on. */
  readonly to: string;
  readonly note: string;
  /** What was written down: it stays to the millisecond where its field is left as it was. */
  readonly written?: Readonly<Record<'from' | 'to', { readonly field: string; readonly moment: string | null }>>;
}
/** "2026-11-30T02:00", in the zone of who looks; seconds where there are any. */
const localTime = (at: number): string =>
  new Date(at - new Date(at).getTimezoneOffset() * MINUTE).toISOString().replace(/(:00)?\.\d+Z$/, '');
/** Of whole minutes, and of one at least. */
export const draftOfWindow = (
  window: { readonly from: number; readonly to: number | null },
  scope: readonly string[],
): StretchDraft => {
  const whole = (at: number) => Math.floor(at / MINUTE) * MINUTE;
  const from = whole(window.from);
  return {
    kind: 'load',
    title: '',
    scope,
    team: '',
    from: localTime(from),
    to: window.to === null ? '' : localTime(Math.max(whole(window.to), from + MINUTE)),
    note: '',
  };
};
export const draftOfStretch = ({ from, to, team, ...document }: StretchDocument): StretchDraft => {
  const fields = { from: localTime(Date.parse(from)), to: to === null ? '' : localTime(Date.parse(to)) };
  const written = { from: { field: fields.from, moment: from }, to: { field: fields.to, moment: to } };
  return { ...document, team: team ?? '', ...fields, written };
};

/** What a draft says, or what is wrong with it, by field. */
export function stretchOf(
  draft: StretchDraft,
): { readonly document: StretchDocument } | { readonly problems: ReadonlyMap<string, string> } {
  const { written, ...own } = draft;
  const moment = (field: 'from' | 'to'): string | null => {
    const text = own[field];
    const before = written?.[field];
    if (before?.field === text) return before.moment;
    if (field === 'to' && text === '') return null;
    const at = new Date(text).getTime();
    return Number.isNaN(at) ? text : new Date(at).toISOString();
  };
  const read = StretchDocument.safeParse({
    ...own,
    team: own.team === '' ? null : own.team,
    from: moment('from'),
    to: moment('to'),
  });
  if (read.success) return { document: read.data };
  return { problems: new Map(read.error.issues.map(({ path, message }) => [String(path[0]), message])) };
}
