import { ConnectionAnswer, type ConnectionChange, type ConnectionInput, ConnectionTest } from '@zetopsis/contract';
import type { z } from 'zod';
import { api } from './api.ts';

type Input = z.input<typeof ConnectionInput>;
type Change = z.input<typeof ConnectionChange>;

const connectionsApi = api.injectEndpoints({
  endpoints: (build) => ({
    testConnection: build.mutation<ConnectionTest, Change & { connectionId?: string }>({
      query: (body) => ({ url: 'connections/test', method: 'POST', body }),
      responseSchema: ConnectionTest,
    }),
    addConnection: build.mutation<ConnectionAnswer, Input>({
      query: (body) => ({ url: 'connections', method: 'POST', body }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources', 'inventory'],
    }),
    changeConnection: build.mutation<ConnectionAnswer, { id: string; change: Change }>({
      query: ({ id, change }) => ({ url: `connections/${id}`, method: 'PATCH', body: change }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources'],
    }),
    removeConnection: build.mutation<null, string>({
      query: (id) => ({ url: `connections/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources', 'inventory', 'samples', 'alerts'],
    }),
  }),
});
export const {
  useTestConnectionMutation,
  useAddConnectionMutation,
  useChangeConnectionMutation,
  useRemoveConnectionMutation,
} = connectionsApi;
