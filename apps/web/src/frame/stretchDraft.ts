import { StretchDocument, type StretchKind } from '@zetopsis/contract';

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
/** "2026-11-30T02:00", in the zone of who looks. */
function localTime(at: number): string {
  const date = new Date(at);
  const two = (value: number) => String(value).padStart(2, '0');
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}T${two(date.getHours())}:${two(date.getMinutes())}`;
}
export const draftOfWindow = (
  window: { readonly from: number; readonly to: number | null },
  scope: readonly string[],
): StretchDraft => ({
  kind: 'load',
  title: '',
  scope,
  team: '',
  from: localTime(window.from),
  to: window.to === null ? '' : localTime(window.to),
  note: '',
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
