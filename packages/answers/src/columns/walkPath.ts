import type { By, ObjectPath, UsageColumn } from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import { gridEnd, type UsageNode } from '@zetopsis/core/usage';
import type { SeenUsage } from '../usage/index.ts';
import { ClusterColumns } from './columns.ts';

/** What uses nothing itself stands in something that does. */
export function loadedPath(path: ObjectPath): ObjectPath {
  switch (path.is) {
    case 'persistent volume':
    case 'team':
      return { is: 'cluster', cluster: path.cluster };
    case 'accessory':
      return { is: 'namespace', cluster: path.cluster, namespace: path.namespace };
    default:
      return path;
  }
}
/** What a path's load is the load of; undefined where it names something that uses nothing, or that is not there. */
export function nodeAt(usage: SeenUsage, path: ObjectPath): UsageNode | undefined {
  const columns = () => new ClusterColumns(usage, gridEnd(usage.input.grid));
  switch (path.is) {
    case 'everything':
    case 'cluster':
      return usage.tree;
    case 'node':
      return columns().node(path.node);
    case 'namespace':
      return usage.tree.children.find(({ key }) => key === path.namespace);
    case 'workload':
      return columns().find(path.namespace, workloadKey(path.workload));
    case 'pod':
      return columns().podAt(path);
    case 'container':
      return columns()
        .podAt(path)
        ?.children.find(({ key }) => key === path.container);
    case 'host':
    case 'team':
    case 'persistent volume':
    case 'accessory':
      return undefined;
  }
}

/** Columns below the clusters: by namespaces or by nodes. A path that goes over a node decides for itself. */
export function columnsBelow(columns: ClusterColumns, path: ObjectPath, by: By): UsageColumn[] {
  switch (path.is) {
    case 'everything':
    case 'cluster':
      return [by === 'team' ? columns.teamsColumn() : by === 'node' ? columns.nodesColumn() : columns.namespaces()];
    case 'team':
      return [columns.teamsColumn(), columns.namespaces(path.team)];
    case 'node':
      return [columns.nodesColumn(), columns.podsOfNode(path.node)];
    case 'namespace':
    case 'accessory':
      return [columns.namespaces(), columns.workloadsOf(path.namespace)];
    case 'workload':
      return [
        columns.namespaces(),
        columns.workloadsOf(path.namespace),
        columns.podsColumn(path.namespace, workloadKey(path.workload)),
      ];
    case 'pod':
    case 'container': {
      const containers = columns.containers(columns.podAt(path));
      return path.workload === null
        ? [columns.nodesColumn(), columns.podsOfNode(path.node ?? ''), containers]
        : [...columnsBelow(columns, { ...path, is: 'workload', workload: path.workload }, by), containers];
    }
    case 'host':
      return [];
    case 'persistent volume':
      return [columns.namespaces()];
  }
}

/** Whose events belong to an object: its own and those of what it owns. Null for whole namespaces. */
export function uidsOf(usage: SeenUsage, path: ObjectPath): string[] | null {
  switch (path.is) {
    case 'node': {
      const node = usage.view.nodes.find((span) => span.node.name === path.node)?.node;
      // the cluster's own parts name a node as its uid in events
      return node ? [node.uid, node.name] : [];
    }
    case 'pod':
    case 'container':
      return usage.view.pods
        .filter(({ pod, workload }) => pod.name === path.pod && workload.namespace === path.namespace)
        .map(({ pod }) => pod.uid);
    case 'workload':
      return uidsOfWorkload(usage, path.namespace, workloadKey(path.workload));
    default:
      return null;
  }
}
function uidsOfWorkload({ tree, view }: SeenUsage, namespace: string, key: string): string[] {
  const space = tree.children.find((own) => own.key === namespace);
  const set = view.replicaSets.find(
    ({ owner, ...own }) => owner && own.namespace === namespace && workloadKey(own) === key,
  );
  if (set) {
    const pods = view.pods.filter(({ pod }) => pod.owner?.uid === set.uid);
    return [set.uid, ...pods.map(({ pod }) => pod.uid)];
  }
  const node = space?.children.find((own) => own.key === key);
  const workload = view.inventory
    .list('cron job')
    .find((cron) => cron.namespace === namespace && workloadKey(cron) === key);
  const uid = node?.uid ?? workload?.uid;
  const parts = [...view.replicaSets, ...view.jobs]
    .filter(({ owner }) => owner !== null && owner.uid === uid)
    .map((object) => object.uid);
  return [...(uid ? [uid] : []), ...parts, ...(node?.children ?? []).flatMap((child) => child.uid ?? [])];
}
