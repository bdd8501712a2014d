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
}
/** "2026-11-30T02:00", in the zone of who looks; seconds where there are any. */
const localTime = (at: number): string =>
  new Date(at - new Date(at).getTimezoneOffset() * MINUTE).toISOString().replace(/(:00)?(\.000)?Z$/, '');
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
export const draftOfStretch = ({ from, to, team, ...document }: StretchDocument): StretchDraft => ({
  ...document,
  team: team ?? '',
  from: localTime(Date.parse(from)),
  to: to === null ? '' : localTime(Date.parse(to)),
});

/** What a draft says, or what is wrong with it, by field. */
export function stretchOf(
  draft: StretchDraft,
): { readonly document: StretchDocument } | { readonly problems: ReadonlyMap<string, string> } {
  const moment = (text: string): string => {
    const at = new Date(text).getTime();
    return Number.isNaN(at) ? text : new Date(at).toISOString();
  };
  const read = StretchDocument.safeParse({
    ...draft,
    team: draft.team === '' ? null : draft.team,
    from: moment(draft.from),
    to: draft.to === '' ? null : moment(draft.to),
  });
  if (read.success) return { document: read.data };
  return { problems: new Map(read.error.issues.map(({ path, message }) => [String(path[0]), message])) };
}
