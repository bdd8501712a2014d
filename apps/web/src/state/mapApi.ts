import { LinkAnswer, type LinkQuery, type MapAnswer, writeQuery } from '@zetopsis/contract';
import { api } from './api.ts';
import { mapInPieces } from './inPieces.ts';
import { timesOf, type View, viewQuery, type WindowArgument } from './viewQuery.ts';

const mapApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** Who talks to whom at the end of the window. */
    map: build.query<MapAnswer, View>({
      query: (view) => viewQuery('map', view),
      extraOptions: { check: mapInPieces },
      structuralSharing: false,
      // a minute is told once, and says so
      providesTags: ['links', 'configuration'],
    }),
    /** What goes over one link, as traces of the window tell. */
    link: build.query<LinkAnswer, LinkQuery & { readonly window: WindowArgument }>({
      query: ({ caller, answerer, window }) => `map/link?${writeQuery({ caller, answerer, ...timesOf(window) })}`,
      responseSchema: LinkAnswer,
      providesTags: ['links'],
    }),
  }),
});
export const { useLinkQuery, useMapQuery } = mapApi;
