import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { FollowDocument, FollowState, LineGap } from '@zetopsis/contract';
import type { FamilyOut } from '@zetopsis/core/exposition';
import type { ContainerObject, PodObject } from '@zetopsis/core/inventory';
import type { MaskedCounts } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import { type EpochMs, HOUR, SECOND } from '@zetopsis/core/units';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { LinesService } from '../../keeping/records/lines.service.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { Forwards } from '../forwarding/forwards.service.ts';
import { LineQuotas } from '../push/lineQuotas.service.ts';
import { OwnPatterns } from '../push/ownPatterns.ts';
import { ContainerFollow, type Followed, type FollowTools } from './containerFollow.ts';
import { FollowStore } from './follow.store.ts';

/** Each is a connection that its cluster holds open. */
export const MOST_CONTAINERS = 200;
const LOOKS_EVERY = 2 * SECOND;
/** How long a container that is gone is read on: what it wrote last. */
const READ_ON = 20 * SECOND;
const WAITING_SHOWN = 10;
const GAPS_SHOWN = 20;

interface Counted {
  lines: number;
  masked: number;
  newestAt: EpochMs | null;
}
interface Own {
  readonly follow: ContainerFollow;
  goneAt: EpochMs | null;
}

/** Reads log lines of workloads from their clusters, where somebody let it. */
@Injectable()
export class FollowingService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly follows = new Map<string, Own>();
  private readonly counts = new Map<string, Counted>();
  private readonly tooMany = new Map<string, number>();
  private forgotAt = 0;
  private readonly looking = new Repeated(() => this.look(), LOOKS_EVERY);

  constructor(
    private readonly configuration: ConfigurationService,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly lines: LinesService,
    private readonly quotas: LineQuotas,
    private readonly patterns: OwnPatterns,
    private readonly store: FollowStore,
    private readonly forwards: Forwards,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => this.families());
  }
  onApplicationBootstrap(): void {
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
    await Promise.all([...this.follows.values()].map(({ follow }) => follow.stop()));
  }

  /** How it stands with what one document names. */
  stateOf(key: string, document: FollowDocument): FollowState {
    const own = [...this.follows.values()].flatMap(({ follow }) => (isOf(document, follow.origin) ? [follow] : []));
    const waiting = own.flatMap(({ origin: { pod, container }, trouble }) =>
      trouble === null ? [] : [{ pod, container, ...trouble }],
    );
    return {
      open: own.filter(({ isOpen, trouble }) => isOpen && trouble === null).length,
      waiting: waiting.slice(0, WAITING_SHOWN),
      waitingInAll: waiting.length,
      tooMany: this.tooMany.get(key) ?? 0,
      ...(this.counts.get(placeOf(document)) ?? NOTHING),
    };
  }
  gapsOf({ cluster, namespace, workloads }: FollowDocument): Promise<LineGap[]> {
    const workload = workloads.length === 1 ? workloads[0]! : null; // it has one
    return this.store.gaps({ cluster, namespace, workload }, { from: 0, to: Number.MAX_SAFE_INTEGER }, GAPS_SHOWN);
  }
  /** What is missing of lines that were followed. */
  gapsBetween(...of: Parameters<FollowStore['gaps']>): Promise<LineGap[]> {
    return this.store.gaps(...of);
  }
  private families(): FamilyOut[] {
    const all = [...this.follows.values()].map(({ follow }) => follow);
    return [
      gauge({
        name: 'followed_containers',
        help: 'Containers whose log lines are read, and those that wait for something.',
        samples: [
          { labels: { state: 'read' }, value: all.filter(({ isOpen }) => isOpen).length },
          { labels: { state: 'waiting' }, value: all.filter(({ trouble }) => trouble !== null).length },
        ],
      }),
      counter({
        name: 'followed_lines',
        help: 'Log lines that were read from clusters.',
        samples: [...this.counts.values()].reduce((sum, { lines }) => sum + lines, 0),
      }),
    ];
  }

  /** What should be followed is, and nothing else. */
  private async look(): Promise<void> {
    try {
      const wanted = this.lease.epoch === 0 ? new Map<string, Wanted>() : this.wanted();
      const now = this.clock.now();
      for (const [place, own] of this.follows) {
        if (wanted.has(place)) {
          own.goneAt = null;
          continue;
        }
        own.goneAt ??= now;
        const isStill = this.lease.epoch > 0 && this.isAsked(own.follow.origin);
        if (isStill && own.goneAt > now - READ_ON) continue;
        this.follows.delete(place);
        await own.follow.stop();
      }
      for (const [place, { id, followed }] of wanted) {
        const own = this.follows.get(place);
        if (own) own.follow.update(followed);
        else this.follows.set(place, { follow: new ContainerFollow(followed, this.toolsFor(id)), goneAt: null });
      }
      if (now - this.forgotAt < HOUR) return;
      this.forgotAt = now;
      await this.store.forget(now);
    } catch (error) {
      this.log.failure('followsNotLookedAt', error);
    }
  }
  private isAsked(origin: Followed['origin']): boolean {
    return [...this.configuration.all('follow').values()].some((document) => isOf(document, origin));
  }
  private wanted(): Map<string, Wanted> {
    const wanted = new Map<string, Wanted>();
    const perCluster = new Map<string, number>();
    this.tooMany.clear();
    for (const [key, document] of this.configuration.all('follow')) {
      const id = this.connections.idOf(document.cluster);
      if (id === undefined) continue;
      for (const pod of this.inventory.cluster(id).list('pod')) {
        if (pod.namespace !== document.namespace) continue;
        const workload = this.inventory.cluster(id).workloadOf(pod);
        if (document.workloads.length > 0 && !document.workloads.includes(workload.name)) continue;
        for (const container of pod.containers) {
          const place = `${id} ${pod.uid} ${container.name}`;
          const many = perCluster.get(id) ?? 0;
          if (wanted.has(place)) continue;
          if (many >= MOST_CONTAINERS && !this.follows.has(place)) {
            this.tooMany.set(key, (this.tooMany.get(key) ?? 0) + 1);
            continue;
          }
          perCluster.set(id, many + 1);
          wanted.set(place, {
            id,
            followed: followedOf({ place, cluster: document.cluster, pod, workload, container }),
          });
        }
      }
    }
    return wanted;
  }
  private toolsFor(id: string): FollowTools {
    return {
      now: () => this.clock.now(),
      position: (place) => this.store.position(place),
      open: ({ namespace, pod, container }, { previous, ...of }) =>
        this.connections.writtenLines(id, { namespace: namespace ?? '', pod, container, previous }, of),
      patterns: (origin) => this.patterns.of(origin, null),
      admitted: (origin, lines) => this.admitted(origin, lines),
      take: async (mark, origin, lines) => {
        const tied = lines.length === 0 ? [] : [{ origin, lines, items: lines, attributes: null }];
        return this.lines.take({ ...mark, forwards: await this.forwards.ofLines(null, tied) }, tied);
      },
      gap: (origin, gap) =>
        this.store.keepGap(
          { cluster: origin.cluster ?? '', namespace: origin.namespace ?? '', workload: origin.workload?.name ?? '' },
          gap,
        ),
      counted: (origin, lines, masked) => this.counted(origin, lines, masked),
    };
  }
  private admitted(origin: Origin, lines: number): ReturnType<FollowTools['admitted']> {
    const quota = this.quotas.of(origin, null);
    const taken = quota === null ? lines : this.quotas.take(quota, lines);
    return { taken, giveBack: () => quota && this.quotas.giveBack(quota, taken) };
  }
  private counted(origin: Origin, lines: number, masked: MaskedCounts): void {
    const place = placeOf({ cluster: origin.cluster ?? '', namespace: origin.namespace ?? '' });
    const own = this.counts.get(place) ?? { ...NOTHING };
    this.counts.set(place, own);
    own.lines += lines;
    own.masked += Object.values(masked).reduce((sum, one) => sum + one, 0);
    own.newestAt = this.clock.now();
    this.live.touch('lines');
  }
}
const NOTHING: Counted = { lines: 0, masked: 0, newestAt: null };
interface Wanted {
  /** Of the cluster's connection. */
  readonly id: string;
  readonly followed: Followed;
}
const placeOf = ({ cluster, namespace }: Pick<FollowDocument, 'cluster' | 'namespace'>): string =>
  `${cluster} ${namespace}`;
const isOf = ({ cluster, namespace, workloads }: FollowDocument, origin: Origin): boolean =>
  origin.cluster === cluster &&
  origin.namespace === namespace &&
  (workloads.length === 0 || workloads.includes(origin.workload?.name ?? ''));

function followedOf({
  place,
  cluster,
  pod,
  workload: { kind, name },
  container,
}: {
  readonly place: string;
  readonly cluster: string;
  readonly pod: PodObject;
  readonly workload: NonNullable<Origin['workload']>;
  readonly container: ContainerObject;
}): Followed {
  const { state, restarts, lastEnd } = container;
  return {
    place,
    origin: {
      cluster,
      namespace: pod.namespace,
      workload: { kind, name },
      pod: pod.name,
      container: container.name,
      node: pod.node,
      service: null,
      host: null,
      untied: null,
    },
    restarts,
    began: state.is === 'running' || state.is === 'ended' || lastEnd !== null,
    runs: state.is === 'running',
    hasPrevious: lastEnd !== null,
  };
}
