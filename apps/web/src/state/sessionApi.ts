import { type FirstPerson, Person, SessionAnswer, type SignIn } from '@zetopsis/contract';
import type { z } from 'zod';
import { api } from './api.ts';

const sessionApi = api.injectEndpoints({
  endpoints: (build) => ({
    session: build.query<SessionAnswer, void>({
      query: () => 'session',
      responseSchema: SessionAnswer,
      providesTags: ['session'],
    }),
    signIn: build.mutation<Person, SignIn>({
      query: (body) => ({ url: 'session', method: 'POST', body }),
      responseSchema: Person,
      invalidatesTags: ['session'],
    }),
    signOut: build.mutation<null, void>({
      query: () => ({ url: 'session', method: 'DELETE' }),
      invalidatesTags: ['session'],
    }),
    makeFirst: build.mutation<Person, z.input<typeof FirstPerson>>({
      query: (body) => ({ url: 'first-person', method: 'POST', body }),
      responseSchema: Person,
      invalidatesTags: ['session'],
    }),
  }),
});
export const { useSessionQuery, useSignInMutation, useSignOutMutation, useMakeFirstMutation } = sessionApi;
