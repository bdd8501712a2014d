import { isUnread, listed } from '@zetopsis/answers/cluster';
import type { FlowLines, OtherResource } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import type { Samples } from '@zetopsis/core/samples';
import type { SeriesId } from '@zetopsis/core/units';
import {
  figuresOf,
  flowOnGrid,
  type Grid,
  HOST_LABELS,
  type HOST_METRICS,
  levelOnGrid,
  linesAgainst,
  type ResourceUsage,
  sumOfLines,
  USED_STATE,
  type UsageNode,
} from '@zetopsis/core/usage';

/** Nothing of this is told by the names that are looked for. */
export const NO_FIGURES = emptyBecause('notToldByHost');
/** What was read of a machine in a window. */
export interface HostRead {
  readonly node: UsageNode;
  readonly grid: Grid;
  readonly interval: number;
  readonly of: (metric: keyof typeof HOST_METRICS) => { id: SeriesId; samples: Samples }[];
}

type LabelOf = (id: SeriesId, label: string) => string;
const networkOf = ({ of, grid, interval }: HostRead, direction: string, labelOf: LabelOf): Float64Array =>
  flowOnGrid(
    of('network')
      .filter(({ id }) => labelOf(id, HOST_LABELS.direction) === direction)
      .map(({ samples }) => samples),
    grid,
    interval,
  );
const mountsOf = ({ of }: HostRead, labelOf: LabelOf): string[] =>
  [...new Set(of('files').map(({ id }) => labelOf(id, HOST_LABELS.mount)))].sort().slice(0, 12);
const usedOf = ({ of, grid, interval }: HostRead, mount: string, labelOf: LabelOf): Float64Array =>
  levelOnGrid(
    of('files')
      .filter(({ id }) => labelOf(id, HOST_LABELS.mount) === mount && labelOf(id, HOST_LABELS.fileState) === USED_STATE)
      .map(({ samples }) => samples),
    grid,
    interval,
  );
function sizeOf({ of, grid, interval }: HostRead, mount: string, labelOf: LabelOf): Float64Array {
  const ofMount = (metric: 'files' | 'fileLimit') =>
    of(metric).filter(({ id }) => labelOf(id, HOST_LABELS.mount) === mount);
  const given = ofMount('fileLimit');
  return levelOnGrid(
    (given.length > 0 ? given : ofMount('files')).map(({ samples }) => samples),
    grid,
    interval,
  );
}

/** Network and file systems, as a sheet draws them. */
export function flowsOf(now: HostRead, then: HostRead | null, labelOf: LabelOf): FlowLines[] {
  const mounts = mountsOf(now, labelOf);
  const directions = [
    ['received', networkOf(now, 'receive', labelOf), then && networkOf(then, 'receive', labelOf)],
    ['sent', networkOf(now, 'transmit', labelOf), then && networkOf(then, 'transmit', labelOf)],
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
      const used = usedOf(now, mount, labelOf);
      return {
        title: `File system ${mount}`,
        unit: 'bytes',
        lines: [{ name: 'used', values: listed(used), against: then && listed(usedOf(then, mount, labelOf)) }],
        limit: listed(sizeOf(now, mount, labelOf)),
        empty: isUnread(used) ? NO_FIGURES : null,
      };
    }),
  ];
}

/** Of a machine: its network, and all its file systems in sum; there is nothing else of it. */
export function hostOther(read: HostRead, other: OtherResource, label: LabelOf): ResourceUsage | null {
  const open = (use: Float64Array) => figuresOf(linesAgainst(use, new Uint8Array(use.length), null), 'none');
  if (other === 'received' || other === 'sent')
    return open(networkOf(read, other === 'received' ? 'receive' : 'transmit', label));
  if (other !== 'files') return null;
  const parts = mountsOf(read, label).map((mount) =>
    linesAgainst(usedOf(read, mount, label), new Uint8Array(read.grid.count), sizeOf(read, mount, label)),
  );
  return parts.length === 0 ? null : figuresOf(sumOfLines(read.grid, parts), 'size');
}
