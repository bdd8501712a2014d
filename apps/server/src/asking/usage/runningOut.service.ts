import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { SeenUsage } from '@zetopsis/answers/usage';
import type { RunningOutLine } from '@zetopsis/contract';
import { pathOfObject, writePath } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { type History, runningOutByScales, seeded } from '@zetopsis/core/trend';
import { HOUR, MINUTE, type Resource, type SeriesId } from '@zetopsis/core/units';
import { gridFor, groupBy, type UsageNode } from '@zetopsis/core/usage';
import type { Vital } from '@zetopsis/core/vitals';
import { databaseProblem } from '../../ground/platform/databaseProblem.ts';
import { inPieces, Pieces, turn } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { Histories, LONG, trimmed } from './histories.ts';
import { RunningOutLines } from './runningOutLines.ts';
import { UsageService } from './usage.service.ts';

const LOOK_EVERY = 15_000;
const HOLDS = 5 * MINUTE;
const OPENS_WITH = 3 * HOUR;
/** What is this far from its limit now is not looked at: it would be a long way. */
const NEAR: Record<'pod' | 'node', number> = { pod: 0.5, node: 0.5 };
const MOST = { pods: 120, nodes: 60, volumes: 200 } as const;
interface Candidate {
  readonly path: readonly string[];
  readonly what: string;
  readonly unit: RunningOutLine['unit'];
  readonly limit: number;
  readonly limitIs: RunningOutLine['limitIs'];
  /** The finest first. */
  readonly scales: readonly History[];
}

/** When what has a limit reaches it; looked at in the background, every few minutes. */
@Injectable()
export class RunningOutService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly looking = new Repeated(() => this.look(), LOOK_EVERY);

  constructor(
    private readonly told: RunningOutLines,
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly histories: Histories,
    private readonly vitals: VitalsService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
  }

  /** Null until the cluster was looked at for the first time. */
  linesOf(connectionId: string): readonly RunningOutLine[] | null {
    return this.told.linesOf(connectionId);
  }

  private async look(): Promise<void> {
    const ids = this.connections.ids();
    this.told.forgetAllBut(ids);
    for (const id of ids) {
      const now = this.clock.now();
      if (now - this.told.keptAt(id) < HOLDS) continue;
      try {
        const lines = await this.lookAt(id, now);
        // while much is too young to say, it is looked at again soon
        const young = lines.filter(({ outcome }) => outcome.is === 'unknown').length * 4 >= lines.length;
        this.told.keep(id, young ? now - HOLDS + 4 * LOOK_EVERY : now, lines);
      } catch (error) {
        this.log.failure('runningOutNotTold', error, { connection: id, why: databaseProblem(error) });
      }
    }
  }

  private async lookAt(id: string, now: number): Promise<RunningOutLine[]> {
    const usage = await this.usage.seen(Reach.ofZetopsis(), id, this.usage.window(now - OPENS_WITH, undefined));
    const all = [
      ...(await this.pods(usage, now)),
      ...(await this.nodes(usage, now)),
      ...(await this.volumes(usage, now)),
      ...(await this.quotas(usage, now)),
      ...(await this.slots(usage, now)),
    ];
    const lines: RunningOutLine[] = [];
    for (const [i, { scales, path, ...candidate }] of all.entries()) {
      const use = scales[0]?.values.findLast((value) => !Number.isNaN(value)) ?? null;
      const outcome = runningOutByScales(scales, candidate.limit, seeded(i + 1));
      lines.push({ ...candidate, path: [...path], use, outcome, team: null });
      await turn(); // each takes some milliseconds
    }
    return lines;
  }

  private byLabel(connectionId: string, vital: Vital, role: 'node' | 'claim'): Map<string, SeriesId[]> {
    const groups = new Map<string, SeriesId[]>();
    for (const id of this.vitals.select(connectionId, vital)) {
      const name = this.vitals.label({ connectionId, vital, id, role });
      const own = groups.get(name);
      if (own) own.push(id);
      else groups.set(name, [id]);
    }
    return groups;
  }

  /** Pods whose memory comes near its limit: of each workload the nearest. */
  private async pods({ name, connectionId, tree }: SeenUsage, now: number): Promise<Candidate[]> {
    const near: { path: string[]; node: UsageNode }[] = [];
    const pieces = new Pieces();
    for (const namespace of tree.children)
      for (const workload of namespace.children) {
        // figures are worked out when they are first looked at
        await inPieces(workload.children, (pod) => void pod.usage, pieces);
        const [nearest] = workload.children
          .filter(({ present, usage }) => present && (usage.memory.tightness ?? 0) >= NEAR.pod)
          .sort(
            (a, b) =>
              (b.usage.memory.use ?? 0) / (b.usage.memory.limit ?? 1) -
              (a.usage.memory.use ?? 0) / (a.usage.memory.limit ?? 1),
          );
        if (nearest) near.push({ path: [name, namespace.key, workload.key, nearest.key], node: nearest });
      }
    near.sort((a, b) => (b.node.usage.memory.tightness ?? 0) - (a.node.usage.memory.tightness ?? 0));
    const vital = 'container.memory.working_set' as const;
    const chosen = near.slice(0, MOST.pods);
    const byUid = new Map(chosen.map((one) => [one.node.uid ?? '', { one, ids: [] as SeriesId[] }]));
    await inPieces(this.vitals.select(connectionId, vital), (id) => {
      const own = byUid.get(this.vitals.podUid(connectionId, vital, id));
      const container = own && this.vitals.label({ connectionId, vital, id, role: 'container' });
      if (own?.one.node.children.some(({ key }) => key === container)) own.ids.push(id);
    });
    const lists = new Map([...byUid.values()].map(({ one, ids }) => [one, { vital, ids }] as const));
    const read = await this.histories.byScales({ id: connectionId, lists, now, together: 'sum' });
    return [...read].flatMap(([{ path, node }, scales]) => {
      const { limit } = node.usage.memory;
      return limit === null ? [] : [{ path, what: 'memory', unit: 'bytes', limit, limitIs: 'limit', scales }];
    });
  }

  private async nodes(usage: SeenUsage, now: number): Promise<Candidate[]> {
    const { name, connectionId } = usage;
    const out: Candidate[] = [];
    const nodes = usage.details.nodeUsages(usage).filter(({ present }) => present);
    for (const resource of ['cpu', 'memory'] as const) {
      const vital = resource === 'cpu' ? ('node.cpu.time' as const) : ('node.memory.working_set' as const);
      const series = this.byLabel(connectionId, vital, 'node');
      const near = nodes
        .filter(({ usage: own }) => (own[resource].tightness ?? 0) >= NEAR.node)
        .sort((a, b) => (b.usage[resource].tightness ?? 0) - (a.usage[resource].tightness ?? 0))
        .slice(0, MOST.nodes);
      const present = new Set(nodes.map((node) => node.name));
      const lists = new Map<string, { vital: Vital; ids: readonly SeriesId[] }>(
        near.map((node) => [node.name, { vital, ids: series.get(node.name) ?? [] }]),
      );
      lists.set('', { vital, ids: [...series].flatMap(([node, ids]) => (present.has(node) ? ids : [])) });
      const read = await this.histories.longOrShort({ id: connectionId, lists, now, together: 'sum' });
      for (const [node, history] of read) {
        const limit =
          node === ''
            ? usage.tree.usage[resource].limit
            : (nodes.find((own) => own.name === node)?.usage[resource].limit ?? null);
        if (limit === null) continue;
        const path = writePath(node === '' ? { is: 'cluster', cluster: name } : { is: 'node', cluster: name, node });
        out.push({
          path,
          what: WORDS[resource],
          unit: resource === 'cpu' ? 'cores' : 'bytes',
          limit,
          limitIs: 'allocatable',
          scales: [history],
        });
      }
    }
    return out;
  }

  private async volumes({ name, connectionId, volumes, view }: SeenUsage, now: number): Promise<Candidate[]> {
    const vital = 'volume.usage' as const;
    const namespaces = new Map(view.pods.map(({ pod, workload }) => [pod.uid, workload.namespace]));
    const byClaim = this.byLabel(connectionId, vital, 'claim');
    const lists = new Map(
      [...volumes.values()].slice(0, MOST.volumes).map((volume) => {
        const ids = (byClaim.get(volume.claim) ?? []).filter((id) => {
          const space = namespaces.get(this.vitals.podUid(connectionId, vital, id));
          return (space ?? this.vitals.label({ connectionId, vital, id, role: 'namespace' })) === volume.namespace;
        });
        return [volume, { vital, ids }] as const;
      }),
    );
    const read = await this.histories.byScales({ id: connectionId, lists, now, together: 'newest' });
    return [...read].flatMap(([{ namespace, claim, volume }, scales]) => {
      const { limit } = volume.usage;
      const path = writePath(pathOfObject({ cluster: name, kind: 'volume claim', namespace, name: claim }));
      return limit === null ? [] : [{ path, what: 'volume', unit: 'bytes', limit, limitIs: 'size', scales }];
    });
  }

  /** What the cluster itself counts as used, as the quota's versions tell it. */
  private async quotas({ name, connectionId, view }: SeenUsage, now: number): Promise<Candidate[]> {
    const versions = await this.inventory.withinUntilNow(connectionId, ['quota'], now - LONG);
    const grid = gridFor(now - LONG, now, HOUR);
    const byUid = groupBy(versions, ({ object }) => object.uid);
    return view.inventory.list('quota').flatMap((quota) => {
      const own = byUid.get(quota.uid) ?? [];
      return quota.rows.flatMap(({ resource, hard, used }): Candidate[] => {
        if (used === null || hard <= 0) return [];
        const values = new Float64Array(grid.count).fill(Number.NaN);
        for (const { object, from, to } of own) {
          const row = object.kind === 'quota' ? object.rows.find((one) => one.resource === resource) : undefined;
          const first = Math.max(0, Math.ceil((from - grid.start) / grid.step));
          const end = to === null ? grid.count : Math.min(grid.count, Math.ceil((to - grid.start) / grid.step));
          if (first < end) values.fill(row?.used ?? Number.NaN, first, end);
        }
        const unit = /memory|storage/.test(resource) ? 'bytes' : /cpu/.test(resource) ? 'cores' : 'count';
        const path = writePath(
          pathOfObject({ cluster: name, kind: quota.kind, namespace: quota.namespace, name: quota.name }),
        );
        return [
          {
            path,
            what: `quota on ${resource}`,
            unit,
            limit: hard,
            limitIs: 'quota',
            scales: [trimmed({ start: grid.start, step: grid.step, values })],
          },
        ];
      });
    });
  }

  private async slots({ name, connectionId, view }: SeenUsage, now: number): Promise<Candidate[]> {
    const room = view.inventory
      .list('node')
      .filter(({ acceptsPods }) => acceptsPods)
      .reduce((sum, { allocatable }) => sum + (allocatable.pods ?? 0), 0);
    if (room === 0) return [];
    const grid = gridFor(now - LONG, now, HOUR);
    const spans = await this.inventory.podSpans(connectionId, grid.start);
    const values = new Float64Array(grid.count).fill(Number.NaN);
    const first = spans.reduce((least, { from }) => Math.min(least, from), now);
    // each pod is one more from its beginning on, and one less from its end on
    const change = new Float64Array(grid.count + 1);
    const index = (at: number) => Math.min(grid.count, Math.max(0, Math.ceil((at - grid.start) / grid.step)));
    for (const { from, to } of spans) {
      change[index(from)]! += 1;
      if (to !== null) change[index(to)]! -= 1;
    }
    let count = 0;
    for (let i = 0; i < grid.count; i++) {
      count += change[i]!;
      if (grid.start + i * grid.step >= first) values[i] = count;
    }
    return [
      {
        path: writePath({ is: 'cluster', cluster: name }),
        what: 'pod slots',
        unit: 'count',
        limit: room,
        limitIs: 'allocatable',
        scales: [trimmed({ start: grid.start, step: grid.step, values })],
      },
    ];
  }
}
const WORDS: Record<Resource, string> = { cpu: 'CPU', memory: 'memory' };

/** From the first value on. */
