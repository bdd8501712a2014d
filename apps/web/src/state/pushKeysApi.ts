import { NewPushToken, type PushDocument, PushKeysAnswer } from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

import { whole } from './whole.ts';

const MadeKey = z.object({ made: NewPushToken.nullable() });
type MadeKey = z.infer<typeof MadeKey>;

const pushKeysApi = api.injectEndpoints({
  endpoints: (build) => ({
    pushKeys: build.query<PushKeysAnswer, void>({
      query: () => 'push-keys',
      responseSchema: whole(PushKeysAnswer),
      providesTags: ['sources'],
    }),
    savePushKey: build.mutation<MadeKey, { key: string; document: z.input<typeof PushDocument> }>({
      query: ({ key, document }) => ({ url: `push-keys/${key}`, method: 'PUT', body: document }),
      responseSchema: MadeKey,
      invalidatesTags: ['sources'],
    }),
    newPushToken: build.mutation<NewPushToken, string>({
      query: (key) => ({ url: `push-keys/${key}/token`, method: 'POST' }),
      responseSchema: NewPushToken,
      invalidatesTags: ['sources'],
    }),
    endTokenBefore: build.mutation<null, string>({
      query: (key) => ({ url: `push-keys/${key}/token-before`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
    removePushKey: build.mutation<null, string>({
      query: (key) => ({ url: `push-keys/${key}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
  }),
});
export const {
  usePushKeysQuery,
  useSavePushKeyMutation,
  useNewPushTokenMutation,
  useEndTokenBeforeMutation,
  useRemovePushKeyMutation,
} = pushKeysApi;
