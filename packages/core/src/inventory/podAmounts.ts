import type { Resource } from '../units/index.ts';
import type { Amounts, PodObject } from './objects.ts';

export interface RequestAndLimit {
  readonly request: number;
  /** Null when a lasting container has no limit; its name stands in `unlimited`. */
  readonly limit: number | null;
  readonly unlimited: string | null;
}

const FIELDS: Record<Resource, { request: keyof Amounts; limit: keyof Amounts }> = {
  cpu: { request: 'cpuRequest', limit: 'cpuLimit' },
  memory: { request: 'memoryRequest', limit: 'memoryLimit' },
};

export const amountsOf = (container: Amounts, resource: Resource) => ({
  request: container[FIELDS[resource].request],
  limit: container[FIELDS[resource].limit],
});

/**
 * Request = max(largest start-up container, sum of the lasting containers) + pod overhead, as the scheduler counts. A
 * helper declared among the start-up containers lasts, and also runs beside the start-up containers after it.
 */
export function podAmounts(pod: PodObject, resource: Resource): RequestAndLimit {
  let lasting = 0;
  let limit = 0;
  let unlimited: string | null = null;
  let helpersSoFar = 0;
  let startUp = 0;
  for (const container of pod.containers) {
    const own = amountsOf(container, resource);
    // a container with a limit but no request asks for its limit
    const request = own.request ?? own.limit ?? 0;
    if (container.role === 'start-up') {
      startUp = Math.max(startUp, helpersSoFar + request);
      continue;
    }
    if (container.role === 'helper') helpersSoFar += request;
    lasting += request;
    if (own.limit === null) unlimited ??= container.name;
    else limit += own.limit;
  }
  const overhead = pod.overhead[resource];
  return {
    request: Math.max(startUp, lasting) + overhead,
    limit: unlimited === null ? limit + overhead : null,
    unlimited,
  };
}
