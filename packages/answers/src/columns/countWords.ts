import type { PodObject } from '@zetopsis/core/inventory';

const told = (counts: readonly (readonly [number, string, string])[]): string =>
  counts
    .filter(([count]) => count > 0)
    .map(([count, one, many]) => `${count} ${count === 1 ? one : many}`)
    .join(', ');

/** "12 run, 1 waits, 6 done, 2 failed": pods by phase, those that there are. */
export function podsInWords(pods: readonly PodObject[]): string {
  const of = (phase: PodObject['phase']) => pods.filter((pod) => pod.phase === phase).length;
  return told([
    [of('running'), 'runs', 'run'],
    [of('pending'), 'waits', 'wait'],
    [of('succeeded'), 'done', 'done'],
    [of('failed'), 'failed', 'failed'],
    [of('unknown'), 'unknown', 'unknown'],
  ]);
}

/** "2 run, 1 ended": containers by state. */
export function containersInWords(containers: PodObject['containers']): string {
  const of = (is: PodObject['containers'][number]['state']['is']) =>
    containers.filter(({ state }) => state.is === is).length;
  return told([
    [of('running'), 'runs', 'run'],
    [of('waiting'), 'waits', 'wait'],
    [of('ended'), 'ended', 'ended'],
    [of('unknown'), 'unknown', 'unknown'],
  ]);
}
