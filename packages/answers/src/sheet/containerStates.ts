import type { FlowLines } from '@zetopsis/contract';
import type { ContainerState } from '@zetopsis/core/inventory';
import { type Grid, type PodSpan, presenceOn } from '@zetopsis/core/usage';
import { listed, type PodState } from '../cluster/index.ts';

type Is = ContainerState['is'];
/** In the order in which they are told; those that nobody knows the state of are told when there are any. */
const STATES: readonly (readonly [Is, string])[] = [
  ['running', 'running'],
  ['waiting', 'waiting'],
  ['ended', 'ended'],
  ['unknown', 'unknown'],
];

/** Of pods that were there: 1 where no state of one is kept, since nobody watched yet. */
function unwatched(pods: readonly PodSpan[], states: readonly PodState[], grid: Grid): Uint8Array {
  const since = new Map<string, number>();
  for (const { pod, from } of states) since.set(pod.uid, Math.min(from, since.get(pod.uid) ?? from));
  const unknown = new Uint8Array(grid.count);
  for (const { pod, from, to } of pods) {
    const [first, end] = presenceOn(
      grid,
      from,
      Math.min(to ?? Number.POSITIVE_INFINITY, since.get(pod.uid) ?? Number.POSITIVE_INFINITY),
    );
    for (let i = first; i < end; i++) unknown[i] = 1;
  }
  return unknown;
}

/** Containers that last, by their state, over a window: pods as they were at each moment. Empty where there never was one. */
export function containerStates(pods: readonly PodSpan[], states: readonly PodState[], grid: Grid): FlowLines[] {
  const counts = new Map(STATES.map(([is]) => [is, new Float64Array(grid.count)]));
  let any = false;
  for (const { pod, from, to } of states) {
    const [first, end] = presenceOn(grid, from, to);
    for (const { role, state } of pod.containers) {
      if (role === 'start-up') continue;
      any ||= end > first;
      const own = counts.get(state.is)!; // every state has one
      for (let i = first; i < end; i++) own[i]! += 1;
    }
  }
  if (!any) return [];
  const unknown = unwatched(pods, states, grid);
  return [
    {
      title: 'Containers by state',
      unit: 'count',
      lines: STATES.flatMap(([is, name]) => {
        const values = counts.get(is)!;
        return is === 'unknown' && !values.some((value) => value > 0)
          ? []
          : [
              {
                name,
                values: listed(values.map((value, i) => (unknown[i] === 1 ? Number.NaN : value))),
                against: null,
              },
            ];
      }),
      limit: null,
      empty: null,
    },
  ];
}
