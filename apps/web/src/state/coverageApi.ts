import { CensusAnswer, CoverageAnswer, DropPreview, type DropRuleDocument } from '@zetopsis/contract';
import type { z } from 'zod';
import { api } from './api.ts';

export type DropRule = z.infer<typeof DropRuleDocument>;

const coverageApi = api.injectEndpoints({
  endpoints: (build) => ({
    coverage: build.query<CoverageAnswer, { cluster?: string; only: 'all' | 'unread' }>({
      query: (params) => ({ url: 'coverage', params }),
      responseSchema: CoverageAnswer,
      providesTags: ['sources', 'samples', 'inventory'],
    }),
    census: build.query<CensusAnswer, string>({
      query: (find) => ({ url: 'census', params: find === '' ? {} : { find } }),
      responseSchema: CensusAnswer,
    }),
    previewDrop: build.mutation<DropPreview, { endpoint: number | null; rule: DropRule }>({
      query: (body) => ({ url: 'census/drop', method: 'POST', body }),
      responseSchema: DropPreview,
    }),
  }),
});
export const { useCoverageQuery, useCensusQuery, usePreviewDropMutation } = coverageApi;
