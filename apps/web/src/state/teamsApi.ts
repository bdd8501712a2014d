import { type TeamDocument, TeamsAnswer } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const teamsApi = api.injectEndpoints({
  endpoints: (build) => ({
    teams: build.query<TeamsAnswer, void>({
      query: () => 'admin/teams',
      responseSchema: TeamsAnswer,
      providesTags: ['configuration', 'inventory'],
    }),
    saveTeam: build.mutation<null, { key: string | null; team: TeamDocument }>({
      query: ({ key, team }) =>
        key === null
          ? { url: 'admin/teams', method: 'POST', body: team }
          : { url: `admin/teams/${key}`, method: 'PUT', body: team },
      invalidatesTags: [...CONFIGURED],
    }),
    removeTeam: build.mutation<null, string>({
      query: (key) => ({ url: `admin/teams/${key}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
    testTeam: build.mutation<null, string>({
      query: (key) => ({ url: `admin/teams/${key}/test`, method: 'POST' }),
      invalidatesTags: ['rules', 'audit'],
    }),
  }),
});
export const { useTeamsQuery, useSaveTeamMutation, useRemoveTeamMutation, useTestTeamMutation } = teamsApi;
