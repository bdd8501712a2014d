import { MACHINES, VitalsAnswer, type VitalsDocument } from '@zetopsis/contract';
import { api } from './api.ts';

import { whole } from './whole.ts';

/** Of a cluster, or of the machines outside of all. */
const pathOf = (whose: string): string => (whose === MACHINES ? 'host-vitals' : `vitals/${whose}`);

const vitalsApi = api.injectEndpoints({
  endpoints: (build) => ({
    vitals: build.query<VitalsAnswer, string>({
      query: pathOf,
      responseSchema: whole(VitalsAnswer),
      providesTags: ['inventory'],
    }),
    tryVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: `${pathOf(cluster)}/try`, method: 'POST', body: document }),
      responseSchema: whole(VitalsAnswer),
    }),
    saveVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: pathOf(cluster), method: 'PUT', body: document }),
      responseSchema: whole(VitalsAnswer),
      invalidatesTags: ['sources', 'samples', 'inventory'],
    }),
  }),
});
export const { useVitalsQuery, useTryVitalsMutation, useSaveVitalsMutation } = vitalsApi;
