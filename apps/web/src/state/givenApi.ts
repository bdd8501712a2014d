import {
  DependantsAnswer,
  type EndpointDocument,
  GivenAnswer,
  IntervalsAnswer,
  type IntervalsDocument,
  PodPortsAnswer,
  type PodPortsInput,
  TryAnswer,
} from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

import { whole } from './whole.ts';

export type Endpoint = z.input<typeof EndpointDocument>;
const Given = z.object({ given: z.array(GivenAnswer) });
type Given = z.infer<typeof Given>;

const givenApi = api.injectEndpoints({
  endpoints: (build) => ({
    given: build.query<Given, void>({ query: () => 'given', responseSchema: whole(Given), providesTags: ['sources'] }),
    tryEndpoint: build.mutation<TryAnswer, { document: Endpoint; secret: string; like?: string }>({
      query: (body) => ({ url: 'given/try', method: 'POST', body }),
      responseSchema: TryAnswer,
    }),
    addEndpoints: build.mutation<Given, { key: string; document: Endpoint; secret: string }[]>({
      query: (endpoints) => ({ url: 'given', method: 'POST', body: { endpoints } }),
      responseSchema: whole(Given),
      invalidatesTags: ['sources'],
    }),
    changeEndpoint: build.mutation<GivenAnswer, { key: string; document: Endpoint; secret: string }>({
      query: ({ key, ...body }) => ({ url: `given/${key}`, method: 'PUT', body }),
      responseSchema: whole(GivenAnswer),
      invalidatesTags: ['sources'],
    }),
    useEndpoint: build.mutation<GivenAnswer, { key: string; use: EndpointDocument['use'] }>({
      query: ({ key, use }) => ({ url: `given/${key}/use`, method: 'PUT', body: { use } }),
      responseSchema: whole(GivenAnswer),
      invalidatesTags: ['sources'],
    }),
    dependants: build.query<DependantsAnswer, number>({
      query: (id) => `endpoints/${id}/dependants`,
      responseSchema: DependantsAnswer,
    }),
    removeEndpoint: build.mutation<null, number>({
      query: (id) => ({ url: `endpoints/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources', 'configuration', 'inventory'],
    }),
    intervals: build.query<IntervalsAnswer, void>({
      query: () => 'intervals',
      responseSchema: whole(IntervalsAnswer),
      providesTags: ['sources', 'configuration'],
    }),
    saveIntervals: build.mutation<IntervalsAnswer, IntervalsDocument>({
      query: (body) => ({ url: 'intervals', method: 'PUT', body }),
      responseSchema: whole(IntervalsAnswer),
      invalidatesTags: ['sources', 'configuration'],
    }),
    podPorts: build.mutation<PodPortsAnswer, z.input<typeof PodPortsInput>>({
      query: (body) => ({ url: 'pods/ports', method: 'POST', body }),
      responseSchema: PodPortsAnswer,
    }),
  }),
});
export const {
  useGivenQuery,
  useTryEndpointMutation,
  useAddEndpointsMutation,
  useChangeEndpointMutation,
  useUseEndpointMutation,
  useDependantsQuery,
  useRemoveEndpointMutation,
  useIntervalsQuery,
  useSaveIntervalsMutation,
  usePodPortsMutation,
} = givenApi;
