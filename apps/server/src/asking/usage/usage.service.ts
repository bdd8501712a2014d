import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import {
  type ClusterUsage,
  narrowUsage,
  type SeenUsage,
  UsageDetails,
  type Window,
  wholly,
} from '@zetopsis/answers/usage';
import { type ObjectPath, placeOf, readTrait, type ScopeQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { type DurationMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { demand } from '../../ground/guard/demand.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { SharedWork } from '../../ground/platform/question.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { type Resolution } from '../../keeping/store/tiers.ts';
import { KeptWindows, SLOW } from './keptWindows.ts';
import { UsageReading } from './usageReading.service.ts';

const CACHE_LIFE = 3000;
/** What takes long holds so many times as long; longer only while nothing of it is read anew, and up to an age. */
const HOLDS = { atLeast: 2, atMost: 5, longest: 15_000 };
/** Windows of large clusters that somebody looked at within this time are kept fresh. */
const LOOKED_AT = 3 * MINUTE;
/** The window that the drill screens open with: of a large cluster it is always there. */
const OPENS_WITH = 3 * HOUR;
const CACHE_SIZE = 24;
const LOOK_EVERY = 2000;

/** Computes usage of whole clusters over windows, from stored series. */
@Injectable()
export class UsageService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly kept: KeptWindows<ClusterUsage>;
  /** What is being found wrong, for all who wait for it. */
  private readonly finding = new WeakMap<UsageDetails, SharedWork<void>>();
  private readonly freshening = new Repeated(() => this.keepFresh(), LOOK_EVERY);

  constructor(
    private readonly reading: UsageReading,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly clock: Clock,
  ) {
    this.kept = new KeptWindows(clock, CACHE_SIZE);
  }

  onApplicationBootstrap(): void {
    this.freshening.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.freshening.stop();
  }
  /** Large clusters one after the other, so that nobody waits for them; small ones are worked out when they are asked for. */
  private keepFresh(): void {
    const now = this.clock.now();
    for (const kept of this.kept.values()) {
      const { connectionId, done, length, live } = kept;
      if (!live || !done || done.took < SLOW) continue;
      if ([...this.kept.values()].some(({ working }) => working !== null)) return;
      const looked = now - kept.askedAt < LOOKED_AT;
      if (!looked && length !== OPENS_WITH) continue;
      // what nobody looks at may take a twentieth of the time
      const due = done.at + (looked ? this.holdsFor(connectionId, done.took) : 20 * done.took);
      if (now >= due && this.connections.access(connectionId))
        this.kept.begin(kept, () => this.work(connectionId, this.window(now - length, undefined))).goOn();
    }
  }

  /** A window without an end reaches to now, as far as all that was due by then has been read, and moves with it. */
  window(from: number, to: number | undefined): Window {
    const now = this.clock.now();
    if (to !== undefined && to <= now) return { from, to, live: false };
    const settled = this.endpoints.settledUntil(now);
    return { from: Math.min(from, settled - 1000), to: settled, live: true };
  }
  /** The window of the same length that lies `shift` earlier. */
  against({ from, to }: Window, shift: number | undefined): Window | null {
    if (shift === undefined) return null;
    if (from - shift < 0) throw new Refusal('invalid', 'The window compared with lies before all time.');
    if (to - shift > this.clock.now())
      throw new Refusal('invalid', 'The window compared with reaches into the future. Choose an earlier one.');
    return { from: from - shift, to: to - shift, live: false };
  }

  /** Clusters somebody may see anything of, in the scope. */
  idsIn(reach: Reach, { in: path, clusters }: ScopeQuery): string[] {
    const wanted = clusters === undefined ? null : readTrait(clusters);
    return this.connections.ids().filter((id) => {
      const name = this.connections.nameOf(id);
      if (!reach.touches(name)) return false;
      if (path.is === 'host') return false;
      if (path.is !== 'everything') return name === path.cluster;
      return wanted === null || this.connections.traitsOf(id)[wanted.trait] === wanted.is;
    });
  }

  async seen(reach: Reach, connectionId: string, window: Window): Promise<SeenUsage> {
    const usage = await this.cluster(connectionId, window);
    const seen = this.narrowed(reach, usage);
    // what is wrong is asked for by every screen: found here, in pieces
    await this.findWrong(seen, window.to);
    return seen;
  }
  /** The cluster that a path stands in; whoever asks may see what it names. */
  ofPath(reach: Reach, path: ObjectPath, window: Window): Promise<SeenUsage> {
    const { cluster, namespace } = placeOf(path);
    const [id] = cluster === null ? [] : this.idsIn(reach, { in: path });
    if (cluster === null || id === undefined)
      throw new Refusal('notFound', 'This cluster is not connected. Choose another one in the scope line.');
    if (namespace !== null) demand({ reach, level: 'read', cluster, namespace });
    return this.seen(reach, id, window);
  }
  private async findWrong(seen: SeenUsage, at: number): Promise<void> {
    const { details } = seen;
    if (details.holds(at)) return;
    let work = this.finding.get(details);
    if (work === undefined || work.abandoned) {
      const begun = new SharedWork('what is wrong in a cluster', async () => {
        const began = performance.now();
        try {
          await yieldedInPieces(details.find(seen, at, () => performance.now() - began));
        } finally {
          if (this.finding.get(details) === begun) this.finding.delete(details);
        }
      });
      work = begun;
      this.finding.set(details, work);
    }
    await work.wait();
  }
  private narrowed(reach: Reach, usage: ClusterUsage): SeenUsage {
    return reach.whole(usage.name) ? wholly(usage) : narrowUsage(usage, (space) => reach.reads(usage.name, space));
  }

  /** The same window asked for by several parts of a screen at once is computed once. */
  private cluster(connectionId: string, window: Window): Promise<ClusterUsage> {
    return this.kept.answer({
      connectionId,
      window,
      holds: ({ took }, age) => age < this.holdsFor(connectionId, took),
      work: () => this.work(connectionId, window),
    });
  }
  private holdsFor(connectionId: string, took: DurationMs): DurationMs {
    const readEvery = this.connections.intervalOf(connectionId);
    return Math.max(CACHE_LIFE, HOLDS.atLeast * took, Math.min(HOLDS.longest, HOLDS.atMost * took, readEvery));
  }
  private async work(connectionId: string, window: Window): Promise<ClusterUsage> {
    const began = performance.now();
    const usage = await this.reading.read(connectionId, window);
    // of a large cluster what the screens show first is worked out before anybody asks
    if (performance.now() - began >= SLOW) {
      await yieldedInPieces(usage.details.prepare(wholly(usage)));
      await this.findWrong(wholly(usage), usage.window.to);
    }
    return usage;
  }

  /** The last one's time, ms. */
  get lastTook(): DurationMs {
    return this.reading.lastTook;
  }
  resolutionFor(window: Window): Resolution {
    return this.reading.resolutionFor(window);
  }
}
