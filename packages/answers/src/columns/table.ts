import {
  namespaceOf,
  type ObjectPath,
  partOf,
  type TableLevel,
  type TableRow,
  type UsageRow,
  workloadIn,
} from '@zetopsis/contract';
import { workloadKey } from '@zetopsis/core/inventory';
import { OTHERS, type UsageNode } from '@zetopsis/core/usage';
import type { SeenUsage } from '../usage/index.ts';
import type { ClusterColumns } from './columns.ts';
import type { OtherFigures } from './otherFigures.ts';
import type { PodFlows } from './podFlows.ts';
import { NOBODYS } from './rows.ts';

interface Placed {
  readonly row: UsageRow;
  readonly path: string[];
  readonly pods: readonly UsageNode[];
  /** Of what has network and files of its own, beside those of its pods: a node, a cluster. */
  readonly own?: UsageNode | undefined;
}
/** What nodes and clusters send, receive and store, as their columns and sheets tell it. */
export type OwnFlows = Readonly<Record<'received' | 'sent' | 'files', OtherFigures>>;

/** Every row of a level of one cluster that lies below a path. */
export function* tableRows({
  usage,
  columns,
  level,
  path,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly level: TableLevel;
  readonly path: ObjectPath;
}): Generator<Placed> {
  const { name, tree } = usage;
  if (level === 'cluster')
    yield { row: columns.clusterRow(), path: [name], pods: tree.children.flatMap(podsBelow), own: tree };
  else if (level === 'node') yield* nodeRows(name, columns, path);
  else if (path.is === 'node' || ('node' in path && path.node !== null)) {
    const only = path.is === 'node' ? null : partOf.podOnNode(path.namespace, path.pod);
    if (level === 'pod') yield* podRowsOfNode({ cluster: name, columns, node: path.node ?? '', only });
  } else yield* rowsBelow({ usage, columns, level, path });
}

function* nodeRows(cluster: string, columns: ClusterColumns, path: ObjectPath): Generator<Placed> {
  const only = 'node' in path ? path.node : null;
  for (const row of columns.nodesColumn().rows)
    if (only === null || only === row.name)
      yield {
        row,
        path: [cluster, row.key],
        pods: (columns.node(row.name)?.children ?? []).filter(({ key }) => key !== OTHERS),
        own: columns.node(row.name),
      };
}
function* podRowsOfNode({
  cluster,
  columns,
  node,
  only,
}: {
  readonly cluster: string;
  readonly columns: ClusterColumns;
  readonly node: string;
  readonly only: string | null;
}): Generator<Placed> {
  const there = new Map(columns.node(node)?.children.map((pod) => [pod.key, pod]));
  for (const row of columns.podsOfNode(node).rows)
    if (!NOBODYS.has(row.kind ?? '') && (only === null || only === row.key))
      yield {
        row,
        path: [cluster, partOf.node(node), row.key],
        pods: [there.get(row.key)].filter((own) => own !== undefined),
      };
}

function* rowsBelow({
  usage: { name, tree },
  columns,
  level,
  path,
}: {
  readonly usage: SeenUsage;
  readonly columns: ClusterColumns;
  readonly level: Exclude<TableLevel, 'cluster' | 'node'>;
  readonly path: ObjectPath;
}): Generator<Placed> {
  if (path.is === 'persistent volume') return;
  const only = namespaceOf(path);
  const workloadOnly = workloadIn(path);
  const podOnly = 'pod' in path ? path.pod : null;
  for (const namespace of columns.namespaces(path.is === 'team' ? path.team : null).rows) {
    if (NOBODYS.has(namespace.kind ?? '') || (only !== null && namespace.key !== only)) continue;
    const own = tree.children.find(({ key }) => key === namespace.key);
    if (level === 'namespace') {
      yield { row: namespace, path: [name, namespace.key], pods: own ? podsBelow(own) : [] };
      continue;
    }
    for (const workload of columns.workloadsOf(namespace.key).rows) {
      if (path.is === 'accessory' || (workloadOnly !== null && workload.key !== workloadKey(workloadOnly))) continue;
      const there = own?.children.find(({ key }) => key === workload.key);
      const at = [name, namespace.key, workload.key];
      if (level === 'workload') {
        yield { row: workload, path: at, pods: there?.children ?? [] };
        continue;
      }
      for (const row of columns.podsColumn(namespace.key, workload.key).rows) {
        if (podOnly !== null && row.key !== podOnly) continue;
        const one = there?.children.find(({ key }) => key === row.key);
        if (level === 'pod') yield { row, path: [...at, row.key], pods: one ? [one] : [] };
        else
          for (const container of columns.containers(one).rows)
            yield { row: container, path: [...at, row.key, container.key], pods: [] };
      }
    }
  }
}
const podsBelow = (node: UsageNode): readonly UsageNode[] =>
  node.level === 'pod' ? [node] : node.children.flatMap(podsBelow);

const holds = (find: string, { row, path }: Placed): boolean =>
  find === '' || path.some((part) => part.toLowerCase().includes(find)) || row.name.toLowerCase().includes(find);

/** Rows that a search names, at most so many; those beyond are counted. Yields after each. */
export function* tableOf(
  rows: Iterable<Placed>,
  find: string,
  most: number,
): Generator<void, { readonly kept: readonly Placed[]; readonly left: number }> {
  const kept: Placed[] = [];
  const wanted = find.toLowerCase();
  let left = 0;
  for (const placed of rows) {
    if (holds(wanted, placed)) {
      if (kept.length < most) kept.push(placed);
      else left++;
    }
    yield;
  }
  return { kept, left };
}

export function withFlows({ row, path, pods, own }: Placed, flows: PodFlows, ownFlows: OwnFlows | null): TableRow {
  const lately = (of: keyof OwnFlows): number | null =>
    own && ownFlows ? (ownFlows[of].of(own)?.use ?? null) : sum((uid) => flows[of].get(uid));
  const sum = (pick: (uid: string) => number | undefined): number | null => {
    const known = pods.flatMap(({ uid }) => (uid === null ? [] : (pick(uid) ?? [])));
    return known.length === 0 ? null : known.reduce((total, one) => total + one, 0);
  };
  return {
    ...row,
    path,
    received: lately('received'),
    sent: lately('sent'),
    files: lately('files'),
    volumes: sum((uid) => flows.volumes.get(uid)?.used),
    volumeSize: sum((uid) => flows.volumes.get(uid)?.size),
  };
}
