import { CriticalityAnswer, type CriticalityDocument } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const criticalityApi = api.injectEndpoints({
  endpoints: (build) => ({
    criticality: build.query<CriticalityAnswer, string>({
      query: (cluster) => `criticality/${cluster}`,
      responseSchema: CriticalityAnswer,
      providesTags: ['configuration', 'inventory'],
    }),
    saveCriticality: build.mutation<CriticalityAnswer, { cluster: string; document: CriticalityDocument }>({
      query: ({ cluster, document }) => ({ url: `criticality/${cluster}`, method: 'PUT', body: document }),
      responseSchema: CriticalityAnswer,
      invalidatesTags: [...CONFIGURED, 'samples'],
    }),
  }),
});
export const { useCriticalityQuery, useSaveCriticalityMutation } = criticalityApi;
