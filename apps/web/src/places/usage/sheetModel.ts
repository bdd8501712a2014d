import type { FlowLines, SheetAnswer } from '@zetopsis/contract';
import {
  formatAmount,
  formatBytes,
  formatCores,
  formatDuration,
  formatLatency,
  formatNumber,
  formatPercent,
  formatRate,
} from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';

/** A sheet of something that uses CPU and memory. */
export type MeasuredSheet = SheetAnswer & {
  readonly usage: NonNullable<SheetAnswer['usage']>;
  readonly cpu: NonNullable<SheetAnswer['cpu']>;
  readonly memory: NonNullable<SheetAnswer['memory']>;
};
export const isMeasured = (sheet: SheetAnswer): sheet is MeasuredSheet =>
  sheet.usage !== null && sheet.cpu !== null && sheet.memory !== null;

export interface ChartPoint {
  readonly at: number;
  readonly use: number | null;
  readonly request: number | null;
  readonly limit: number | null;
  readonly against: number | null;
}

export function chartPoints({ grid, cpu, memory }: MeasuredSheet, resource: Resource): ChartPoint[] {
  const lines = resource === 'cpu' ? cpu : memory;
  return Array.from({ length: grid.count }, (_, i) => ({
    at: grid.start + i * grid.step,
    use: lines.use[i] ?? null,
    request: lines.request[i] ?? null,
    limit: lines.limit[i] ?? null,
    against: lines.against?.[i] ?? null,
  }));
}

/** The limit is drawn into the picture when use comes anywhere near it; a far one would flatten the line and is said instead. */
export function chartTop(points: readonly ChartPoint[]): { top: number; limitShown: boolean } {
  const highest = (pick: (point: ChartPoint) => number | null) =>
    Math.max(0, ...points.map((point) => pick(point) ?? 0));
  const use = Math.max(
    highest(({ use: value }) => value),
    highest(({ against }) => against),
  );
  const limit = highest(({ limit: value }) => value);
  const limitShown = limit > 0 && limit <= use * 6;
  // room above the limit for its name
  return { top: Math.max(use, limitShown ? limit * 1.16 : 0, 1e-6) * 1.06, limitShown };
}

const LIMIT_WORDS = {
  limit: 'limit',
  quota: 'quota',
  allocatable: 'allocatable',
  size: 'size',
  time: 'time',
  none: '',
} as const;
export const limitWord = (sheet: MeasuredSheet, resource: Resource): string =>
  LIMIT_WORDS[sheet.usage[resource].limitIs];

/** "1.86 of 2.00 GiB limit, 93 %" */
export function figureWords(resource: Resource, sheet: MeasuredSheet): string {
  const { use, limit } = sheet.usage[resource];
  if (use === null) return 'nothing read at the end of this window';
  if (limit === null) return `${formatAmount(resource, use)}, no limit`;
  const used = resource === 'cpu' ? formatCores(use, use < 0.1) : formatAmount(resource, use);
  return `${used} of ${formatAmount(resource, limit)} ${limitWord(sheet, resource)}, ${formatPercent(use / limit)}`;
}

/** An alert whose reason a finding tells already stands there: one cause, one entry. */
export const alertsBesides = ({ raised }: SheetAnswer): SheetAnswer['raised'] =>
  raised.filter(({ toldBy }) => toldBy === null);
export const isRaised = ({ raised }: SheetAnswer, finding: number): boolean =>
  raised.some(({ toldBy }) => toldBy === finding);

export type FlowPoint = Readonly<Record<string, number | null>> & { readonly at: number };

/** Of each line its values and those compared with: `value0`, `against0`, … */
export function flowPoints({ lines, limit }: FlowLines, { grid }: Pick<SheetAnswer, 'grid'>): FlowPoint[] {
  return Array.from({ length: grid.count }, (_, i) => {
    const point: Record<string, number | null> & { at: number } = { at: grid.start + i * grid.step };
    lines.forEach((line, n) => {
      point[`value${n}`] = line.values[i] ?? null;
      point[`against${n}`] = line.against?.[i] ?? null;
    });
    point['limit'] = limit?.[i] ?? null;
    return point;
  });
}
export const flowAmount = ({ unit }: Pick<FlowLines, 'unit'>, value: number | null): string =>
  value === null ? 'not read' : AMOUNTS[unit](value);
const AMOUNTS: Record<FlowLines['unit'], (value: number) => string> = {
  bytes: formatBytes,
  cores: formatCores,
  pods: (value) => String(Math.round(value * 10) / 10),
  count: formatNumber,
  share: formatPercent,
  seconds: formatLatency,
  'per s': formatRate,
  'per min': (value) => `${formatNumber(Math.round(value * 100) / 100)} per min`,
  'bytes per s': (value) => `${formatBytes(value)} per s`,
};

const lastOf = (values: readonly (number | null)[]): number | null => values.at(-1) ?? null;
/** "received 1.20 MiB per s, sent 300 KiB per s" */
export function flowWords(flow: FlowLines): string {
  const words = flow.lines.map(
    ({ name, values }) => `${flow.lines.length > 1 ? `${name} ` : ''}${flowAmount(flow, lastOf(values))}`,
  );
  const [used, limit] = [lastOf(flow.lines[0]?.values ?? []), lastOf(flow.limit ?? [])];
  if (used !== null && limit !== null) words.push(`${formatPercent(used / limit)} of ${flowAmount(flow, limit)}`);
  return words.join(', ');
}

/** When a volume will be full; null when nothing says that it will. */
export function fullWords(fullIn: number | null): string | null {
  if (fullIn === null || fullIn > 180 * 86_400_000) return null;
  return fullIn <= 0 ? 'full now' : `full in about ${formatDuration(fullIn)}, if it goes on like this`;
}

/** A stretch in which nothing was read of what was there. */
export interface Gap {
  readonly from: number;
  readonly to: number;
}
/** One reading that came late is no gap to be drawn. */
const FEWEST_MISSED = 2;

/** Where a line has no value though the object was there: it is blind there, which is not the same as nothing. */
export function gapsOf(values: readonly (number | null)[], sheet: SheetAnswer): Gap[] {
  const { start, step, count } = sheet.grid;
  const there = (i: number) =>
    (sheet.createdAt === null || start + i * step >= sheet.createdAt + FEWEST_MISSED * step) &&
    (sheet.endedAt === null || start + i * step < sheet.endedAt) &&
    (sheet.level === 'host' || sheet.cpu === null || sheet.cpu.request[i] != null);
  const gaps: Gap[] = [];
  let first = -1;
  for (let i = 0; i <= count; i++) {
    const missed = i < count && values[i] == null && there(i);
    if (missed && first < 0) first = i;
    if (missed || first < 0) continue;
    if (i - first >= FEWEST_MISSED)
      gaps.push({ from: start + Math.max(0, first - 1) * step, to: start + Math.min(i, count - 1) * step });
    first = -1;
  }
  return gaps;
}
