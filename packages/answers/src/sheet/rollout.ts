import type { SheetAnswer } from '@zetopsis/contract';
import {
  hasEnded,
  isReady,
  type PodObject,
  restartsOf,
  rolloutsOf,
  type WorkloadObject,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import type { UsageNode } from '@zetopsis/core/usage';
import type { ClusterJudge } from '../findings/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import type { MeasuredObject } from './measured.ts';

type Rollout = NonNullable<SheetAnswer['rollout']>;

/** A share counts up to whole pods, as the cluster's controller counts what may be away: rounded down. */
function podsOf(text: string | null | undefined, desired: number): number | null {
  if (text == null) return null;
  const share = /^(\d+)%$/.exec(text);
  return share ? Math.floor((Number(share[1]) / 100) * desired) : /^\d+$/.test(text) ? Number(text) : null;
}

/** How a deployment's pods are being replaced; null where none are, nor were in the window. */
export function rolloutOf(
  { view, window }: SeenUsage,
  { workload, node, pods }: Pick<MeasuredObject, 'workload' | 'node' | 'pods'>,
  { at, judge }: { readonly at: EpochMs; readonly judge: ClusterJudge },
): SheetAnswer['rollout'] {
  if (workload?.kind !== 'deployment') return null;
  const sets = view.replicaSets.filter(({ owner }) => owner?.uid === workload.uid);
  const rollout = rolloutsOf(sets).at(-1);
  const newest = [...sets].sort((a, b) => b.createdAt - a.createdAt)[0];
  if (!rollout || !newest) return null;
  const there = pods.filter(
    (pod) => !hasEnded(pod) && node.children.some(({ uid, present }) => uid === pod.uid && present),
  );
  const fresh = there.filter(({ owner }) => owner?.uid === newest.uid);
  const old = there.filter(({ owner }) => owner?.uid !== newest.uid);
  if (old.length === 0 && rollout.at < window.from) return null;
  const { desired, updated } = workload;
  const away = podsOf(workload.strategy?.away, desired);
  const stuck = workload.conditions.some(({ type, status }) => type === 'Progressing' && status === 'false');
  const done = old.length === 0 && updated >= desired && workload.ready >= desired;
  const renewed = fresh.filter(isReady).length;
  // as fast as until now
  const expectedEnd = done || stuck || renewed === 0 ? null : at + ((at - rollout.at) / renewed) * (desired - renewed);
  const side = (
    name: 'new' | 'old',
    own: readonly PodObject[],
    set: WorkloadObject | undefined,
  ): Rollout['sides'][number] => ({
    name,
    images: (set?.images ?? []).map(({ image }) => image.slice(image.lastIndexOf(':') + 1)).join(', '),
    pods: own.length,
    ready: own.filter(isReady).length,
    ...averageOf(node, own),
    restarts: restartsOf(
      view.podStates.flatMap(({ pod }) => (own.some(({ uid }) => uid === pod.uid) ? [pod] : [])),
    ).filter((restart) => restart.at >= window.from && restart.at <= window.to).length,
    failing: own.flatMap((pod) => judge.pod(pod))[0]?.reason ?? null,
  });
  const before =
    sets.filter(({ uid }) => old.some((pod) => pod.owner?.uid === uid))[0] ??
    sets.sort((a, b) => b.createdAt - a.createdAt)[1];
  return {
    at: rollout.at,
    change: rollout.change,
    desired,
    updated,
    ready: workload.ready,
    old: old.length,
    keeps: away === null ? null : Math.max(0, desired - away),
    goesOn: !done && !stuck,
    expectedEnd,
    sides: [side('new', fresh, newest), side('old', old, before)],
  };
}

function averageOf(node: UsageNode, pods: readonly PodObject[]): { cpu: number | null; memory: number | null } {
  const uids = new Set(pods.map(({ uid }) => uid));
  const own = node.children.filter(({ uid }) => uid !== null && uids.has(uid));
  const mean = (resource: 'cpu' | 'memory') => {
    const known = own.flatMap(({ usage }) => usage[resource].use ?? []);
    return known.length === 0 ? null : known.reduce((sum, use) => sum + use, 0) / known.length;
  };
  return { cpu: mean('cpu'), memory: mean('memory') };
}
