import { HistoryAnswer, MetricsAnswer, RawPage, SeriesAnswer, SourcesAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const endpointsApi = api.injectEndpoints({
  endpoints: (build) => ({
    sources: build.query<SourcesAnswer, void>({
      query: () => 'sources',
      responseSchema: SourcesAnswer,
      providesTags: ['sources', 'samples', 'inventory'],
    }),
    rawPage: build.query<RawPage, number>({ query: (id) => `endpoints/${id}/page`, responseSchema: RawPage }),
    history: build.query<HistoryAnswer, number>({
      query: (id) => `endpoints/${id}/history`,
      responseSchema: HistoryAnswer,
      providesTags: ['sources'],
    }),
    endpointMetrics: build.query<MetricsAnswer, { id: number; find: string }>({
      query: ({ id, find }) => ({ url: `endpoints/${id}/metrics`, params: find === '' ? {} : { find } }),
      responseSchema: MetricsAnswer,
    }),
    endpointSeries: build.query<SeriesAnswer, { id: number; metric: string }>({
      query: ({ id, metric }) => ({ url: `endpoints/${id}/series`, params: { metric } }),
      responseSchema: SeriesAnswer,
      providesTags: ['samples'],
    }),
  }),
});
export const { useSourcesQuery, useRawPageQuery, useHistoryQuery, useEndpointMetricsQuery, useEndpointSeriesQuery } =
  endpointsApi;
