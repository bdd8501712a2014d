import { AuditAnswer, writeQuery } from '@zetopsis/contract';
import { api } from './api.ts';

interface AuditArgument {
  readonly text: string;
  readonly by: 'anyone' | 'people' | 'zetopsis';
}

const auditApi = api.injectEndpoints({
  endpoints: (build) => ({
    audit: build.infiniteQuery<AuditAnswer, AuditArgument, number | null>({
      query: ({ queryArg, pageParam }) =>
        `admin/audit?${writeQuery({ text: queryArg.text, by: queryArg.by, before: pageParam ?? undefined })}`,
      responseSchema: AuditAnswer,
      infiniteQueryOptions: {
        initialPageParam: null,
        getNextPageParam: (last) => (last.more ? (last.entries.at(-1)?.id ?? null) : undefined),
      },
      providesTags: ['audit'],
    }),
  }),
});
export const { useAuditInfiniteQuery } = auditApi;
