import { type Compared, type Figures, OtherResource, type UsageRow } from '@zetopsis/contract';
import { formatBytes, formatCores, formatPercent } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';

/** What may be looked at of a row: CPU, memory, or one of the others. */
export type Looked = Resource | OtherResource;
export const LOOKED: readonly Looked[] = ['cpu', 'memory', ...OtherResource.options];
export const isMain = (looked: Looked): looked is Resource => looked === 'cpu' || looked === 'memory';
/** For what knows only of CPU and memory. */
export const mainOf = (looked: Looked): Resource => (looked === 'memory' ? 'memory' : 'cpu');
export const otherOf = (looked: Looked): OtherResource | undefined => (isMain(looked) ? undefined : looked);

export const LOOKED_WORDS: Readonly<Record<Looked, string>> = {
  cpu: 'CPU, cores',
  memory: 'memory',
  received: 'network received',
  sent: 'network sent',
  files: 'file systems',
  volumes: 'volumes',
  pods: 'pod slots',
  throttled: 'throttled',
  restarts: 'restarts',
  memoryEnds: 'out of memory',
};
const flow = (value: number | null) => (value === null ? 'not read' : `${formatBytes(value)}/s`);
const count = (value: number | null) => (value === null ? 'not read' : String(Math.round(value * 10) / 10));
/** An amount in a row's corner: no unit where the column's head names it. */
export const CORNER: Readonly<Record<Looked, (value: number | null) => string>> = {
  cpu: (value) => formatCores(value, false),
  memory: formatBytes,
  received: flow,
  sent: flow,
  files: formatBytes,
  volumes: formatBytes,
  pods: count,
  throttled: formatPercent,
  restarts: count,
  memoryEnds: count,
};

const NONE: Figures = {
  use: null,
  mean: null,
  peak: null,
  request: null,
  limit: null,
  limitIs: 'none',
  unlimited: null,
  tightness: null,
  heading: null,
};
export const figuresOf = ({ usage, other }: Pick<UsageRow, 'usage' | 'other'>, looked: Looked): Figures =>
  isMain(looked) ? usage[looked] : (other ?? NONE);
export const thenOf = ({ against }: Pick<UsageRow, 'against'>, looked: Looked): Compared | null =>
  against === null ? null : isMain(looked) ? against[looked] : (against.other ?? null);
