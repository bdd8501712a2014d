import { NowAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

import { type Compared, viewQuery } from './viewQuery.ts';

const nowApi = api.injectEndpoints({
  endpoints: (build) => ({
    now: build.query<NowAnswer, Compared>({
      query: (view) => viewQuery('now', view),
      responseSchema: NowAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'rules', 'configuration'],
    }),
    /** Null: given back. */
    takeAlert: build.mutation<null, { id: number; note: string | null }>({
      query: ({ id, note }) => ({ url: `alerts/${id}/take`, method: 'POST', body: { note } }),
      invalidatesTags: ['alerts'],
    }),
  }),
});
export const { useNowQuery, useTakeAlertMutation } = nowApi;
