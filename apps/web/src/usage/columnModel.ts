import type { UsageAnswer, UsageColumn, UsageLevel, UsageRow } from '@zetopsis/contract';
import { formatBytes, formatCores, formatPercent } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';
import { stripInWords } from '../drawing/stripModel.ts';

export type SortBy = 'tightness' | 'use' | 'request' | 'name';
export const SORTS: readonly SortBy[] = ['tightness', 'use', 'request', 'name'];
export const SORT_WORDS: Record<SortBy, string> = {
  tightness: 'by tightness',
  use: 'by use',
  request: 'by use of request',
  name: 'by name',
};

const falling = (a: number | null, b: number | null): number =>
  (b ?? Number.NEGATIVE_INFINITY) - (a ?? Number.NEGATIVE_INFINITY) || 0;
const ratio = (part: number | null, whole: number | null): number | null =>
  part === null || whole === null || whole === 0 ? null : part / whole;

/** What is gone comes last; what has no tightness comes after what has, by use. */
export function sortRows(rows: readonly UsageRow[], resource: Resource, by: SortBy): UsageRow[] {
  const order = (a: UsageRow, b: UsageRow): number => {
    const [left, right] = [a.usage[resource], b.usage[resource]];
    switch (by) {
      case 'tightness':
        return falling(left.tightness, right.tightness) || falling(left.use, right.use);
      case 'use':
        return falling(left.use, right.use);
      case 'request':
        return falling(ratio(left.use, left.request), ratio(right.use, right.request));
      case 'name':
        return 0;
    }
  };
  return [...rows].sort((a, b) => Number(b.present) - Number(a.present) || order(a, b) || a.name.localeCompare(b.name));
}

export const LEVEL_WORDS: Record<UsageLevel, string> = {
  cluster: 'Clusters',
  namespace: 'Namespaces',
  workload: 'Workloads',
  pod: 'Pods',
  container: 'Containers',
};

/** The amount in a row's corner: no unit, since the column's head names it; memory needs its prefix. */
export function rowAmount(row: UsageRow, resource: Resource): string {
  const { use } = row.usage[resource];
  return resource === 'cpu' ? formatCores(use, false) : formatBytes(use);
}

/** How near the limit, as the row's second figure; without a limit that is said. */
export function rowShare(row: UsageRow, resource: Resource): string {
  const { tightness, limit } = row.usage[resource];
  if (limit === null) return 'no limit';
  return formatPercent(tightness);
}

export function rowInWords(row: UsageRow, resource: Resource): string {
  const parts = [row.name, stripInWords(resource, row.usage[resource])];
  if (row.severity) parts.push(`${row.severity}: ${row.finding ?? ''}`);
  if (row.ready !== null && row.desired !== null) parts.push(`${row.ready} of ${row.desired} ready`);
  if (!row.present) parts.push('gone by the end of the window');
  return parts.join('. ');
}

/** Children's uses in the order they are drawn: they cut their parent's strip. */
export function cutsFrom(column: UsageColumn | undefined, resource: Resource, by: SortBy): number[] {
  if (!column) return [];
  return sortRows(column.rows, resource, by)
    .map((row) => row.usage[resource].use ?? 0)
    .filter((use) => use > 0);
}

const WIDE = 200;
const NARROW = 132;

/** How many of the first columns must be narrow, so that all of them fit beside the sheet. */
export function narrowCount(columns: number, width: number): number {
  for (let narrow = 0; narrow < columns; narrow++)
    if (narrow * NARROW + (columns - narrow) * WIDE <= width) return narrow;
  return Math.max(0, columns - 1);
}

/** Columns of an answer that still hold for a path: an older answer's deeper columns may belong to another parent. */
export function columnsFor(answer: UsageAnswer | undefined, path: readonly string[]): UsageColumn[] {
  if (!answer) return [];
  return answer.columns.filter(
    (_, index) => answer.path.slice(0, index).every((part, i) => part === path[i]) && index <= path.length,
  );
}

/** What an arrow or letter key makes of the path. Null = the key does nothing here. */
export function movePath(
  path: readonly string[],
  columns: readonly (readonly UsageRow[])[],
  key: 'up' | 'down' | 'left' | 'right',
): string[] | null {
  const level = path.length - 1;
  switch (key) {
    case 'left':
      return path.length > 1 ? path.slice(0, -1) : null;
    case 'right': {
      const [first] = columns[path.length] ?? [];
      return first ? [...path, first.key] : null;
    }
    case 'up':
    case 'down': {
      const rows = columns[Math.max(0, level)] ?? [];
      const at = rows.findIndex((row) => row.key === path[level]);
      const next = rows[at < 0 ? 0 : at + (key === 'down' ? 1 : -1)];
      return next ? [...path.slice(0, Math.max(0, level)), next.key] : null;
    }
  }
}
