import { RetentionAnswer, type RetentionDocument } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const retentionApi = api.injectEndpoints({
  endpoints: (build) => ({
    retention: build.query<RetentionAnswer, void>({
      query: () => 'admin/retention',
      responseSchema: RetentionAnswer,
      providesTags: ['retention', 'configuration'],
    }),
    changeRetention: build.mutation<null, RetentionDocument>({
      query: (body) => ({ url: 'admin/retention', method: 'PUT', body }),
      invalidatesTags: ['retention', ...CONFIGURED],
    }),
  }),
});
export const { useRetentionQuery, useChangeRetentionMutation } = retentionApi;
