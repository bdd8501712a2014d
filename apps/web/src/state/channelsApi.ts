import { type ChannelInput, ChannelsAnswer } from '@zetopsis/contract';
import { api } from './api.ts';

const CHANGED = ['rules', 'configuration'] as const;
const channelsApi = api.injectEndpoints({
  endpoints: (build) => ({
    channels: build.query<ChannelsAnswer, void>({
      query: () => 'channels',
      responseSchema: ChannelsAnswer,
      providesTags: CHANGED,
    }),
    addChannel: build.mutation<{ key: string }, ChannelInput>({
      query: (body) => ({ url: 'channels', method: 'POST', body }),
      invalidatesTags: CHANGED,
    }),
    saveChannel: build.mutation<null, { key: string; input: ChannelInput }>({
      query: ({ key, input }) => ({ url: `channels/${encodeURIComponent(key)}`, method: 'PUT', body: input }),
      invalidatesTags: CHANGED,
    }),
    removeChannel: build.mutation<null, string>({
      query: (key) => ({ url: `channels/${encodeURIComponent(key)}`, method: 'DELETE' }),
      invalidatesTags: CHANGED,
    }),
    testChannel: build.mutation<null, string>({
      query: (key) => ({ url: `channels/${encodeURIComponent(key)}/test`, method: 'POST' }),
      invalidatesTags: CHANGED,
    }),
  }),
});
export const {
  useChannelsQuery,
  useAddChannelMutation,
  useSaveChannelMutation,
  useRemoveChannelMutation,
  useTestChannelMutation,
} = channelsApi;
