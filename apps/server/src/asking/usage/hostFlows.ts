import { isUnread, listed } from '@zetopsis/answers/cluster';
import type { FlowLines, OtherResource } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import type { Samples } from '@zetopsis/core/samples';
import {
  figuresOf,
  flowOnGrid,
  type Grid,
  levelOnGrid,
  linesAgainst,
  type ResourceUsage,
  sumOfLines,
  USED_STATE,
  type UsageNode,
} from '@zetopsis/core/usage';
import type { HostVital, Role } from '@zetopsis/core/vitals';

/** File systems that are drawn. */
const MOST_MOUNTS = 12;
/** Nothing of this is told by the names that are looked for. */
export const NO_FIGURES = emptyBecause('notToldByHost');
/** What was read of a machine in a window. */
export interface HostRead {
  readonly node: UsageNode;
  readonly grid: Grid;
  readonly interval: number;
  /** `label`: what a series is told apart by; null where nothing is mapped for it. */
  readonly of: (vital: HostVital) => { samples: Samples; label: (role: Role) => string | null }[];
}

const networkOf = ({ of, grid, interval }: HostRead, vital: 'host.network.received' | 'host.network.sent') =>
  flowOnGrid(
    of(vital).map(({ samples }) => samples),
    grid,
    interval,
  );
const mountOf = ({ label }: ReturnType<HostRead['of']>[number]): string => label('mount') ?? '';
const mountsOf = ({ of }: HostRead): string[] =>
  [...new Set(of('host.filesystem.usage').map(mountOf))].sort().slice(0, MOST_MOUNTS);
const usedOf = ({ of, grid, interval }: HostRead, mount: string): Float64Array =>
  levelOnGrid(
    of('host.filesystem.usage')
      .filter((series) => mountOf(series) === mount && (series.label('state') ?? USED_STATE) === USED_STATE)
      .map(({ samples }) => samples),
    grid,
    interval,
  );
function sizeOf({ of, grid, interval }: HostRead, mount: string): Float64Array {
  const given = of('host.filesystem.limit').filter((series) => mountOf(series) === mount);
  // all states of what is used come to its size, where they are told apart
  const all = of('host.filesystem.usage').filter(
    (series) => mountOf(series) === mount && series.label('state') !== null,
  );
  return levelOnGrid(
    (given.length > 0 ? given : all).map(({ samples }) => samples),
    grid,
    interval,
  );
}

/** Network and file systems, as a sheet draws them. */
export function flowsOf(now: HostRead, then: HostRead | null): FlowLines[] {
  const mounts = mountsOf(now);
  const directions = [
    ['received', networkOf(now, 'host.network.received'), then && networkOf(then, 'host.network.received')],
    ['sent', networkOf(now, 'host.network.sent'), then && networkOf(then, 'host.network.sent')],
  ] as const;
  return [
    {
      title: 'Network',
      unit: 'bytes per s',
      lines: directions.map(([name, values, before]) => ({
        name,
        values: listed(values),
        against: before && listed(before),
      })),
      limit: null,
      empty: directions.every(([, values]) => isUnread(values)) ? NO_FIGURES : null,
    },
    ...mounts.map((mount): FlowLines => {
      const used = usedOf(now, mount);
      return {
        title: mount === '' ? 'File system' : `File system ${mount}`,
        unit: 'bytes',
        lines: [{ name: 'used', values: listed(used), against: then && listed(usedOf(then, mount)) }],
        limit: listed(sizeOf(now, mount)),
        empty: isUnread(used) ? NO_FIGURES : null,
      };
    }),
  ];
}

/** Of a machine: its network, and all its file systems in sum; there is nothing else of it. */
export function hostOther(read: HostRead, other: OtherResource): ResourceUsage | null {
  const open = (use: Float64Array) => figuresOf(linesAgainst(use, new Uint8Array(use.length), null), 'none');
  if (other === 'received' || other === 'sent') return open(networkOf(read, `host.network.${other}`));
  if (other !== 'files') return null;
  const parts = mountsOf(read).map((mount) =>
    linesAgainst(usedOf(read, mount), new Uint8Array(read.grid.count), sizeOf(read, mount)),
  );
  return parts.length === 0 ? null : figuresOf(sumOfLines(read.grid, parts), 'size');
}
