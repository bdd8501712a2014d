import type { ClusterEvent, InventoryObject } from '../inventory/index.ts';
import { type DurationMs, type EpochMs, HOUR } from '../units/index.ts';

/** What is known beside the objects themselves: what the cluster said of them, and what their programs wrote. */
export interface Said {
  readonly about: (object: Pick<InventoryObject, 'kind' | 'namespace' | 'name' | 'uid'>) => readonly ClusterEvent[];
  /** Of a container that ended, where they were asked for; the newest last. */
  readonly lastLines?: (pod: string, container: string, previous: boolean) => readonly string[];
}
export const NOTHING_SAID: Said = { about: () => [] };

/** What was said longer ago holds no more. */
const LATELY: DurationMs = HOUR;

/** The newest event of one of these reasons that was said lately; undefined where there is none. */
export function saidLately(
  events: readonly ClusterEvent[],
  reasons: readonly string[],
  now: EpochMs,
): ClusterEvent | undefined {
  return events.find(({ reason, lastAt }) => reasons.includes(reason) && now - lastAt <= LATELY);
}

/** "…, said 14 times" */
export const inItsWords = ({ message, reason, count }: ClusterEvent): string =>
  `${message || reason}${count > 1 ? ` (said ${count} times)` : ''}`;
