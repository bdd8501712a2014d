import { NewTokenAnswer, TokenAnswer, type TokenInput } from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

const tokensApi = api.injectEndpoints({
  endpoints: (build) => ({
    tokens: build.query<TokenAnswer[], void>({
      query: () => 'tokens',
      responseSchema: z.array(TokenAnswer),
      providesTags: ['tokens'],
    }),
    tokensOf: build.query<TokenAnswer[], string>({
      query: (person) => `admin/people/${person}/tokens`,
      responseSchema: z.array(TokenAnswer),
      providesTags: ['tokens'],
    }),
    removeTokenOf: build.mutation<null, { person: string; token: string }>({
      query: ({ person, token }) => ({ url: `admin/people/${person}/tokens/${token}`, method: 'DELETE' }),
      invalidatesTags: ['tokens', 'audit'],
    }),
    makeToken: build.mutation<NewTokenAnswer, TokenInput>({
      query: (body) => ({ url: 'tokens', method: 'POST', body }),
      responseSchema: NewTokenAnswer,
      invalidatesTags: ['tokens', 'audit'],
    }),
    removeToken: build.mutation<null, string>({
      query: (id) => ({ url: `tokens/${id}`, method: 'DELETE' }),
      invalidatesTags: ['tokens', 'audit'],
    }),
  }),
});
export const {
  useTokensQuery,
  useTokensOfQuery,
  useRemoveTokenOfMutation,
  useMakeTokenMutation,
  useRemoveTokenMutation,
} = tokensApi;
