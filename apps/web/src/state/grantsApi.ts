import { GrantAnswer, type GrantDocument } from '@zetopsis/contract';
import { z } from 'zod';
import { api, CONFIGURED } from './api.ts';

const grantsApi = api.injectEndpoints({
  endpoints: (build) => ({
    grants: build.query<GrantAnswer[], void>({
      query: () => 'admin/grants',
      responseSchema: z.array(GrantAnswer),
      providesTags: ['configuration'],
    }),
    addGrant: build.mutation<null, GrantDocument>({
      query: (body) => ({ url: 'admin/grants', method: 'POST', body }),
      invalidatesTags: [...CONFIGURED],
    }),
    removeGrant: build.mutation<null, string>({
      query: (key) => ({ url: `admin/grants/${key}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
  }),
});
export const { useGrantsQuery, useAddGrantMutation, useRemoveGrantMutation } = grantsApi;
