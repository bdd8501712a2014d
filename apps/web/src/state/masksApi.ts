import { type MaskDocument, MaskPreview, MasksAnswer } from '@zetopsis/contract';
import { api, CONFIGURED } from './api.ts';

const masksApi = api.injectEndpoints({
  endpoints: (build) => ({
    masks: build.query<MasksAnswer, void>({
      query: () => 'masks',
      responseSchema: MasksAnswer,
      providesTags: ['configuration'],
    }),
    previewMask: build.mutation<MaskPreview, MaskDocument>({
      query: (body) => ({ url: 'masks/preview', method: 'POST', body }),
      responseSchema: MaskPreview,
    }),
    addMask: build.mutation<{ key: string }, MaskDocument>({
      query: (body) => ({ url: 'masks', method: 'POST', body }),
      invalidatesTags: [...CONFIGURED],
    }),
    saveMask: build.mutation<null, { key: string; document: MaskDocument }>({
      query: ({ key, document }) => ({ url: `masks/${encodeURIComponent(key)}`, method: 'PUT', body: document }),
      invalidatesTags: [...CONFIGURED],
    }),
    removeMask: build.mutation<null, string>({
      query: (key) => ({ url: `masks/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: [...CONFIGURED],
    }),
  }),
});
export const { useMasksQuery, usePreviewMaskMutation, useAddMaskMutation, useSaveMaskMutation, useRemoveMaskMutation } =
  masksApi;
