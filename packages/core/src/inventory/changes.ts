import type { EpochMs } from '../units/index.ts';
import type { ContainerEnd, PodObject, WorkloadObject } from './objects.ts';
import { OUT_OF_MEMORY_REASON } from './wire-names.ts';

/** A new version of a deployment's pods, told by the replica set that was made for it. */
export interface Rollout {
  readonly at: EpochMs;
  readonly namespace: string;
  readonly name: string;
  readonly deploymentUid: string;
  /** "2.9.0 → 2.9.1", or what else is known to differ. */
  readonly change: string;
}

/** What of an image's name tells its version. */
export const tagOf = (image: string): string => {
  const name = image.slice(image.lastIndexOf('/') + 1);
  const colon = name.indexOf(':');
  return colon < 0 ? name : name.slice(colon + 1);
};

/** What differs between the pods of two versions of a workload, in words. */
export function changeBetween(before: Pick<WorkloadObject, 'images'>, after: Pick<WorkloadObject, 'images'>): string {
  const changes = after.images.flatMap(({ container, image }) => {
    const old = before.images.find((candidate) => candidate.container === container)?.image;
    if (old === image) return [];
    const several = after.images.length > 1 ? `${container} ` : '';
    return [old === undefined ? `${container} added` : `${several}${tagOf(old)} → ${tagOf(image)}`];
  });
  return changes.length > 0 ? changes.join(', ') : 'settings of its pods changed';
}

/** Every rollout that these replica sets tell of, oldest first. The first replica set of a deployment is its beginning, not a rollout. */
export function rolloutsOf(replicaSets: readonly WorkloadObject[]): Rollout[] {
  const byOwner = new Map<string, WorkloadObject[]>();
  for (const set of replicaSets) {
    if (set.kind !== 'replica set' || !set.owner) continue;
    const own = byOwner.get(set.owner.uid);
    if (own) own.push(set);
    else byOwner.set(set.owner.uid, [set]);
  }
  const rollouts: Rollout[] = [];
  for (const [deploymentUid, sets] of byOwner) {
    sets.sort((a, b) => a.createdAt - b.createdAt);
    for (let i = 1; i < sets.length; i++) {
      const set = sets[i]!;
      rollouts.push({
        at: set.createdAt,
        namespace: set.namespace ?? '',
        name: set.owner?.name ?? set.name,
        deploymentUid,
        change: changeBetween(sets[i - 1]!, set),
      });
    }
  }
  return rollouts.sort((a, b) => a.at - b.at);
}

export interface Restart {
  readonly at: EpochMs;
  readonly pod: PodObject;
  readonly container: string;
  readonly end: ContainerEnd;
  readonly outOfMemory: boolean;
}

/** Ends of containers that these states of pods tell of; the same end is told once, however many states repeat it. */
export function restartsOf(pods: readonly PodObject[]): Restart[] {
  const found = new Map<string, Restart>();
  for (const pod of pods) {
    // what has done its work, or was given up as a whole, does not begin again
    const over = pod.phase === 'succeeded' || pod.phase === 'failed';
    for (const container of pod.containers) {
      const ends = [
        container.lastEnd,
        container.state.is === 'ended' && container.role !== 'start-up' && !over ? container.state : null,
      ];
      for (const end of ends) {
        if (!end || end.endedAt === null) continue;
        found.set(`${pod.uid} ${container.name} ${end.endedAt}`, {
          at: end.endedAt,
          pod,
          container: container.name,
          end,
          outOfMemory: end.reason === OUT_OF_MEMORY_REASON,
        });
      }
    }
  }
  return [...found.values()].sort((a, b) => a.at - b.at);
}
