import type { Compared, Figures } from '@zetopsis/contract';
import { formatAmount, formatBytes, formatCores, formatPercent } from '@zetopsis/core/format';
import type { Looked } from './looked.ts';

/** What a strip measures: its name in a sentence, and how its amounts are written. */
export interface Counted {
  readonly name: string;
  readonly amount: (value: number | null) => string;
  /** Told by its amount alone: nothing bounds it, and it is no use of something. */
  readonly plain?: true;
}
const flow = (value: number | null) => (value === null ? 'not read' : `${formatBytes(value)} per s`);
const count = (value: number | null) => (value === null ? 'not read' : String(Math.round(value * 10) / 10));
export const COUNTED: Readonly<Record<Looked | 'volume', Counted>> = {
  cpu: { name: 'CPU', amount: (value) => formatAmount('cpu', value) },
  memory: { name: 'memory', amount: (value) => formatAmount('memory', value) },
  volume: { name: 'volume', amount: formatBytes },
  volumes: { name: 'volumes', amount: formatBytes },
  files: { name: 'file systems', amount: formatBytes },
  pods: { name: 'pods', amount: count },
  received: { name: 'received over the network', amount: flow, plain: true },
  sent: { name: 'sent over the network', amount: flow, plain: true },
  restarts: { name: 'restarts in the window', amount: count, plain: true },
  memoryEnds: { name: 'ends for want of memory in the window', amount: count, plain: true },
  throttled: { name: 'throttled', amount: formatPercent, plain: true },
};

/** A quota's resource by its name in the cluster: cores, bytes or a mere number. */
export function countedOf(resource: string): Counted {
  if (/(^|\.)cpu$/.test(resource)) return { name: resource, amount: formatCores };
  if (/(memory|storage)$/.test(resource)) return { name: resource, amount: formatBytes };
  return { name: resource, amount: (value) => (value === null ? 'not read' : String(value)) };
}

/** Where everything stands on a strip, as shares of its full length. Null = not drawn. */
export interface StripDrawing {
  readonly use: number | null;
  readonly peak: number | null;
  readonly request: number | null;
  readonly heading: number | null;
  /** Use in the window compared with. */
  readonly against: number | null;
  /** No limit: the strip's end stays open and its scale is only that of its own marks. */
  readonly open: boolean;
  /** The limit is passed: the bar breaks out of its frame. */
  readonly over: boolean;
  /** 1 … 4, the step of the fill sequence. */
  readonly fill: 1 | 2 | 3 | 4;
}

/** By how near something is to its limit. */
export const fillOf = (tight: number): StripDrawing['fill'] =>
  tight > 0.85 ? 4 : tight > 0.65 ? 3 : tight > 0.4 ? 2 : 1;

const ROOM_WHEN_OPEN = 1.3;

/** `openLength`: what the length of an open strip stands for, so that those of one list can be compared. */
export function drawStrip(
  figures: Figures,
  against: Compared | null = null,
  openLength: number | null = null,
): StripDrawing {
  const { use, peak, request, limit, heading } = figures;
  const open = limit === null || limit <= 0;
  const other = against?.use ?? null;
  const scale = open
    ? (openLength ?? Math.max(use ?? 0, peak ?? 0, request ?? 0, other ?? 0, 1e-9) * ROOM_WHEN_OPEN)
    : limit;
  const share = (value: number | null) => (value === null ? null : value / scale);
  const useShare = share(use);
  const over = !open && (useShare ?? 0) > 1;
  // its shade is what lists are sorted by: how near to the limit it was, not where it happens to be now
  const tight = open ? 0 : (figures.tightness ?? useShare ?? 0);
  return {
    use: useShare,
    peak: share(peak),
    request: request === 0 ? null : share(request),
    heading: share(heading),
    against: share(other),
    open,
    over,
    fill: over ? 4 : fillOf(tight),
  };
}

const LIMIT_WORDS = {
  limit: 'its limit',
  quota: 'its quota',
  allocatable: 'what the nodes can give',
  size: 'its size',
  time: 'the time',
  none: '',
} as const;

/** Everything a strip shows, in words with units: its tooltip and accessible name. */
export function stripInWords(of: Counted, figures: Figures, against: Compared | null = null): string {
  const { name, amount, plain } = of;
  if (plain) {
    const most = figures.peak === null ? '' : `; 95 % of the window below ${amount(figures.peak)}`;
    return figures.use === null && figures.peak === null
      ? `${name}: not known${againstInWords(of, against)}`
      : `${name}: ${amount(figures.use)}${most}${againstInWords(of, against)}`;
  }
  if (figures.use === null && figures.peak === null) {
    const asked = figures.request === null ? '' : `; ${amount(figures.request)} asked for`;
    return `${name}: nothing was read${asked}${againstInWords(of, against)}`;
  }
  const words = [figures.use === null ? `${name}: no reading now` : `${name}: ${amount(figures.use)} in use`];
  if (figures.limit !== null && figures.limitIs !== 'none') {
    const share =
      figures.use === null ? '' : `, ${formatPercent(figures.use / figures.limit)} of ${LIMIT_WORDS[figures.limitIs]}`;
    words[0] += `${share} of ${amount(figures.limit)}`;
  } else words.push(figures.unlimited === null ? 'no limit' : `no limit, because ${figures.unlimited} has none`);
  if (figures.peak !== null) words.push(`95 % of the window below ${amount(figures.peak)}`);
  if (figures.request !== null && figures.request > 0) words.push(`${amount(figures.request)} asked for`);
  if (figures.heading !== null) words.push(`heading for ${amount(figures.heading)} one window later`);
  return words.join('; ') + againstInWords(of, against);
}
const againstInWords = ({ amount, plain }: Counted, against: Compared | null): string =>
  against === null
    ? ''
    : `; against ${amount(against.use)}${plain ? '' : ' in use'} then, ${amount(against.mean)} on average`;

/** What the length of a list's open strips stands for. */
export function openLengthOf(
  list: readonly { readonly figures: Figures; readonly against: Compared | null }[],
): number {
  const values = list
    .filter(({ figures: { limit } }) => limit === null || limit <= 0)
    .flatMap(({ figures: { use, peak, request }, against }) => [use, peak, request, against?.use]);
  return Math.max(1e-9, ...values.map((value) => value ?? 0)) * ROOM_WHEN_OPEN;
}

/** Borders that lie nearer to each other than this, as a share of the length, cannot be told apart. */
const APART = 0.008;

/** Borders between the children's shares, inside the fill; those of thousands of children run together. */
export function cutsAt(cuts: readonly number[] | undefined, use: number): number[] {
  if (!cuts || cuts.length < 2) return [];
  const total = cuts.reduce((sum, cut) => sum + cut, 0);
  if (total <= 0) return [];
  const at: number[] = [];
  let sum = 0;
  for (const cut of cuts.slice(0, -1)) {
    sum += cut;
    const share = (sum / total) * Math.min(1, use);
    if (share - (at.at(-1) ?? 0) >= APART) at.push(share);
  }
  return at;
}
