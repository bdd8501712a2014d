import {
  type By,
  FindAnswer,
  LogAnswer,
  NowAnswer,
  type OtherResource,
  type SavedViewInput,
  SavedViewsAnswer,
  SheetAnswer,
  type TableAnswer,
  type TableLevel,
  TapeAnswer,
  type UsageAnswer,
  VersionsAnswer,
  writeQuery,
  writeScope,
} from '@zetopsis/contract';
import { api } from './api.ts';
import { tableInPieces, usageInPieces } from './inPieces.ts';

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

interface More {
  readonly shift?: number | null;
  readonly by?: By;
  readonly of?: OtherResource | undefined;
  readonly level?: TableLevel;
  readonly find?: string;
}
function query(place: string, view: View & More): string {
  const { path, window, clusters, whose, shift, by, of, level, find } = view;
  const times = 'length' in window ? { from: Date.now() - window.length } : { from: window.from, to: window.to };
  return `${place}?${writeQuery({
    in: writeScope(path),
    ...times,
    clusters: clusters ?? undefined,
    whose: whose === 'mine' ? 'mine' : undefined,
    shift: shift ?? undefined,
    by: by === 'namespace' ? undefined : by,
    of,
    level,
    find: find === '' ? undefined : find,
  })}`;
}

const placesApi = api.injectEndpoints({
  endpoints: (build) => ({
    now: build.query<NowAnswer, Compared>({
      query: (view) => query('now', view),
      responseSchema: NowAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'rules', 'configuration'],
    }),
    usage: build.query<UsageAnswer, Compared & { by: By; of?: OtherResource | undefined }>({
      query: (view) => query('usage', view),
      extraOptions: { check: usageInPieces },
      structuralSharing: false,
      providesTags: ['inventory', 'samples', 'sources', 'configuration'],
    }),
    object: build.query<SheetAnswer, Compared>({
      query: (view) => query('usage/object', view),
      responseSchema: SheetAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'configuration'],
    }),
    table: build.query<TableAnswer, View & { level: TableLevel; find: string }>({
      query: (view) => query('usage/table', view),
      extraOptions: { check: tableInPieces },
      structuralSharing: false,
      providesTags: ['inventory', 'samples', 'configuration'],
    }),
    log: build.query<LogAnswer, { path: readonly string[]; pod: string; container: string; previous: 'yes' | 'no' }>({
      query: ({ path, ...more }) => `usage/log?${writeQuery({ in: writeScope(path), ...more })}`,
      responseSchema: LogAnswer,
      keepUnusedDataFor: 0,
    }),
    versions: build.query<VersionsAnswer, View>({
      query: (view) => query('usage/versions', view),
      responseSchema: VersionsAnswer,
      providesTags: ['inventory'],
    }),
    views: build.query<SavedViewsAnswer, void>({
      query: () => 'views',
      responseSchema: SavedViewsAnswer,
      providesTags: ['views'],
    }),
    keepView: build.mutation<SavedViewsAnswer, SavedViewInput>({
      query: (body) => ({ url: 'views', method: 'POST', body }),
      responseSchema: SavedViewsAnswer,
      invalidatesTags: ['views'],
    }),
    removeView: build.mutation<null, number>({
      query: (id) => ({ url: `views/${id}`, method: 'DELETE' }),
      invalidatesTags: ['views'],
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
export const {
  useNowQuery,
  useUsageQuery,
  useObjectQuery,
  useTapeQuery,
  useFindQuery,
  useTableQuery,
  useLazyLogQuery,
  useVersionsQuery,
  useViewsQuery,
  useKeepViewMutation,
  useRemoveViewMutation,
} = placesApi;
