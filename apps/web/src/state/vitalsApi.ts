import { VitalsAnswer, type VitalsDocument } from '@zetopsis/contract';
import { api } from './api.ts';

import { whole } from './whole.ts';

const vitalsApi = api.injectEndpoints({
  endpoints: (build) => ({
    vitals: build.query<VitalsAnswer, string>({
      query: (cluster) => `vitals/${cluster}`,
      responseSchema: whole(VitalsAnswer),
      providesTags: ['inventory'],
    }),
    tryVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: `vitals/${cluster}/try`, method: 'POST', body: document }),
      responseSchema: whole(VitalsAnswer),
    }),
    saveVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: `vitals/${cluster}`, method: 'PUT', body: document }),
      responseSchema: whole(VitalsAnswer),
      invalidatesTags: ['sources', 'samples', 'inventory'],
    }),
  }),
});
export const { useVitalsQuery, useTryVitalsMutation, useSaveVitalsMutation } = vitalsApi;
