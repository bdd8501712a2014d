import { LinesAnswer, TraceAnswer, TracesAnswer, writeQuery } from '@zetopsis/contract';
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
    /** The slowest and the failed traces of an object. */
    objectTraces: build.query<TracesAnswer, View>({
      query: (view) => viewQuery('records/traces', view),
      responseSchema: TracesAnswer,
      providesTags: ['lines'],
    }),
    trace: build.query<TraceAnswer, { id: string; from: number; to: number }>({
      query: ({ id, ...window }) => `records/traces/${id}?${writeQuery(window)}`,
      responseSchema: TraceAnswer,
    }),
  }),
});
export const { useObjectLinesQuery, useObjectTracesQuery, useTraceQuery } = recordsApi;
