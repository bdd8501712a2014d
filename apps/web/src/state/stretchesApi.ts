import { type StretchDocument, StretchesAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const CHANGED = ['configuration'] as const;
const stretchesApi = api.injectEndpoints({
  endpoints: (build) => ({
    stretches: build.query<StretchesAnswer, void>({
      query: () => 'stretches',
      responseSchema: StretchesAnswer,
      providesTags: CHANGED,
    }),
    addStretch: build.mutation<{ key: string }, StretchDocument>({
      query: (body) => ({ url: 'stretches', method: 'POST', body }),
      invalidatesTags: [...CHANGED],
    }),
    saveStretch: build.mutation<null, { key: string; document: StretchDocument }>({
      query: ({ key, document }) => ({ url: `stretches/${encodeURIComponent(key)}`, method: 'PUT', body: document }),
      invalidatesTags: [...CHANGED],
    }),
    endStretch: build.mutation<null, string>({
      query: (key) => ({ url: `stretches/${encodeURIComponent(key)}/end`, method: 'POST', body: {} }),
      invalidatesTags: [...CHANGED],
    }),
    removeStretch: build.mutation<null, string>({
      query: (key) => ({ url: `stretches/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: [...CHANGED],
    }),
  }),
});
export const {
  useStretchesQuery,
  useAddStretchMutation,
  useSaveStretchMutation,
  useEndStretchMutation,
  useRemoveStretchMutation,
} = stretchesApi;
