import { LinesAnswer } from '@zetopsis/contract';
import { api } from './api.ts';
import { type View, viewQuery } from './viewQuery.ts';

const recordsApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** The newest lines of an object. */
    objectLines: build.query<LinesAnswer, View>({
      query: (view) => viewQuery('records/lines', view),
      responseSchema: LinesAnswer,
      providesTags: ['lines'],
    }),
  }),
});
export const { useObjectLinesQuery } = recordsApi;
