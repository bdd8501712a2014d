import {
  clusterOf,
  MeasureAnswer,
  type MeasureDocument,
  MeasureVersionsAnswer,
  MetricLabelsAnswer,
  MetricNamesAnswer,
  namespaceOf,
  readPath,
  SavedMeasuresAnswer,
} from '@zetopsis/contract';
import { z } from 'zod';
import { api, CONFIGURED } from './api.ts';
import type { View } from './viewQuery.ts';
import { whole } from './whole.ts';

/** As far as a measure looks at a place: a cluster, or a namespace in it. */
function placeOfMeasure(path: readonly string[]): string[] {
  const place = readPath(path);
  if (place === null) return [];
  return [clusterOf(place), namespaceOf(place)].filter((part) => part !== null);
}

export interface LabelsOf {
  readonly of: 'metric' | 'vital';
  readonly name: string;
  /** Whose values are wanted; empty: none. */
  readonly label: string;
}
export interface MeasureQuery extends Omit<View, 'clusters'> {
  readonly text: string;
  readonly explain: boolean;
  /** Milliseconds between two points; null: as suits the window. */
  readonly every: number | null;
  /** How much earlier than the window, ms. */
  readonly earlier: number;
}
/** What the API is asked. */
export function measureBody({ text, explain, path, window, every, earlier }: MeasureQuery) {
  const now = Date.now();
  const { from, to } = 'length' in window ? { from: now - window.length, to: now } : window;
  return {
    text,
    explain,
    in: placeOfMeasure(path),
    from: Math.round(from - earlier),
    to: Math.round(to - earlier),
    ...(every === null ? {} : { step: every }),
  };
}
const measuresApi = api.injectEndpoints({
  endpoints: (build) => ({
    measure: build.query<MeasureAnswer, MeasureQuery>({
      query: (query) => ({
        url: `measures/evaluate${query.whose === 'mine' ? '?whose=mine' : ''}`,
        method: 'POST',
        body: measureBody(query),
      }),
      responseSchema: whole(MeasureAnswer),
      structuralSharing: false,
      providesTags: ['samples'],
    }),
    metricNames: build.query<MetricNamesAnswer, string>({
      query: (find) => `measures/metrics?find=${encodeURIComponent(find)}`,
      responseSchema: whole(MetricNamesAnswer),
    }),
    metricLabels: build.query<MetricLabelsAnswer, LabelsOf>({
      query: ({ of, name, label }) => `measures/labels?${new URLSearchParams({ of, name, label })}`,
      responseSchema: MetricLabelsAnswer,
    }),
    savedMeasures: build.query<SavedMeasuresAnswer, void>({
      query: () => 'measures/saved',
      responseSchema: whole(SavedMeasuresAnswer),
      providesTags: ['configuration'],
    }),
    measureVersions: build.query<MeasureVersionsAnswer, string>({
      query: (key) => `measures/saved/${key}/versions`,
      responseSchema: MeasureVersionsAnswer,
      providesTags: ['configuration'],
    }),
    keepMeasure: build.mutation<{ key: string }, MeasureDocument>({
      query: (body) => ({ url: 'measures/saved', method: 'POST', body }),
      responseSchema: z.object({ key: z.string() }),
      invalidatesTags: [...CONFIGURED],
    }),
    changeMeasure: build.mutation<null, { key: string; document: MeasureDocument }>({
      query: ({ key, document }) => ({ url: `measures/saved/${key}`, method: 'PUT', body: document }),
      invalidatesTags: [...CONFIGURED],
    }),
    removeMeasure: build.mutation<null, string>({
      query: (key) => ({ url: `measures/saved/${key}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
  }),
});
export const {
  useSavedMeasuresQuery,
  useMeasureVersionsQuery,
  useKeepMeasureMutation,
  useChangeMeasureMutation,
  useRemoveMeasureMutation,
  useMeasureQuery,
  useMetricNamesQuery,
  useLazyMetricLabelsQuery,
  useLazyMetricNamesQuery,
} = measuresApi;
