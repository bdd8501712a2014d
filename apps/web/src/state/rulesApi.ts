import { type RuleChange, RulesAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const rulesApi = api.injectEndpoints({
  endpoints: (build) => ({
    rules: build.query<RulesAnswer, void>({
      query: () => 'rules',
      responseSchema: RulesAnswer,
      providesTags: ['rules', 'alerts', 'configuration'],
    }),
    changeRule: build.mutation<null, { id: number; change: RuleChange }>({
      query: ({ id, change }) => ({ url: `rules/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['rules', 'alerts', 'configuration'],
    }),
    retryDelivery: build.mutation<null, number>({
      query: (id) => ({ url: `deliveries/${id}/retry`, method: 'POST' }),
      invalidatesTags: ['rules'],
    }),
  }),
});
export const { useRulesQuery, useChangeRuleMutation, useRetryDeliveryMutation } = rulesApi;
