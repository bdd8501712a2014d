import { clusterOf, MeasureAnswer, MetricNamesAnswer, namespaceOf, readPath } from '@zetopsis/contract';
import { api } from './api.ts';
import type { View } from './viewQuery.ts';
import { whole } from './whole.ts';

/** As far as a measure looks at a place: a cluster, or a namespace in it. */
function placeOfMeasure(path: readonly string[]): string[] {
  const place = readPath(path);
  if (place === null) return [];
  return [clusterOf(place), namespaceOf(place)].filter((part) => part !== null);
}

export interface MeasureQuery extends Omit<View, 'clusters'> {
  readonly text: string;
  readonly explain: boolean;
}
const measuresApi = api.injectEndpoints({
  endpoints: (build) => ({
    measure: build.query<MeasureAnswer, MeasureQuery>({
      query: ({ text, explain, path, whose, window }) => {
        const now = Date.now();
        const times =
          'length' in window ? { from: now - window.length, to: now } : { from: window.from, to: window.to };
        return {
          url: `measures/evaluate${whose === 'mine' ? '?whose=mine' : ''}`,
          method: 'POST',
          body: { text, explain, in: placeOfMeasure(path), from: Math.round(times.from), to: Math.round(times.to) },
        };
      },
      responseSchema: whole(MeasureAnswer),
      structuralSharing: false,
      providesTags: ['samples'],
    }),
    metricNames: build.query<MetricNamesAnswer, string>({
      query: (find) => `measures/metrics?find=${encodeURIComponent(find)}`,
      responseSchema: whole(MetricNamesAnswer),
    }),
  }),
});
export const { useMeasureQuery, useMetricNamesQuery, useLazyMetricNamesQuery } = measuresApi;
