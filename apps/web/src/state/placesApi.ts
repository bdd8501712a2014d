import {
  type By,
  FindAnswer,
  NowAnswer,
  SheetAnswer,
  TapeAnswer,
  UsageAnswer,
  writeQuery,
  writeScope,
} from '@zetopsis/contract';
import { api } from './api.ts';

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
interface Compared extends View {
  /** How much earlier the window lies that is compared with, in ms. */
  readonly shift: number | null;
}

function query(place: string, view: View & { shift?: number | null; by?: By }): string {
  const { path, window, clusters, whose, shift, by } = view;
  const times = 'length' in window ? { from: Date.now() - window.length } : { from: window.from, to: window.to };
  return `${place}?${writeQuery({
    in: writeScope(path),
    ...times,
    clusters: clusters ?? undefined,
    whose: whose === 'mine' ? 'mine' : undefined,
    shift: shift ?? undefined,
    by: by === 'namespace' ? undefined : by,
  })}`;
}

const placesApi = api.injectEndpoints({
  endpoints: (build) => ({
    now: build.query<NowAnswer, Compared>({
      query: (view) => query('now', view),
      responseSchema: NowAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'rules', 'configuration'],
    }),
    usage: build.query<UsageAnswer, Compared & { by: By }>({
      query: (view) => query('usage', view),
      responseSchema: UsageAnswer,
      providesTags: ['inventory', 'samples', 'sources', 'configuration'],
    }),
    object: build.query<SheetAnswer, Compared>({
      query: (view) => query('usage/object', view),
      responseSchema: SheetAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'configuration'],
    }),
    find: build.query<FindAnswer, string>({
      query: (typed) => `find?${writeQuery({ q: typed })}`,
      responseSchema: FindAnswer,
      providesTags: ['inventory'],
    }),
    tape: build.query<TapeAnswer, View>({
      query: (view) => query('usage/tape', view),
      responseSchema: TapeAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'configuration'],
    }),
  }),
});
export const { useNowQuery, useUsageQuery, useObjectQuery, useTapeQuery, useFindQuery } = placesApi;
