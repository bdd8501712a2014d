import { Injectable } from '@nestjs/common';
import { isUnread, listed } from '@zetopsis/answers/cluster';
import type { PodFlows } from '@zetopsis/answers/columns';
import { type MeasuredObject, rateOver } from '@zetopsis/answers/sheet';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { FlowLines } from '@zetopsis/contract';
import { emptyBecause } from '@zetopsis/core/emptiness';
import { type BuiltIn, builtIn, type MeasuredPlace } from '@zetopsis/core/measures';
import type { Samples } from '@zetopsis/core/samples';
import type { SeriesId } from '@zetopsis/core/units';
import { flowOnGrid, type Grid, gridEnd, levelOnGrid } from '@zetopsis/core/usage';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { UsageService } from './usage.service.ts';

type Vital =
  | 'pod.network.io'
  | 'node.network.io'
  | 'container.filesystem.usage'
  | 'node.filesystem.usage'
  | 'node.filesystem.capacity'
  | 'node.network.errors'
  | 'node.device.errors'
  | 'node.inodes.used'
  | 'node.inodes.count';
const DIRECTIONS = [
  { is: 'receive', name: 'received' },
  { is: 'transmit', name: 'sent' },
] as const;
const NOT_READ = emptyBecause('notRead');

/** Network and file system of an object: read when its sheet is looked at. */
@Injectable()
export class FlowsService {
  constructor(
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly usage: UsageService,
  ) {}

  async flowsOf({
    usage,
    found,
    other,
    place,
  }: {
    readonly usage: SeenUsage;
    readonly found: MeasuredObject;
    readonly other: { readonly usage: SeenUsage; readonly found: MeasuredObject } | null;
    /** Where a measure looks that asks for the same; null: none can. */
    readonly place: MeasuredPlace | null;
  }): Promise<FlowLines[]> {
    const measure = (figure: BuiltIn): Pick<FlowLines, 'measure'> => {
      const text = place && builtIn(figure, place, { apart: rateOver(usage.input) });
      return text === null ? {} : { measure: text };
    };
    const [now, then] = await Promise.all([
      this.linesOf(usage, found),
      other ? this.linesOf(other.usage, other.found) : null,
    ]);
    const network = (lines: Lines) => [lines.received, lines.sent];
    const files = now.files;
    return [
      {
        title: found.level === 'container' ? 'Network of its pod' : 'Network',
        unit: 'bytes per s' as const,
        lines: DIRECTIONS.map(({ name }, i) => ({
          name,
          values: listed(network(now)[i]!), // one for each direction
          against: then ? listed(network(then)[i]!) : null,
        })),
        limit: null,
        empty: network(now).every(isUnread) ? NOT_READ : null,
        ...measure('network'),
        ...(found.level === 'container' && found.pods[0] !== undefined && found.pods[0].containers.length > 1
          ? { note: 'Containers of a pod share its network: this is what all of them received and sent.' }
          : {}),
      },
      {
        title:
          found.level === 'node' || found.level === 'cluster'
            ? 'File system of the nodes'
            : 'File system, written by its containers',
        unit: 'bytes' as const,
        lines: [{ name: 'used', values: listed(files), against: then ? listed(then.files) : null }],
        limit: now.size === null ? null : listed(now.size),
        empty: isUnread(files) ? NOT_READ : null,
        ...measure('files'),
      },
      ...(found.level === 'node'
        ? [
            ...(await this.entriesOf(usage, found.node.name, other?.usage ?? null)),
            ...(await this.errorsOf(usage, found.node.name, other?.usage ?? null)),
          ]
        : []),
    ];
  }

  /** The disk of the node that a pod is on; null where it is on none, or not a pod. */
  async nodeDiskOf({ connectionId, input }: SeenUsage, found: MeasuredObject): Promise<FlowLines | null> {
    const node = found.level === 'pod' || found.level === 'container' ? found.pods[0]?.node : null;
    if (node == null) return null;
    const { grid, interval } = input;
    const [used, size] = await this.levels({
      connectionId,
      vitals: ['node.filesystem.usage', 'node.filesystem.capacity'],
      node,
      grid,
      interval,
    });
    return {
      title: `Its node ${node}: file system`,
      unit: 'bytes',
      lines: [{ name: 'used', values: listed(used!), against: null }], // as many as vitals
      limit: listed(size!),
      empty: isUnread(used!) ? NOT_READ : null,
    };
  }
  /** File entries of a node; empty where its page does not tell them. */
  private async entriesOf(usage: SeenUsage, node: string, other: SeenUsage | null): Promise<FlowLines[]> {
    const of = ({ connectionId, input: { grid, interval } }: SeenUsage) =>
      this.levels({ connectionId, vitals: ['node.inodes.used', 'node.inodes.count'], node, grid, interval });
    const [[used, count], then] = await Promise.all([of(usage), other ? of(other) : null]);
    if (isUnread(used!)) return []; // as many as vitals
    return [
      {
        title: 'File entries (inodes) of the node',
        unit: 'count',
        lines: [{ name: 'used', values: listed(used!), against: then ? listed(then[0]!) : null }],
        limit: listed(count!),
        empty: null,
      },
    ];
  }
  /** Errors of a node's network and devices; empty where its page tells of neither. */
  private async errorsOf(usage: SeenUsage, node: string, other: SeenUsage | null): Promise<FlowLines[]> {
    const of = ({ connectionId, input: { grid, interval } }: SeenUsage) =>
      this.levels({
        connectionId,
        vitals: ['node.network.errors', 'node.device.errors'],
        node,
        grid,
        interval,
        onGrid: (counters, own, every) => flowOnGrid(counters, own, every).map((perSecond) => perSecond * 60),
      });
    const [now, then] = await Promise.all([of(usage), other ? of(other) : null]);
    const told = ['network', 'devices'].flatMap((name, i) =>
      isUnread(now[i]!) ? [] : [{ name, values: listed(now[i]!), against: then ? listed(then[i]!) : null }],
    );
    return told.length === 0
      ? []
      : [{ title: 'Errors of the node', unit: 'per min', lines: told, limit: null, empty: null }];
  }
  private async levels({
    connectionId,
    vitals,
    node,
    grid,
    interval,
    onGrid = levelOnGrid,
  }: {
    readonly connectionId: string;
    readonly vitals: readonly Vital[];
    readonly node: string;
    readonly grid: Grid;
    readonly interval: number;
    readonly onGrid?: typeof levelOnGrid;
  }): Promise<Float64Array[]> {
    const lists = vitals.map((vital) => this.vitals.select(connectionId, vital, { node }));
    const read = await this.samples.read({
      ids: lists.flat(),
      from: grid.start - Math.max(grid.step, 6 * interval),
      to: gridEnd(grid),
      resolution: this.usage.resolutionFor({ from: grid.start, to: gridEnd(grid), live: false }),
    });
    return lists.map((ids, i) =>
      onGrid(
        ids.flatMap((id) => {
          const own = read.get(id);
          return own ? [this.vitals.inUnit(connectionId, vitals[i]!, own)] : [];
        }),
        grid,
        interval,
      ),
    );
  }

  /** Of these pods, at the window's end. */
  async ofPods({ connectionId, input, volumes }: SeenUsage, pods: ReadonlySet<string>): Promise<PodFlows> {
    const { grid, interval } = input;
    const end = gridEnd(grid);
    const point = { start: end, step: grid.step, count: 1 };
    const wanted = async (vital: Vital, direction?: string) => {
      const own: { id: SeriesId; uid: string }[] = [];
      await inPieces(this.vitals.select(connectionId, vital, direction === undefined ? {} : { direction }), (id) => {
        const uid = this.vitals.podUid(connectionId, vital, id);
        if (pods.has(uid)) own.push({ id, uid });
      });
      return own;
    };
    const lists = {
      received: await wanted('pod.network.io', 'receive'),
      sent: await wanted('pod.network.io', 'transmit'),
      files: await wanted('container.filesystem.usage'),
    };
    const read = await this.samples.read({
      ids: Object.values(lists).flatMap((list) => list.map(({ id }) => id)),
      from: end - 8 * interval,
      to: end,
      resolution: this.usage.resolutionFor({ from: grid.start, to: end, live: false }),
    });
    const summed = async (
      list: typeof lists.sent,
      vital: Vital,
      onPoint: typeof flowOnGrid,
    ): Promise<Map<string, number>> => {
      const sums = new Map<string, number>();
      await inPieces(list, ({ id, uid }) => {
        const own = read.get(id);
        const value = own ? onPoint([this.vitals.inUnit(connectionId, vital, own)], point, interval)[0]! : Number.NaN;
        if (!Number.isNaN(value)) sums.set(uid, (sums.get(uid) ?? 0) + value);
      });
      return sums;
    };
    return {
      received: await summed(lists.received, 'pod.network.io', flowOnGrid),
      sent: await summed(lists.sent, 'pod.network.io', flowOnGrid),
      files: await summed(lists.files, 'container.filesystem.usage', levelOnGrid),
      volumes: volumesByPod(volumes),
    };
  }

  private async linesOf(usage: SeenUsage, found: MeasuredObject): Promise<Lines> {
    const { grid, interval } = usage.input;
    const nodes =
      found.level === 'node'
        ? new Set([found.node.name])
        : found.level === 'cluster'
          ? new Set(usage.view.nodes.map(({ node }) => node.name))
          : null;
    const pods = nodes ? null : new Set(found.pods.map(({ uid }) => uid));
    const { connectionId } = usage;
    const chosen = (vital: Vital, direction?: string) =>
      this.vitals.select(connectionId, vital, direction === undefined ? {} : { direction }).filter((id) => {
        if (nodes) return nodes.has(this.vitals.label({ connectionId, vital, id, role: 'node' }));
        if (!pods?.has(this.vitals.podUid(connectionId, vital, id))) return false;
        // of a container only what is told by container: its network is its pod's
        return (
          found.level !== 'container' ||
          vital === 'pod.network.io' ||
          this.vitals.label({ connectionId, vital, id, role: 'container' }) === found.node.name
        );
      });
    const filesVital: Vital = nodes ? 'node.filesystem.usage' : 'container.filesystem.usage';
    const network: Vital = nodes ? 'node.network.io' : 'pod.network.io';
    const wanted = {
      received: chosen(network, 'receive'),
      sent: chosen(network, 'transmit'),
      files: chosen(filesVital),
      size: nodes ? chosen('node.filesystem.capacity') : [],
    };
    const read = await this.samples.read({
      ids: Object.values(wanted).flat(),
      from: grid.start - Math.max(grid.step, 6 * interval),
      to: gridEnd(grid),
      resolution: this.usage.resolutionFor({ from: grid.start, to: gridEnd(grid), live: false }),
    });
    const of = (vital: Vital, ids: readonly SeriesId[]): Samples[] =>
      ids.flatMap((id) => {
        const own = read.get(id);
        return own ? [this.vitals.inUnit(connectionId, vital, own)] : [];
      });
    return {
      received: flowOnGrid(of(network, wanted.received), grid, interval),
      sent: flowOnGrid(of(network, wanted.sent), grid, interval),
      files: levelOnGrid(of(filesVital, wanted.files), grid, interval),
      size: nodes ? levelOnGrid(of('node.filesystem.capacity', wanted.size), grid, interval) : null,
    };
  }
}

function volumesByPod(volumes: SeenUsage['volumes']): PodFlows['volumes'] {
  const sums = new Map<string, { used: number; size: number }>();
  for (const { pod, volume } of volumes.values()) {
    const { use, limit } = volume.usage;
    if (use === null || limit === null) continue;
    const own = sums.get(pod.pod.uid) ?? { used: 0, size: 0 };
    sums.set(pod.pod.uid, { used: own.used + use, size: own.size + limit });
  }
  return sums;
}

interface Lines {
  readonly received: Float64Array;
  readonly sent: Float64Array;
  readonly files: Float64Array;
  readonly size: Float64Array | null;
}
