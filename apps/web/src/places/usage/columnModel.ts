import type { UsageAnswer, UsageColumn, UsageLevel, UsageRow } from '@zetopsis/contract';
import { formatPercent } from '@zetopsis/core/format';
import { CORNER, figuresOf, isMain, type Looked, thenOf } from '../../drawing/looked.ts';
import { goneWords, isNobodys, isOthers } from '../../drawing/rows.ts';
import { COUNTED, stripInWords } from '../../drawing/stripModel.ts';

export type SortBy = 'tightness' | 'use' | 'request' | 'swing' | 'name';
/** Swing is the difference between the two windows: there is none where nothing is compared. */
export const sortsFor = (comparing: boolean): readonly SortBy[] =>
  comparing ? ['swing', 'tightness', 'use', 'request', 'name'] : ['tightness', 'use', 'request', 'name'];
export const SORT_WORDS: Record<SortBy, string> = {
  tightness: 'tightness',
  use: 'use',
  request: 'use of request',
  swing: 'swing',
  name: 'name',
};

/** What two windows say of one object: a row, or a sheet. */
type Comparable = Pick<UsageRow, 'usage' | 'other' | 'against' | 'pairing'>;

/** How much more, on average, the window used than the one compared with; what is new or gone counts from nothing. Null when unknown. */
export function swingOf(row: Comparable, resource: Looked): number | null {
  const { pairing } = row;
  if (pairing === null) return null;
  const now = figuresOf(row, resource).mean ?? (pairing === 'gone' ? 0 : null);
  const then = thenOf(row, resource)?.mean ?? (pairing === 'new' ? 0 : null);
  return now === null || then === null ? null : now - then;
}

/** "+33 %", "new", "gone"; the figure in the corner of a compared row. */
export function swingShort(row: Comparable, resource: Looked): string {
  if (row.pairing === 'new' || row.pairing === 'gone') return row.pairing;
  const swing = swingOf(row, resource);
  const then = thenOf(row, resource)?.mean ?? null;
  if (swing === null || then === null) return 'unread';
  if (then === 0) return swing === 0 ? '± 0' : `+${COUNTED[resource].amount(swing)}`;
  const share = swing / then;
  if (Math.abs(share) < 0.005) return '± 0';
  return share >= 9.995 ? `× ${(share + 1).toFixed(0)}` : `${share > 0 ? '+' : '−'}${formatPercent(Math.abs(share))}`;
}

/** "1.20 cores on average, 0.90 cores in the window compared with: +33 %" */
export function swingInWords(row: Comparable, resource: Looked): string | null {
  if (row.pairing === null) return null;
  if (row.pairing === 'new') return 'new: the window compared with does not have it';
  const mean = thenOf(row, resource)?.mean ?? null;
  if (mean === null) return 'nothing of it was read in the window compared with: the tape shows what was';
  const then = COUNTED[resource].amount(mean);
  if (row.pairing === 'gone') return `gone: it used ${then} on average in the window compared with`;
  return `${COUNTED[resource].amount(figuresOf(row, resource).mean)} on average, ${then} in the window compared with: ${swingShort(row, resource)}`;
}

/** Of all of these, nothing was read in the window compared with. */
export const unreadThen = (rows: readonly UsageRow[], resource: Looked): boolean =>
  rows.length > 0 && rows.every((row) => (thenOf(row, resource)?.mean ?? null) === null);

/** What the full length of a column's mirror strips stands for. */
export const mirrorScale = (rows: readonly UsageRow[], resource: Looked): number =>
  Math.max(1e-9, ...rows.flatMap((row) => [figuresOf(row, resource).mean ?? 0, thenOf(row, resource)?.mean ?? 0]));

/** Much faster than comparing texts by themselves. */
const byName = new Intl.Collator();
const falling = (a: number | null, b: number | null): number =>
  (b ?? Number.NEGATIVE_INFINITY) - (a ?? Number.NEGATIVE_INFINITY) || 0;
const size = (value: number | null): number | null => (value === null ? null : Math.abs(value));
const ratio = (part: number | null, whole: number | null): number | null =>
  part === null || whole === null || whole === 0 ? null : part / whole;

/** What is gone comes after what is there, the share of others last; what has no tightness comes after what has, by use. */
export function sortRows(rows: readonly UsageRow[], resource: Looked, by: SortBy): UsageRow[] {
  const order = (a: UsageRow, b: UsageRow): number => {
    const [left, right] = [figuresOf(a, resource), figuresOf(b, resource)];
    switch (by) {
      case 'tightness':
        return falling(left.tightness, right.tightness) || falling(left.use, right.use);
      case 'use':
        return falling(left.use, right.use);
      case 'request':
        return falling(ratio(left.use, left.request), ratio(right.use, right.request));
      case 'swing':
        return falling(size(swingOf(a, resource)), size(swingOf(b, resource)));
      case 'name':
        return 0;
    }
  };
  const last = ({ kind }: UsageRow) => LAST.indexOf(kind ?? '');
  const gone = (row: UsageRow) => (by === 'swing' ? 0 : Number(!row.present));
  return [...rows].sort(
    (a, b) => last(a) - last(b) || gone(a) - gone(b) || order(a, b) || byName.compare(a.name, b.name),
  );
}

/** Machines outside come after the clusters, and behind all the rows that stand for no object, whatever their size. */
const LAST: readonly string[] = ['host', 'others', 'itself', 'unused', 'free'];

export const LEVEL_WORDS: Record<UsageLevel, string> = {
  cluster: 'Clusters',
  namespace: 'Namespaces',
  workload: 'Workloads',
  pod: 'Pods',
  container: 'Containers',
  node: 'Nodes',
  host: 'Hosts',
  team: 'Teams',
};

/** It has no volume at all, which is not the same as one that was not read. */
export const hasNone = (row: UsageRow, resource: Looked): boolean => resource === 'volumes' && row.other === null;

/** The amount in a row's corner: no unit, since the column's head names it; memory needs its prefix. */
export function rowAmount(row: UsageRow, resource: Looked): string {
  if (hasNone(row, resource)) return 'none';
  const { use } = figuresOf(row, resource);
  return use === null ? 'not read' : CORNER[resource](use);
}

/** How near the limit, as the row's second figure; without a limit that is said. */
export function rowShare(row: UsageRow, resource: Looked): string {
  const { tightness, limit } = figuresOf(row, resource);
  if (isNobodys(row)) return '';
  // a share of the time is the amount itself
  if (resource === 'throttled') return '';
  if (limit === null) return isMain(resource) ? 'no limit' : '';
  return formatPercent(tightness);
}

export function rowInWords(row: UsageRow, resource: Looked): string {
  const parts = [
    isOthers(row) ? 'others, as one share' : row.name,
    hasNone(row, resource) ? 'no volume' : stripInWords(COUNTED[resource], figuresOf(row, resource)),
  ];
  if (row.severity) parts.push(`${row.severity}: ${row.finding ?? ''}`);
  if (row.ready !== null && row.desired !== null) parts.push(`${row.ready} of ${row.desired} ready`);
  if (!row.present) parts.push(goneWords(row.goneAt));
  const swing = swingInWords(row, resource);
  if (swing !== null) parts.push(swing);
  return parts.join('. ');
}

/** Children's uses in the order they are drawn: they cut their parent's strip. */
export function cutsFrom(column: UsageColumn | undefined, resource: Looked, by: SortBy): number[] {
  if (!column) return [];
  return sortRows(column.rows, resource, by)
    .filter(({ kind }) => kind !== 'unused' && kind !== 'free')
    .map((row) => figuresOf(row, resource).use ?? 0)
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
      const first = columns[path.length]?.find((row) => !isNobodys(row));
      return first ? [...path, first.key] : null;
    }
    case 'up':
    case 'down': {
      const rows = (columns[Math.max(0, level)] ?? []).filter((row) => !isNobodys(row));
      const at = rows.findIndex((row) => row.key === path[level]);
      const next = rows[at < 0 ? 0 : at + (key === 'down' ? 1 : -1)];
      return next ? [...path.slice(0, Math.max(0, level)), next.key] : null;
    }
  }
}
