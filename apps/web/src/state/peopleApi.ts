import { type NewPerson, type OwnPassword, PersonAnswer, type PersonChange, SightAnswer } from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

const peopleApi = api.injectEndpoints({
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
    /** Of oneself: all others but this one. */
    endSessions: build.mutation<null, string | 'own'>({
      query: (person) => ({
        url: person === 'own' ? 'session/others' : `admin/people/${person}/sessions`,
        method: 'DELETE',
      }),
      invalidatesTags: ['audit'],
    }),
    changeOwnPassword: build.mutation<null, OwnPassword>({
      query: (body) => ({ url: 'session/password', method: 'POST', body }),
      invalidatesTags: ['audit'],
    }),
  }),
});
export const {
  usePeopleQuery,
  useAddPersonMutation,
  useChangePersonMutation,
  useRemovePersonMutation,
  useSightQuery,
  useEndSessionsMutation,
  useChangeOwnPasswordMutation,
} = peopleApi;
