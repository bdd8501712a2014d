import { type FollowDocument, FollowsAnswer } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const followsApi = api.injectEndpoints({
  endpoints: (build) => ({
    follows: build.query<FollowsAnswer, void>({
      query: () => 'follows',
      responseSchema: FollowsAnswer,
      providesTags: ['configuration'],
    }),
    addFollow: build.mutation<{ key: string }, FollowDocument>({
      query: (body) => ({ url: 'follows', method: 'POST', body }),
      invalidatesTags: [...CONFIGURED],
    }),
    saveFollow: build.mutation<null, { key: string; document: FollowDocument }>({
      query: ({ key, document }) => ({ url: `follows/${encodeURIComponent(key)}`, method: 'PUT', body: document }),
      invalidatesTags: [...CONFIGURED],
    }),
    removeFollow: build.mutation<null, string>({
      query: (key) => ({ url: `follows/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
  }),
});
export const { useFollowsQuery, useAddFollowMutation, useSaveFollowMutation, useRemoveFollowMutation } = followsApi;
