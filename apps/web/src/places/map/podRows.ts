import type { TableRow } from '@zetopsis/contract';
import type { OfBoxes } from '../../frame/mapView.ts';
import { useView, viewed } from '../../frame/useView.ts';
import { useTableQuery } from '../../state/usageApi.ts';
import { BOX, type DrawnBox } from './mapModel.ts';

export interface PodRows {
  readonly shown: readonly TableRow[];
  readonly tightness: (row: TableRow) => number | null;
  /** What stands below them, or instead of them; empty: nothing. */
  readonly note: string;
}
/** Pods of a workload as rows of its box: those that something is found of first, then those nearest to their limits. `path` null: no workload. */
export function usePodRows(path: readonly string[] | null, of: OfBoxes, rows: number): PodRows {
  const { view } = useView();
  const { data, isError } = useTableQuery(
    { ...viewed(view), clusters: null, path: path ?? [], level: 'pod', find: '' },
    { skip: path === null || rows === 0 },
  );
  const resource = of === 'memory' ? 'memory' : 'cpu';
  const tightness = (row: TableRow) => row.usage[resource].tightness;
  const weight = ({ severity }: TableRow) => (severity === 'critical' ? 2 : severity === 'warning' ? 1 : 0);
  const all = (data?.rows ?? []).toSorted(
    (a, b) => weight(b) - weight(a) || (tightness(b) ?? -1) - (tightness(a) ?? -1),
  );
  const shown = all.length > rows ? all.slice(0, Math.max(0, rows - 1)) : all;
  const left = all.length - shown.length + (data?.left ?? 0);
  const note = isError ? 'its pods could not be read' : data ? (left > 0 ? `${left} more` : '') : 'its pods are read';
  return { shown, tightness, note };
}
/** Where the middle of a row stands; of pods that have none, what stands below the rows; of a box that is closed, its own. */
export function rowMiddle({ y, rows }: DrawnBox, { shown }: PodRows, pod: string): number {
  if (rows === 0) return y + BOX.height / 2;
  const at = shown.findIndex(({ name }) => name === pod);
  return y + BOX.height + (at < 0 ? rows - 1 : at) * BOX.row + 2 + BOX.row / 2;
}
/** What tells a pod from the others of its workload. */
export function podTail(name: string, workload: string): string {
  const own = name.startsWith(`${workload}-`) ? `…${name.slice(workload.length)}` : name;
  return own.length > 22 ? `…${own.slice(-21)}` : own;
}
/** The last part of it alone, where there is little room. */
export function podEnd(name: string, workload: string): string {
  const own = podTail(name, workload);
  return own.startsWith('…') ? `…${own.slice(own.lastIndexOf('-'))}` : own;
}
