import {
  ChangeAnswer,
  FileAnswer,
  type FileInput,
  type RevisionInput,
  RevisionSheet,
  RevisionsAnswer,
  writeQuery,
} from '@zetopsis/contract';
import { api, TAGS } from './api.ts';

const configurationApi = api.injectEndpoints({
  endpoints: (build) => ({
    revisions: build.infiniteQuery<RevisionsAnswer, void, number | null>({
      query: ({ pageParam }) => `admin/revisions?${writeQuery({ before: pageParam ?? undefined })}`,
      responseSchema: RevisionsAnswer,
      infiniteQueryOptions: {
        initialPageParam: null,
        getNextPageParam: (last) => (last.more ? (last.revisions.at(-1)?.id ?? null) : undefined),
      },
      providesTags: ['configuration'],
    }),
    revision: build.query<RevisionSheet, number>({
      query: (id) => `admin/revisions/${id}`,
      responseSchema: RevisionSheet,
    }),
    turnBack: build.mutation<ChangeAnswer, { id: number } & RevisionInput>({
      query: ({ id, ...body }) => ({ url: `admin/revisions/${id}`, method: 'POST', body }),
      responseSchema: ChangeAnswer,
      invalidatesTags: (answer) => (answer?.revision == null ? ['audit'] : [...TAGS]),
    }),
    configurationFile: build.query<FileAnswer, 'yaml' | 'json'>({
      query: (as) => `admin/configuration?${writeQuery({ as })}`,
      responseSchema: FileAnswer,
      providesTags: ['configuration'],
    }),
    readConfiguration: build.mutation<ChangeAnswer, FileInput>({
      query: (body) => ({ url: 'admin/configuration', method: 'POST', body }),
      responseSchema: ChangeAnswer,
      invalidatesTags: (answer) => (answer?.revision == null ? ['audit'] : [...TAGS]),
    }),
  }),
});
export const {
  useRevisionsInfiniteQuery,
  useRevisionQuery,
  useTurnBackMutation,
  useConfigurationFileQuery,
  useReadConfigurationMutation,
} = configurationApi;
