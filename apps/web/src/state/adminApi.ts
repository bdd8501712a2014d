import {
  AuditAnswer,
  type NewPerson,
  type OwnPassword,
  PersonAnswer,
  type PersonChange,
  writeQuery,
} from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

interface AuditArgument {
  readonly text: string;
  readonly by: 'anyone' | 'people' | 'zetopsis';
}

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
    changeOwnPassword: build.mutation<null, OwnPassword>({
      query: (body) => ({ url: 'session/password', method: 'POST', body }),
      invalidatesTags: ['audit'],
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
  useChangeOwnPasswordMutation,
  useAuditInfiniteQuery,
} = adminApi;
