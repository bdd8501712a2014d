import { type HushDocument, HushesAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const CHANGED = ['rules', 'alerts', 'configuration'] as const;
const hushesApi = api.injectEndpoints({
  endpoints: (build) => ({
    hushes: build.query<HushesAnswer, void>({
      query: () => 'hushes',
      responseSchema: HushesAnswer,
      providesTags: CHANGED,
    }),
    addHush: build.mutation<{ key: string }, HushDocument>({
      query: (body) => ({ url: 'hushes', method: 'POST', body }),
      invalidatesTags: CHANGED,
    }),
    removeHush: build.mutation<null, string>({
      query: (key) => ({ url: `hushes/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: CHANGED,
    }),
  }),
});
export const { useHushesQuery, useAddHushMutation, useRemoveHushMutation } = hushesApi;
