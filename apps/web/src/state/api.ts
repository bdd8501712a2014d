import { type BaseQueryFn, createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react';
import { LiveTopic } from '@zetopsis/contract';
import { asFailure, type Failure, failureOf } from './failure.ts';

const plain = fetchBaseQuery({ baseUrl: new URL('api/', document.baseURI).pathname, timeout: 60_000 });

/** Of an endpoint whose answers may be very long. */
export interface Extra {
  /** As a schema would, but not in one go; it throws where the answer is not what it should be. */
  readonly check?: (data: unknown) => Promise<unknown>;
}
const baseQuery: BaseQueryFn<Parameters<typeof plain>[0], unknown, Failure, Extra> = async (args, api, extra) => {
  const result = await plain(args, api, {});
  if (!result.error) {
    try {
      return { data: extra?.check ? await extra.check(result.data) : result.data };
    } catch (error) {
      return { error: asFailure(error) };
    }
  }
  const failure = failureOf(result.error.status, result.error.data);
  // a session that ended leads back to the sign-in page, wherever one is
  if (failure.kind === 'notSignedIn' && api.endpoint !== 'signIn') api.dispatch({ type: 'session/ended' });
  return { error: failure };
};

export const TAGS = [...LiveTopic.options, 'session', 'views', 'people', 'audit', 'tokens', 'retention'] as const;

/** One cache for every resource; the resources' own files add their endpoints. */
export const api = createApi({ baseQuery, tagTypes: TAGS, keepUnusedDataFor: 120, endpoints: () => ({}) });
/** Whatever is configured anew may change what everybody sees. */
export const CONFIGURED = ['configuration', 'audit', 'inventory', 'rules', 'alerts', 'session'] as const;
