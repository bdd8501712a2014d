import { NowAnswer, SheetAnswer, TapeAnswer, UsageAnswer, writeQuery, writeScope } from '@zetopsis/contract';
import { api } from './api.ts';

/** A window that reaches to now has only a length, so that its place in the cache does not move with the clock. */
export type WindowArgument = { readonly length: number } | { readonly from: number; readonly to: number };
export interface View {
  readonly path: readonly string[];
  readonly window: WindowArgument;
}

function query(place: string, { path, window }: View): string {
  const times = 'length' in window ? { from: Date.now() - window.length } : { from: window.from, to: window.to };
  return `${place}?${writeQuery({ in: writeScope(path), ...times })}`;
}

const placesApi = api.injectEndpoints({
  endpoints: (build) => ({
    now: build.query<NowAnswer, View>({
      query: (view) => query('now', view),
      responseSchema: NowAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'rules'],
    }),
    usage: build.query<UsageAnswer, View>({
      query: (view) => query('usage', view),
      responseSchema: UsageAnswer,
      providesTags: ['inventory', 'samples', 'sources'],
    }),
    object: build.query<SheetAnswer, View>({
      query: (view) => query('usage/object', view),
      responseSchema: SheetAnswer,
      providesTags: ['inventory', 'samples', 'alerts'],
    }),
    tape: build.query<TapeAnswer, View>({
      query: (view) => query('usage/tape', view),
      responseSchema: TapeAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources'],
    }),
  }),
});
export const { useNowQuery, useUsageQuery, useObjectQuery, useTapeQuery } = placesApi;
