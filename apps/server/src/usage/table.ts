import type { TableLevel, TableRow, UsageRow } from '@zetopsis/contract';
import { OTHERS, type UsageNode } from '@zetopsis/core/usage';
import { inPieces } from '../platform/inPieces.ts';
import type { ClusterColumns } from './columns.ts';
import { nodeOf, teamOf } from './objectPaths.ts';
import type { PodFlows } from './podFlows.ts';
import { NOBODYS } from './rows.ts';
import type { SeenUsage } from './usage.service.ts';

interface Placed {
  readonly row: UsageRow;
  readonly path: string[];
  readonly pods: readonly UsageNode[];
}

/** Every row of a level of one cluster that lies below a path. */
export function* tableRows(
  usage: SeenUsage,
  columns: ClusterColumns,
  level: TableLevel,
  path: readonly string[],
): Generator<Placed> {
  const { name, tree } = usage;
  if (level === 'cluster') {
    yield { row: columns.clusterRow(), path: [name], pods: tree.children.flatMap(podsBelow) };
    return;
  }
  if (level === 'node') {
    for (const row of columns.nodesColumn().rows)
      if (path[1] === undefined || path[1] === row.key)
        yield {
          row,
          path: [name, row.key],
          pods: (columns.node(row.name)?.children ?? []).filter(({ key }) => key !== OTHERS),
        };
    return;
  }
  const [, place, part, pod] = path;
  const team = teamOf(place);
  const node = nodeOf(place);
  if (node !== null) {
    if (level !== 'pod') return;
    for (const row of columns.podsOfNode(node).rows)
      if (!NOBODYS.has(row.kind ?? ''))
        yield {
          row,
          path: [name, place!, row.key],
          pods: [columns.podOnNode(node, row.key)].filter((own) => own !== undefined),
        };
    return;
  }
  for (const namespace of columns.namespaces(team).rows) {
    if (NOBODYS.has(namespace.kind ?? '') || (place !== undefined && team === null && namespace.key !== place))
      continue;
    const own = tree.children.find(({ key }) => key === namespace.key);
    if (level === 'namespace') {
      yield { row: namespace, path: [name, namespace.key], pods: own ? podsBelow(own) : [] };
      continue;
    }
    for (const workload of columns.workloadsOf(namespace.key).rows) {
      if (part !== undefined && workload.key !== part) continue;
      const there = own?.children.find(({ key }) => key === workload.key);
      const at = [name, namespace.key, workload.key];
      if (level === 'workload') {
        yield { row: workload, path: at, pods: there?.children ?? [] };
        continue;
      }
      for (const row of columns.podsColumn(namespace.key, workload.key).rows) {
        if (pod !== undefined && row.key !== pod) continue;
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

/** Rows that a search names, at most so many; those beyond are counted. */
export async function tableOf(
  rows: Iterable<Placed>,
  find: string,
  most: number,
): Promise<{ kept: Placed[]; left: number }> {
  const kept: Placed[] = [];
  let left = 0;
  await inPieces(rows, (placed) => {
    if (!holds(find.toLowerCase(), placed)) return;
    if (kept.length < most) kept.push(placed);
    else left++;
  });
  return { kept, left };
}

export function withFlows({ row, path, pods }: Placed, flows: PodFlows): TableRow {
  const sum = (pick: (uid: string) => number | undefined): number | null => {
    const known = pods.flatMap(({ uid }) => (uid === null ? [] : (pick(uid) ?? [])));
    return known.length === 0 ? null : known.reduce((total, one) => total + one, 0);
  };
  return {
    ...row,
    path,
    received: sum((uid) => flows.received.get(uid)),
    sent: sum((uid) => flows.sent.get(uid)),
    files: sum((uid) => flows.files.get(uid)),
    volumes: sum((uid) => flows.volumes.get(uid)?.used),
    volumeSize: sum((uid) => flows.volumes.get(uid)?.size),
  };
}
