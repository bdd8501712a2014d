import type { SheetAnswer } from '@zetopsis/contract';
import { formatAmount, formatCores, formatPercent } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';

export interface ChartPoint {
  readonly at: number;
  readonly use: number | null;
  readonly request: number | null;
  readonly limit: number | null;
}

export function chartPoints({ grid, cpu, memory }: SheetAnswer, resource: Resource): ChartPoint[] {
  const lines = resource === 'cpu' ? cpu : memory;
  return Array.from({ length: grid.count }, (_, i) => ({
    at: grid.start + i * grid.step,
    use: lines.use[i] ?? null,
    request: lines.request[i] ?? null,
    limit: lines.limit[i] ?? null,
  }));
}

/** The limit is drawn into the picture when use comes anywhere near it; a far one would flatten the line and is said instead. */
export function chartTop(points: readonly ChartPoint[]): { top: number; limitShown: boolean } {
  const highest = (pick: (point: ChartPoint) => number | null) =>
    Math.max(0, ...points.map((point) => pick(point) ?? 0));
  const use = highest(({ use: value }) => value);
  const limit = highest(({ limit: value }) => value);
  const limitShown = limit > 0 && limit <= use * 6;
  // room above the limit for its name
  return { top: Math.max(use, limitShown ? limit * 1.16 : 0, 1e-6) * 1.06, limitShown };
}

/** "1.86 of 2.00 GiB limit, 93 %" */
export function figureWords(resource: Resource, sheet: SheetAnswer): string {
  const { use, limit, limitIs } = sheet.usage[resource];
  if (use === null) return 'nothing read at the end of this window';
  if (limit === null) return `${formatAmount(resource, use)}, no limit`;
  const used = resource === 'cpu' ? formatCores(use, use < 0.1) : formatAmount(resource, use);
  return `${used} of ${formatAmount(resource, limit)} ${limitIs}, ${formatPercent(use / limit)}`;
}

/** An alert whose reason a finding tells already stands there: one cause, one entry. */
export function alertsBesides({ raised, findings }: SheetAnswer): SheetAnswer['raised'] {
  return raised.filter((alert) => !findings.some(({ reason }) => reason === alert.reason));
}
export function isRaised({ raised }: SheetAnswer, reason: string): boolean {
  return raised.some((alert) => alert.reason === reason);
}

/** Why a chart is empty: the reason stands in the chart. */
export function emptyWords(points: readonly ChartPoint[], sheet: SheetAnswer): string | null {
  if (points.some(({ use }) => use !== null)) return null;
  if (sheet.containers.some(({ state }) => state.startsWith('waits')))
    return 'Never read: its container has not run in this window.';
  if (sheet.containers.length === 1 && sheet.containers[0]?.role === 'start-up')
    return 'Not read: a start-up container ends before the next reading.';
  return 'Nothing was read in this window. Sources says whether the endpoint delivers.';
}
