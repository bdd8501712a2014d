import type { EpochMs } from '../units/index.ts';
import type { Condition, PodObject } from './objects.ts';

export const conditionOf = (conditions: readonly Condition[], type: string): Condition | undefined =>
  conditions.find((condition) => condition.type === type);

/** Since when the pod has not been ready; null while it is, or when it does not say. */
export function notReadySince(pod: PodObject): EpochMs | null {
  const ready = conditionOf(pod.conditions, 'Ready');
  if (ready?.status === 'true') return null;
  return ready?.since ?? pod.createdAt;
}

export const hasEnded = (pod: PodObject): boolean => pod.phase === 'succeeded' || pod.phase === 'failed';
export const isReady = (pod: PodObject): boolean =>
  !hasEnded(pod) && conditionOf(pod.conditions, 'Ready')?.status === 'true';
