import { FindAnswer, writeQuery } from '@zetopsis/contract';
import { api } from './api.ts';

const findApi = api.injectEndpoints({
  endpoints: (build) => ({
    find: build.query<FindAnswer, string>({
      query: (typed) => `find?${writeQuery({ q: typed })}`,
      responseSchema: FindAnswer,
      providesTags: ['inventory'],
    }),
  }),
});
export const { useFindQuery } = findApi;
