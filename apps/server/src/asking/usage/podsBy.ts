import type { PodObject } from '@zetopsis/core/inventory';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';

/** Which of some pods a series is about: by uid; who pushes may know a pod only by its place and name. */
export function podsBy(pods: readonly PodObject[]): (labels: ReadonlyMap<string, string>) => PodObject | undefined {
  const byUid = new Map(pods.map((pod) => [pod.uid, pod]));
  const byPlace = new Map(pods.map((pod) => [`${pod.namespace}/${pod.name}`, pod]));
  return (labels) =>
    byUid.get(labels.get(OBJECT_LABELS.podUid) ?? '') ??
    byPlace.get(`${labels.get(OBJECT_LABELS.namespace)}/${labels.get(OBJECT_LABELS.pod)}`);
}
