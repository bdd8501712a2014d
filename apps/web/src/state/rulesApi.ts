import {
  DeliveriesAnswer,
  type DeliveriesQuery,
  LateAnswer,
  NoiseAnswer,
  QuieterAnswer,
  RehearsalAnswer,
  type RehearsalInput,
  RehearsalProgress,
  type RuleDocument,
  RuleSheet,
  RulesAnswer,
  type StricterInput,
} from '@zetopsis/contract';
import { api } from './api.ts';

const CHANGED = ['rules', 'alerts', 'configuration'] as const;
const rulesApi = api.injectEndpoints({
  endpoints: (build) => ({
    rules: build.query<RulesAnswer, void>({
      query: () => 'rules',
      responseSchema: RulesAnswer,
      providesTags: CHANGED,
    }),
    rule: build.query<RuleSheet, string>({
      query: (key) => `rules/${encodeURIComponent(key)}`,
      responseSchema: RuleSheet,
      providesTags: CHANGED,
    }),
    addRule: build.mutation<{ key: string }, RuleDocument>({
      query: (body) => ({ url: 'rules', method: 'POST', body }),
      invalidatesTags: CHANGED,
    }),
    saveRule: build.mutation<null, { key: string; document: RuleDocument }>({
      query: ({ key, document }) => ({ url: `rules/${encodeURIComponent(key)}`, method: 'PUT', body: document }),
      invalidatesTags: CHANGED,
    }),
    removeRule: build.mutation<null, string>({
      query: (key) => ({ url: `rules/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: CHANGED,
    }),
    judgeRule: build.mutation<null, string>({
      query: (key) => ({ url: `rules/${encodeURIComponent(key)}/judge`, method: 'POST' }),
      invalidatesTags: ['rules', 'alerts'],
    }),
    /** Looks only: nothing is kept of it. */
    rehearse: build.mutation<RehearsalAnswer, RehearsalInput>({
      query: (body) => ({ url: 'rules/rehearse', method: 'POST', body }),
      responseSchema: RehearsalAnswer,
    }),
    rehearsalProgress: build.query<RehearsalProgress, string>({
      query: (id) => `rules/rehearsals/${id}`,
      responseSchema: RehearsalProgress,
      keepUnusedDataFor: 0,
    }),
    stricter: build.mutation<null, { key: string; input: StricterInput }>({
      query: ({ key, input }) => ({ url: `rules/${encodeURIComponent(key)}/stricter`, method: 'PUT', body: input }),
      invalidatesTags: CHANGED,
    }),
    late: build.query<LateAnswer, string>({
      query: (key) => `rules/${encodeURIComponent(key)}/late`,
      responseSchema: LateAnswer,
      keepUnusedDataFor: 0,
    }),
    noise: build.query<NoiseAnswer, void>({
      query: () => 'noise',
      responseSchema: NoiseAnswer,
      providesTags: CHANGED,
    }),
    /** Rehearsed twice: kept as long as the report is looked at. */
    quieter: build.query<QuieterAnswer, string>({
      query: (key) => `rules/${encodeURIComponent(key)}/quieter`,
      responseSchema: QuieterAnswer,
    }),
    deliveries: build.query<DeliveriesAnswer, DeliveriesQuery>({
      query: (params) => ({ url: 'deliveries', params }),
      responseSchema: DeliveriesAnswer,
      providesTags: ['rules', 'alerts'],
    }),
    retryDelivery: build.mutation<null, number>({
      query: (id) => ({ url: `deliveries/${id}/retry`, method: 'POST' }),
      invalidatesTags: ['rules'],
    }),
  }),
});
export const {
  useRulesQuery,
  useRuleQuery,
  useAddRuleMutation,
  useSaveRuleMutation,
  useRemoveRuleMutation,
  useJudgeRuleMutation,
  useNoiseQuery,
  useQuieterQuery,
  useStricterMutation,
  useLazyLateQuery,
  useRehearseMutation,
  useRehearsalProgressQuery,
  useDeliveriesQuery,
  useRetryDeliveryMutation,
} = rulesApi;
