import {
  AuditAnswer,
  GrantAnswer,
  type GrantDocument,
  type NewPerson,
  NewTokenAnswer,
  type OwnPassword,
  PersonAnswer,
  type PersonChange,
  RetentionAnswer,
  type RetentionDocument,
  SightAnswer,
  type TeamDocument,
  TeamsAnswer,
  TokenAnswer,
  type TokenInput,
  writeQuery,
} from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

interface AuditArgument {
  readonly text: string;
  readonly by: 'anyone' | 'people' | 'zetopsis';
}
/** Whatever is configured anew may change what everybody sees. */
const CONFIGURED = ['configuration', 'audit', 'inventory', 'rules', 'alerts', 'session'] as const;

const adminApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.query<PersonAnswer[], void>({
      query: () => 'admin/people',
      responseSchema: z.array(PersonAnswer),
      providesTags: ['people'],
    }),
    addPerson: build.mutation<PersonAnswer, NewPerson>({
      query: (body) => ({ url: 'admin/people', method: 'POST', body }),
      responseSchema: PersonAnswer,
      invalidatesTags: ['people', 'audit'],
    }),
    changePerson: build.mutation<PersonAnswer, { id: string; change: PersonChange }>({
      query: ({ id, change }) => ({ url: `admin/people/${id}`, method: 'PATCH', body: change }),
      responseSchema: PersonAnswer,
      invalidatesTags: ['people', 'audit', 'session'],
    }),
    removePerson: build.mutation<null, string>({
      query: (id) => ({ url: `admin/people/${id}`, method: 'DELETE' }),
      invalidatesTags: ['people', 'audit'],
    }),
    sight: build.query<SightAnswer, string>({
      query: (id) => `admin/people/${id}/sight`,
      responseSchema: SightAnswer,
      providesTags: ['people', 'configuration', 'inventory'],
    }),
    changeOwnPassword: build.mutation<null, OwnPassword>({
      query: (body) => ({ url: 'session/password', method: 'POST', body }),
      invalidatesTags: ['audit'],
    }),
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
    retention: build.query<RetentionAnswer, void>({
      query: () => 'admin/retention',
      responseSchema: RetentionAnswer,
      providesTags: ['retention', 'configuration'],
    }),
    changeRetention: build.mutation<null, RetentionDocument>({
      query: (body) => ({ url: 'admin/retention', method: 'PUT', body }),
      invalidatesTags: ['retention', ...CONFIGURED],
    }),
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
    /** Of oneself: all others but this one. */
    endSessions: build.mutation<null, string | 'own'>({
      query: (person) => ({
        url: person === 'own' ? 'session/others' : `admin/people/${person}/sessions`,
        method: 'DELETE',
      }),
      invalidatesTags: ['audit'],
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
    audit: build.infiniteQuery<AuditAnswer, AuditArgument, number | null>({
      query: ({ queryArg, pageParam }) =>
        `admin/audit?${writeQuery({ text: queryArg.text, by: queryArg.by, before: pageParam ?? undefined })}`,
      responseSchema: AuditAnswer,
      infiniteQueryOptions: {
        initialPageParam: null,
        getNextPageParam: (last) => (last.more ? (last.entries.at(-1)?.id ?? null) : undefined),
      },
      providesTags: ['audit'],
    }),
  }),
});
export const {
  usePeopleQuery,
  useAddPersonMutation,
  useChangePersonMutation,
  useRemovePersonMutation,
  useSightQuery,
  useChangeOwnPasswordMutation,
  useTeamsQuery,
  useSaveTeamMutation,
  useRemoveTeamMutation,
  useTestTeamMutation,
  useGrantsQuery,
  useAddGrantMutation,
  useRemoveGrantMutation,
  useRetentionQuery,
  useChangeRetentionMutation,
  useTokensQuery,
  useTokensOfQuery,
  useRemoveTokenOfMutation,
  useEndSessionsMutation,
  useMakeTokenMutation,
  useRemoveTokenMutation,
  useAuditInfiniteQuery,
} = adminApi;
