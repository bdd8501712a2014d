import { ImportAnswer, type ImportQuery, ImportsAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const importsApi = api.injectEndpoints({
  endpoints: (build) => ({
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
export const { useImportsQuery, useTakeImportMutation, useCancelImportMutation } = importsApi;
