import { type RuleChange, RulesAnswer, TeamAnswer, type TeamInput } from '@zetopsis/contract';
import { api } from './api.ts';

const rulesApi = api.injectEndpoints({
  endpoints: (build) => ({
    rules: build.query<RulesAnswer, void>({
      query: () => 'rules',
      responseSchema: RulesAnswer,
      providesTags: ['rules', 'alerts'],
    }),
    changeRule: build.mutation<null, { id: number; change: RuleChange }>({
      query: ({ id, change }) => ({ url: `rules/${id}`, method: 'PATCH', body: change }),
      invalidatesTags: ['rules', 'alerts'],
    }),
    saveTeam: build.mutation<TeamAnswer, { id?: number; team: TeamInput }>({
      query: ({ id, team }) =>
        id === undefined
          ? { url: 'teams', method: 'POST', body: team }
          : { url: `teams/${id}`, method: 'PUT', body: team },
      responseSchema: TeamAnswer,
      invalidatesTags: ['rules'],
    }),
    removeTeam: build.mutation<null, number>({
      query: (id) => ({ url: `teams/${id}`, method: 'DELETE' }),
      invalidatesTags: ['rules'],
    }),
    testTeam: build.mutation<null, number>({
      query: (id) => ({ url: `teams/${id}/test`, method: 'POST' }),
      invalidatesTags: ['rules'],
    }),
    retryDelivery: build.mutation<null, number>({
      query: (id) => ({ url: `deliveries/${id}/retry`, method: 'POST' }),
      invalidatesTags: ['rules'],
    }),
  }),
});
export const {
  useRulesQuery,
  useChangeRuleMutation,
  useSaveTeamMutation,
  useRemoveTeamMutation,
  useTestTeamMutation,
  useRetryDeliveryMutation,
} = rulesApi;
