import { type By, type OtherResource, type TableLevel, writeQuery, writeScope } from '@zetopsis/contract';

/** A window that reaches to now has only a length, so that its place in the cache does not move with the clock. */
export type WindowArgument = { readonly length: number } | { readonly from: number; readonly to: number };
export interface Scope {
  readonly path: readonly string[];
  /** Only clusters that bear this trait: "environment:production". */
  readonly clusters: string | null;
  /** What the own teams own, or all one may see. */
  readonly whose: 'mine' | 'all';
}
export interface View extends Scope {
  readonly window: WindowArgument;
}
export interface Compared extends View {
  /** How much earlier the window lies that is compared with, in ms. */
  readonly shift: number | null;
}

interface More {
  readonly shift?: number | null;
  readonly by?: By;
  readonly of?: OtherResource | undefined;
  readonly level?: TableLevel;
  readonly find?: string;
}
export const timesOf = (window: WindowArgument): { readonly from: number; readonly to?: number } =>
  'length' in window ? { from: Date.now() - window.length } : { from: window.from, to: window.to };
/** The address of what is asked about a view. */
export function viewQuery(place: string, view: View & More): string {
  const { path, window, clusters, whose, shift, by, of, level, find } = view;
  return `${place}?${writeQuery({
    in: writeScope(path),
    ...timesOf(window),
    clusters: clusters ?? undefined,
    whose: whose === 'mine' ? 'mine' : undefined,
    shift: shift ?? undefined,
    by: by === 'namespace' ? undefined : by,
    of,
    level,
    find: find === '' ? undefined : find,
  })}`;
}
