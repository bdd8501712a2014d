import { type ForwardInput, ForwardsAnswer, ForwardTest } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const forwardsApi = api.injectEndpoints({
  endpoints: (build) => ({
    forwards: build.query<ForwardsAnswer, void>({
      query: () => 'forwards',
      responseSchema: ForwardsAnswer,
      providesTags: ['configuration'],
    }),
    addForward: build.mutation<{ key: string }, ForwardInput>({
      query: (body) => ({ url: 'forwards', method: 'POST', body }),
      invalidatesTags: [...CONFIGURED],
    }),
    saveForward: build.mutation<null, { key: string; input: ForwardInput }>({
      query: ({ key, input }) => ({ url: `forwards/${encodeURIComponent(key)}`, method: 'PUT', body: input }),
      invalidatesTags: [...CONFIGURED],
    }),
    testForward: build.mutation<ForwardTest, string>({
      query: (key) => ({ url: `forwards/${encodeURIComponent(key)}/test`, method: 'POST' }),
      responseSchema: ForwardTest,
    }),
    removeForward: build.mutation<null, string>({
      query: (key) => ({ url: `forwards/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
  }),
});
export const {
  useForwardsQuery,
  useAddForwardMutation,
  useSaveForwardMutation,
  useTestForwardMutation,
  useRemoveForwardMutation,
} = forwardsApi;
