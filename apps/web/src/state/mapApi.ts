import { MapAnswer } from '@zetopsis/contract';
import { api } from './api.ts';
import { type View, viewQuery } from './viewQuery.ts';

const mapApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** Who talks to whom at the end of the window. */
    map: build.query<MapAnswer, View>({
      query: (view) => viewQuery('map', view),
      responseSchema: MapAnswer,
      // a minute is told once, and says so
      providesTags: ['links', 'configuration'],
    }),
  }),
});
export const { useMapQuery } = mapApi;
