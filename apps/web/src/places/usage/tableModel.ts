import type { TableRow } from '@zetopsis/contract';
import { formatBytes, formatCores, formatDuration, formatPercent } from '@zetopsis/core/format';
import { SECOND } from '@zetopsis/core/units';
import { csvOfRows } from '../../drawing/csv.ts';
import { pathWords } from '../../drawing/names.ts';
import { goneWords } from '../../drawing/rows.ts';
import type { TableFilter } from '../../frame/useView.ts';

/** Ascending: what one looks for in a list. Figures are sorted largest first. */
export interface TableColumn {
  readonly key: string;
  readonly title: string;
  /** Of an exported figure. */
  readonly unit: string;
  readonly raw: (row: TableRow) => string | number | null;
  readonly text: (row: TableRow) => string;
  /** Amounts that can be added up. */
  readonly sums?: boolean;
  readonly figure: boolean;
}
const amount = ({
  key,
  title,
  unit,
  raw,
  text,
  sums = true,
}: {
  readonly key: string;
  readonly title: string;
  readonly unit: string;
  readonly raw: (row: TableRow) => number | null;
  readonly text: (value: number | null) => string;
  readonly sums?: boolean;
}): TableColumn => ({ key, title, unit, raw, text: (row) => text(raw(row)), sums, figure: true });
const words = (key: string, title: string, raw: (row: TableRow) => string): TableColumn => ({
  key,
  title,
  unit: '',
  raw,
  text: raw,
  figure: false,
});
const cores = (value: number | null) => (value === null ? 'not read' : formatCores(value, false));
const number = (value: number | null) => (value === null ? 'not read' : String(value));
const perSecond = (value: number | null) => (value === null ? 'not read' : `${formatBytes(value)}/s`);
const over = (part: number | null, whole: number | null) =>
  part === null || whole === null || whole === 0 ? null : part / whole;

export const COLUMNS: readonly TableColumn[] = [
  words('name', 'name', ({ name }) => name),
  words('where', 'where', ({ path }) => pathWords(path.slice(0, -1))),
  words('kind', 'kind', ({ kind }) => kind ?? ''),
  words('owner', 'owner', ({ owner }) => owner ?? ''),
  words('state', 'state', ({ severity, finding, present, goneAt }) =>
    [present ? '' : goneWords(goneAt), severity === null ? '' : `${severity}: ${finding ?? ''}`]
      .filter((part) => part !== '')
      .join('; '),
  ),
  amount({ key: 'pods', title: 'pods', unit: 'pods', raw: ({ pods }) => pods, text: number }),
  {
    key: 'ready',
    title: 'ready',
    unit: '',
    raw: ({ ready, desired }) => (ready === null ? null : `${ready} of ${desired ?? '?'}`),
    text: ({ ready, desired }) => (ready === null ? '' : `${ready} of ${desired ?? '?'}`),
    figure: false,
  },
  amount({
    key: 'age',
    title: 'age',
    unit: 'seconds',
    raw: ({ age }) => (age === null ? null : age / SECOND),
    text: (seconds) => (seconds === null ? '' : formatDuration(seconds * SECOND)),
    sums: false,
  }),
  amount({ key: 'cpu', title: 'CPU', unit: 'cores', raw: ({ usage }) => usage.cpu.use, text: cores }),
  amount({
    key: 'cpuPeak',
    title: 'CPU, 95 %',
    unit: 'cores',
    raw: ({ usage }) => usage.cpu.peak,
    text: cores,
    sums: false,
  }),
  amount({
    key: 'cpuRequest',
    title: 'CPU request',
    unit: 'cores',
    raw: ({ usage }) => usage.cpu.request,
    text: cores,
  }),
  amount({ key: 'cpuLimit', title: 'CPU limit', unit: 'cores', raw: ({ usage }) => usage.cpu.limit, text: cores }),
  amount({
    key: 'cpuTight',
    title: 'CPU tightness',
    unit: 'share',
    raw: ({ usage }) => usage.cpu.tightness,
    text: formatPercent,
    sums: false,
  }),
  amount({
    key: 'cpuOver',
    title: 'CPU of request',
    unit: 'share',
    raw: ({ usage }) => over(usage.cpu.use, usage.cpu.request),
    text: formatPercent,
    sums: false,
  }),
  amount({ key: 'memory', title: 'memory', unit: 'bytes', raw: ({ usage }) => usage.memory.use, text: formatBytes }),
  amount({
    key: 'memoryPeak',
    title: 'memory, 95 %',
    unit: 'bytes',
    raw: ({ usage }) => usage.memory.peak,
    text: formatBytes,
    sums: false,
  }),
  amount({
    key: 'memoryRequest',
    title: 'memory request',
    unit: 'bytes',
    raw: ({ usage }) => usage.memory.request,
    text: formatBytes,
  }),
  amount({
    key: 'memoryLimit',
    title: 'memory limit',
    unit: 'bytes',
    raw: ({ usage }) => usage.memory.limit,
    text: formatBytes,
  }),
  amount({
    key: 'memoryTight',
    title: 'memory tightness',
    unit: 'share',
    raw: ({ usage }) => usage.memory.tightness,
    text: formatPercent,
    sums: false,
  }),
  amount({
    key: 'memoryOver',
    title: 'memory of request',
    unit: 'share',
    raw: ({ usage }) => over(usage.memory.use, usage.memory.request),
    text: formatPercent,
    sums: false,
  }),
  amount({
    key: 'throttled',
    title: 'throttled',
    unit: 'share',
    raw: ({ throttled }) => throttled,
    text: formatPercent,
    sums: false,
  }),
  amount({ key: 'restarts', title: 'restarts', unit: 'restarts', raw: ({ restarts }) => restarts, text: number }),
  amount({
    key: 'memoryEnds',
    title: 'out of memory',
    unit: 'ends',
    raw: ({ memoryEnds }) => memoryEnds,
    text: number,
  }),
  amount({
    key: 'received',
    title: 'received',
    unit: 'bytes per second',
    raw: ({ received }) => received,
    text: perSecond,
  }),
  amount({ key: 'sent', title: 'sent', unit: 'bytes per second', raw: ({ sent }) => sent, text: perSecond }),
  amount({ key: 'files', title: 'files written', unit: 'bytes', raw: ({ files }) => files, text: formatBytes }),
  amount({ key: 'volumes', title: 'on volumes', unit: 'bytes', raw: ({ volumes }) => volumes, text: formatBytes }),
  amount({
    key: 'volumeSize',
    title: 'size of volumes',
    unit: 'bytes',
    raw: ({ volumeSize }) => volumeSize,
    text: formatBytes,
  }),
  amount({
    key: 'volumeFull',
    title: 'volumes full',
    unit: 'share',
    raw: ({ volumes, volumeSize }) => over(volumes, volumeSize),
    text: formatPercent,
    sums: false,
  }),
];
export const FIRST_COLUMNS: readonly string[] = [
  'name',
  'where',
  'state',
  'pods',
  'cpu',
  'cpuTight',
  'memory',
  'memoryLimit',
  'memoryTight',
  'restarts',
];
const BY_KEY = new Map(COLUMNS.map((column) => [column.key, column]));
/** Those that are known, each once; the name is always there. */
export function columnsOf(keys: readonly string[]): TableColumn[] {
  const known = [...new Set(keys)].flatMap((key) => BY_KEY.get(key) ?? []);
  return known.some(({ key }) => key === 'name') ? known : [COLUMNS[0]!, ...known];
}

export function fits({ labels, owner, severity }: TableRow, filter: TableFilter): boolean {
  if (filter.owner !== '' && (owner ?? 'nobody') !== filter.owner) return false;
  if (filter.state === 'found' && severity === null) return false;
  if (filter.state === 'calm' && severity !== null) return false;
  const label = filter.label.trim();
  if (label === '') return true;
  const [key = '', value] = label.split('=', 2).map((part) => part.trim());
  return labels[key] !== undefined && (value === undefined || labels[key] === value);
}

const byWords = new Intl.Collator();
/** Figures largest first, words in their order; what is not known comes last, whichever way. */
export function sorted(rows: readonly TableRow[], column: TableColumn, backwards: boolean): TableRow[] {
  const turn = (column.figure ? -1 : 1) * (backwards ? -1 : 1);
  // looked up once a row, not once a comparison
  return rows
    .map((row) => ({ row, value: column.raw(row), place: row.path.join() }))
    .sort((a, b) => {
      const [left, right] = [a.value, b.value];
      if (left === null || left === '') return right === null || right === '' ? 0 : 1;
      if (right === null || right === '') return -1;
      const order =
        typeof left === 'number' && typeof right === 'number'
          ? left - right
          : byWords.compare(String(left), String(right));
      return turn * order || byWords.compare(a.place, b.place);
    })
    .map(({ row }) => row);
}

export const total = (rows: readonly TableRow[], { sums, raw, text }: TableColumn): string => {
  if (sums !== true) return '';
  const known = rows.map(raw).filter((value) => typeof value === 'number');
  if (known.length === 0) return '';
  const sum = known.reduce((all, one) => all + one, 0);
  // written as a row's own figure would be
  return text({ ...rows[0]!, ...standIn(sum) });
};
/** A row in which every figure is one number. */
function standIn(sum: number): Partial<TableRow> {
  const figures = {
    use: sum,
    mean: sum,
    peak: sum,
    request: sum,
    limit: sum,
    limitIs: 'limit' as const,
    unlimited: null,
    tightness: sum,
    heading: null,
  };
  return {
    pods: sum,
    restarts: sum,
    memoryEnds: sum,
    received: sum,
    sent: sum,
    files: sum,
    volumes: sum,
    volumeSize: sum,
    usage: { cpu: figures, memory: figures },
  };
}

export const csvOf = (rows: readonly TableRow[], columns: readonly TableColumn[]): string =>
  csvOfRows([
    columns.map(({ title, unit }) => (unit === '' ? title : `${title} (${unit})`)),
    ...rows.map((row) => columns.map(({ raw }) => raw(row))),
  ]);
export function jsonOf(rows: readonly TableRow[], columns: readonly TableColumn[]): string {
  return `${JSON.stringify(
    rows.map((row) => ({ path: row.path, ...Object.fromEntries(columns.map(({ key, raw }) => [key, raw(row)])) })),
    null,
    2,
  )}\n`;
}
