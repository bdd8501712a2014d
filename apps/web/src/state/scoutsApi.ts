import { ScoutDependants, type ScoutDocument, ScoutPreview, ScoutsAnswer } from '@zetopsis/contract';
import type { z } from 'zod';
import { api } from './api.ts';

import { whole } from './whole.ts';

export type Scout = z.input<typeof ScoutDocument>;

const scoutsApi = api.injectEndpoints({
  endpoints: (build) => ({
    scouts: build.query<ScoutsAnswer, void>({
      query: () => 'scouts',
      responseSchema: whole(ScoutsAnswer),
      providesTags: ['sources', 'inventory'],
    }),
    previewScout: build.mutation<ScoutPreview, { document: Scout; key: string | null }>({
      query: (body) => ({ url: 'scouts/preview', method: 'POST', body }),
      responseSchema: ScoutPreview,
    }),
    saveScout: build.mutation<ScoutsAnswer, { key: string; document: Scout; secret: string }>({
      query: ({ key, ...body }) => ({ url: `scouts/${key}`, method: 'PUT', body }),
      responseSchema: whole(ScoutsAnswer),
      invalidatesTags: ['sources'],
    }),
    takePages: build.mutation<ScoutsAnswer, { key: string; from: string }>({
      query: ({ key, from }) => ({ url: `scouts/${key}/take`, method: 'POST', body: { from } }),
      responseSchema: whole(ScoutsAnswer),
      invalidatesTags: ['sources'],
    }),
    scoutDependants: build.query<ScoutDependants, string>({
      query: (key) => `scouts/${key}/dependants`,
      responseSchema: ScoutDependants,
    }),
    removeScout: build.mutation<null, string>({
      query: (key) => ({ url: `scouts/${key}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
  }),
});
export const {
  useScoutsQuery,
  usePreviewScoutMutation,
  useSaveScoutMutation,
  useTakePagesMutation,
  useScoutDependantsQuery,
  useRemoveScoutMutation,
} = scoutsApi;
