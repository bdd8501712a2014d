import {
  ConnectionAnswer,
  type ConnectionChange,
  type ConnectionInput,
  ConnectionTest,
  ImportAnswer,
  type ImportQuery,
  ImportsAnswer,
  RawPage,
  SourcesAnswer,
} from '@zetopsis/contract';
import type { z } from 'zod';
import { api } from './api.ts';

type Input = z.input<typeof ConnectionInput>;
type Change = z.input<typeof ConnectionChange>;

const sourcesApi = api.injectEndpoints({
  endpoints: (build) => ({
    sources: build.query<SourcesAnswer, void>({
      query: () => 'sources',
      responseSchema: SourcesAnswer,
      providesTags: ['sources', 'samples', 'inventory'],
    }),
    rawPage: build.query<RawPage, number>({ query: (id) => `endpoints/${id}/page`, responseSchema: RawPage }),
    testConnection: build.mutation<ConnectionTest, Change & { connectionId?: string }>({
      query: (body) => ({ url: 'connections/test', method: 'POST', body }),
      responseSchema: ConnectionTest,
    }),
    addConnection: build.mutation<ConnectionAnswer, Input>({
      query: (body) => ({ url: 'connections', method: 'POST', body }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources', 'inventory'],
    }),
    changeConnection: build.mutation<ConnectionAnswer, { id: string; change: Change }>({
      query: ({ id, change }) => ({ url: `connections/${id}`, method: 'PATCH', body: change }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources'],
    }),
    removeConnection: build.mutation<null, string>({
      query: (id) => ({ url: `connections/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources', 'inventory', 'samples', 'alerts'],
    }),
    imports: build.query<ImportsAnswer, void>({
      query: () => 'imports',
      responseSchema: ImportsAnswer,
      providesTags: ['sources'],
    }),
    takeImport: build.mutation<ImportAnswer, ImportQuery & { file: File }>({
      query: ({ file, ...params }) => ({
        url: 'imports',
        method: 'POST',
        params,
        body: file,
        // the file as it is, whatever its name says it were
        headers: { 'content-type': 'text/plain' },
      }),
      responseSchema: ImportAnswer,
      invalidatesTags: ['sources', 'samples'],
    }),
    cancelImport: build.mutation<null, number>({
      query: (id) => ({ url: `imports/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
  }),
});
export const {
  useSourcesQuery,
  useRawPageQuery,
  useTestConnectionMutation,
  useAddConnectionMutation,
  useChangeConnectionMutation,
  useRemoveConnectionMutation,
  useImportsQuery,
  useTakeImportMutation,
  useCancelImportMutation,
} = sourcesApi;
