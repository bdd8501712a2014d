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
  }),
});
export const { useNowQuery } = nowApi;
