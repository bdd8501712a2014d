import type { By, UsageColumn } from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import { gridEnd, type UsageNode } from '@zetopsis/core/usage';
import { ClusterColumns } from './columns.ts';
import { nodeOf, readPodKey, readThing, teamOf, volumeOf } from './objectPaths.ts';
import type { SeenUsage } from './usage.service.ts';

/** What uses nothing itself stands in something that does. */
export function loadedPath(path: readonly string[]): readonly string[] {
  if (volumeOf(path[1]) !== null || teamOf(path[1]) !== null) return path.slice(0, 1);
  return path[2] !== undefined && readThing(path[2]) !== null ? path.slice(0, 2) : path;
}
/** What a path's load is the load of; undefined where it names something that uses nothing. */
export function nodeAt(usage: SeenUsage, path: readonly string[]): UsageNode | undefined {
  const node = nodeOf(path[1]);
  if (node === null) return follow(usage.tree, path.slice(1));
  const columns = new ClusterColumns(usage, gridEnd(usage.input.grid));
  const there = columns.node(node);
  return there && follow(there, path.slice(2));
}
function follow(node: UsageNode, path: readonly string[]): UsageNode | undefined {
  return path.reduce<UsageNode | undefined>((at, key) => at?.children.find((child) => child.key === key), node);
}

/** Columns below the clusters: by namespaces or by nodes. A path that goes over a node decides for itself. */
export function columnsBelow(columns: ClusterColumns, path: readonly string[], by: By): UsageColumn[] {
  const [place, part, pod] = path;
  const team = teamOf(place);
  if (team !== null || (place === undefined && by === 'team'))
    return [columns.teamsColumn(), ...(team === null ? [] : [columns.namespaces(team)])];
  const node = nodeOf(place);
  if (node !== null || (place === undefined && by === 'node')) {
    const below = [columns.nodesColumn()];
    if (node !== null) below.push(columns.podsOfNode(node));
    if (node !== null && part !== undefined) below.push(columns.containers(columns.podOnNode(node, part)));
    return below;
  }
  const below = [columns.namespaces()];
  if (place === undefined || volumeOf(place) !== null) return below;
  below.push(columns.workloadsOf(place));
  if (part === undefined || readThing(part) !== null) return below;
  below.push(columns.podsColumn(place, part));
  if (pod !== undefined)
    below.push(columns.containers(columns.find(place, part)?.children.find(({ key }) => key === pod)));
  return below;
}

/** Whose events belong to an object: its own and those of what it owns. Null for whole namespaces. */
export function uidsOf(usage: SeenUsage, path: readonly string[]): string[] | null {
  const [, place, part, pod] = path;
  const nodeName = nodeOf(place);
  if (nodeName !== null) {
    const key = part === undefined ? null : readPodKey(part);
    if (key)
      return usage.view.pods
        .filter((span) => span.pod.name === key.pod && span.workload.namespace === key.namespace)
        .map((span) => span.pod.uid);
    const node = usage.view.nodes.find((span) => span.node.name === nodeName)?.node;
    // the cluster's own parts name a node as its uid in events
    return node ? [node.uid, node.name] : [];
  }
  if (place === undefined || part === undefined) return null;
  const spans = usage.view.pods.filter((span) => span.workload.namespace === place);
  if (pod !== undefined) return spans.filter((span) => span.pod.name === pod).map((span) => span.pod.uid);
  const node = usage.tree.children.find(({ key }) => key === place)?.children.find(({ key }) => key === part);
  const workload = usage.view.inventory
    .list('cron job')
    .find((cron) => cron.namespace === place && workloadKey(cron) === part);
  const uid = node?.uid ?? workload?.uid;
  const parts = [...usage.view.replicaSets, ...usage.view.jobs]
    .filter(({ owner }) => owner !== null && owner.uid === uid)
    .map((object) => object.uid);
  return [...(uid ? [uid] : []), ...parts, ...(node?.children ?? []).flatMap((child) => child.uid ?? [])];
}
