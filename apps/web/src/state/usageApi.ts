import {
  type By,
  LogAnswer,
  OperationsAnswer,
  type OtherResource,
  SheetAnswer,
  type TableAnswer,
  type TableLevel,
  TapeAnswer,
  type UsageAnswer,
  VersionsAnswer,
  writeQuery,
  writeScope,
} from '@zetopsis/contract';
import { api } from './api.ts';
import { tableInPieces, usageInPieces } from './inPieces.ts';

import { type Compared, type View, viewQuery } from './viewQuery.ts';

const usageApi = api.injectEndpoints({
  endpoints: (build) => ({
    usage: build.query<UsageAnswer, Compared & { by: By; of?: OtherResource | undefined }>({
      query: (view) => viewQuery('usage', view),
      extraOptions: { check: usageInPieces },
      structuralSharing: false,
      providesTags: ['inventory', 'samples', 'sources', 'configuration'],
    }),
    object: build.query<SheetAnswer, Compared>({
      query: (view) => viewQuery('usage/object', view),
      responseSchema: SheetAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'configuration'],
    }),
    table: build.query<TableAnswer, View & { level: TableLevel; find: string }>({
      query: (view) => viewQuery('usage/table', view),
      extraOptions: { check: tableInPieces },
      structuralSharing: false,
      providesTags: ['inventory', 'samples', 'configuration'],
    }),
    log: build.query<LogAnswer, { path: readonly string[]; pod: string; container: string; previous: 'yes' | 'no' }>({
      query: ({ path, ...more }) => `usage/log?${writeQuery({ in: writeScope(path), ...more })}`,
      responseSchema: LogAnswer,
      keepUnusedDataFor: 0,
    }),
    operations: build.query<OperationsAnswer, Compared & { readonly target: number }>({
      query: ({ target, ...view }) => `${viewQuery('usage/operations', view)}&target=${target}`,
      responseSchema: OperationsAnswer,
      providesTags: ['inventory', 'samples'],
    }),
    versions: build.query<VersionsAnswer, View>({
      query: (view) => viewQuery('usage/versions', view),
      responseSchema: VersionsAnswer,
      providesTags: ['inventory'],
    }),
    tape: build.query<TapeAnswer, View>({
      query: (view) => viewQuery('usage/tape', view),
      responseSchema: TapeAnswer,
      providesTags: ['inventory', 'samples', 'alerts', 'sources', 'configuration'],
    }),
  }),
});
export const {
  useUsageQuery,
  useObjectQuery,
  useTableQuery,
  useLazyLogQuery,
  useOperationsQuery,
  useVersionsQuery,
  useTapeQuery,
} = usageApi;
