import { type SavedViewInput, SavedViewsAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const viewsApi = api.injectEndpoints({
  endpoints: (build) => ({
    views: build.query<SavedViewsAnswer, void>({
      query: () => 'views',
      responseSchema: SavedViewsAnswer,
      providesTags: ['views'],
    }),
    keepView: build.mutation<SavedViewsAnswer, SavedViewInput>({
      query: (body) => ({ url: 'views', method: 'POST', body }),
      responseSchema: SavedViewsAnswer,
      invalidatesTags: ['views'],
    }),
    removeView: build.mutation<null, number>({
      query: (id) => ({ url: `views/${id}`, method: 'DELETE' }),
      invalidatesTags: ['views'],
    }),
  }),
});
export const { useViewsQuery, useKeepViewMutation, useRemoveViewMutation } = viewsApi;
