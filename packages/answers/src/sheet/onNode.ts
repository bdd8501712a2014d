import type { FlowLines, SheetAnswer } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { formatAmount, formatPercent } from '@zetopsis/core/format';
import { OTHERS } from '@zetopsis/core/usage';
import { listed } from '../cluster/index.ts';
import type { ClusterColumns } from '../columns/index.ts';

const MOST = 7;

/** Who else is on a pod's node, by its share of the node. */
export function neighbours(columns: ClusterColumns, name: string, podUid: string): SheetAnswer['tables'] {
  const node = columns.node(name);
  if (!node) return [];
  const share = (use: number | null, limit: number | null) =>
    use === null ? 'not read' : !limit ? 'no size told' : formatPercent(use / limit);
  const rows = [...node.children]
    .filter(({ present, key }) => present || key === OTHERS)
    .sort((a, b) => (b.usage.memory.use ?? 0) - (a.usage.memory.use ?? 0));
  const shown = rows.slice(0, MOST);
  const own = rows.find(({ uid }) => uid === podUid);
  if (own && !shown.includes(own)) shown[MOST - 1] = own;
  return [
    {
      title: `Who is on ${name}, by share of the node (${rows.length} in all)`,
      columns: ['pod', 'CPU', 'of node', 'memory', 'of node'],
      rows: shown.map((pod) => [
        pod.uid === podUid ? `${pod.name} (this one)` : pod.key === OTHERS ? 'others, as one share' : pod.name,
        formatAmount('cpu', pod.usage.cpu.use),
        share(pod.usage.cpu.use, node.usage.cpu.limit),
        formatAmount('memory', pod.usage.memory.use),
        share(pod.usage.memory.use, node.usage.memory.limit),
      ]),
    },
  ];
}

/** The node's own CPU, memory and disk, on the axis of the pod that runs on it. */
export function nodeStrata(columns: ClusterColumns, name: string, disk: FlowLines | null): FlowLines[] {
  const node = columns.node(name);
  if (!node) return [];
  const own = (['cpu', 'memory'] as const).map(
    (resource): FlowLines => ({
      title: `Its node ${name}: ${resource === 'cpu' ? 'CPU' : 'memory'}`,
      unit: resource === 'cpu' ? 'cores' : 'bytes',
      lines: [{ name: 'used', values: listed(node.lines[resource].use), against: null }],
      limit: listed(node.lines[resource].limit),
      empty: node.usage[resource].use === null ? emptyBecause('nodeNotRead') : null,
    }),
  );
  return disk === null ? own : [...own, disk];
}
