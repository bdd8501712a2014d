import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import {
  type ClusterEvent,
  ClusterInventory,
  type InventoryKind,
  type InventoryObject,
  type ObjectVersion,
  readEvent,
  readObject,
  type StateAt,
  stateAt,
} from '@zetopsis/core/inventory';
import { merged } from '@zetopsis/core/steps';
import { HOUR } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { neverFits } from '../../ground/platform/databaseProblem.ts';
import { inPieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Secrets } from '../../ground/platform/secrets.ts';
import { InventoryStore, type InventoryWrite } from './inventory.store.ts';

const FLUSH_EVERY = 150;
const MOST_GONE = 20_000;
const RETRY_AFTER = 2000;
const NONE = new ClusterInventory('', () => undefined);

type Watched = InventoryKind | 'event';

/** What every connected cluster is and was. */
@Injectable()
export class InventoryService implements OnApplicationShutdown {
  private readonly clusters = new Map<string, ClusterInventory>();
  private queue: InventoryWrite[] = [];
  private flushing: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | null = null;
  private readonly listeners = new Set<(connectionId: string, kind: Watched) => void>();

  constructor(
    private readonly store: InventoryStore,
    private readonly live: LiveService,
    private readonly secrets: Secrets,
    private readonly log: ServerLog,
  ) {}

  async onApplicationShutdown(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    await this.flush();
  }

  /** Reads what was known before; answers when this cluster was last heard of. */
  async load(connectionId: string): Promise<number> {
    await this.flush();
    const cluster = new ClusterInventory(connectionId, (write) => this.enqueue(write));
    await inPieces(await this.store.open(connectionId), ({ object, from, fromEarliest }) =>
      cluster.restore(object, from, fromEarliest),
    );
    this.clusters.set(connectionId, cluster);
    return this.store.newestAt(connectionId);
  }
  async forget(connectionId: string): Promise<void> {
    this.clusters.delete(connectionId);
    await this.flush();
    this.queue = this.queue.filter((write) => write.connectionId !== connectionId);
  }

  cluster(connectionId: string): ClusterInventory {
    return this.clusters.get(connectionId) ?? NONE;
  }
  count(connectionId: string, kind: InventoryKind): number {
    return this.cluster(connectionId).count(kind);
  }
  eventCount(connectionId: string): number {
    return this.cluster(connectionId).events.size;
  }
  onChange(listener: (connectionId: string, kind: Watched) => void): void {
    this.listeners.add(listener);
  }

  sinkFor(connectionId: string) {
    const touched = (kind: Watched) => {
      this.live.touch('inventory');
      for (const listener of this.listeners) listener(connectionId, kind);
    };
    const fingerprint = (text: string) => this.secrets.fingerprint(text);
    const event = (foreign: unknown) => {
      const read = readEvent(foreign);
      if (!read) return;
      this.cluster(connectionId).events.note(read);
      this.enqueue({ write: 'event', connectionId, event: read });
    };
    return {
      resync: async (kind: Watched, objects: readonly unknown[], at: number, earliest: number) => {
        if (kind === 'event') await inPieces(objects, event);
        else {
          const read: InventoryObject[] = [];
          await inPieces(objects, (object) => {
            const own = readObject(kind, object, fingerprint);
            if (own) read.push(own);
          });
          await yieldedInPieces(this.cluster(connectionId).resync({ kind, objects: read, at, earliest }));
        }
        touched(kind);
      },
      changed: (kind: Watched, foreign: unknown, at: number, earliest: number) => {
        if (kind === 'event') event(foreign);
        else {
          const object = readObject(kind, foreign, fingerprint);
          if (!object || !this.cluster(connectionId).changed(object, at, earliest)) return;
        }
        touched(kind);
      },
      deleted: (kind: Watched, foreign: unknown, at: number, earliest: number) => {
        if (kind === 'event') return; // the cluster forgets its events after an hour; we keep them
        const object = readObject(kind, foreign, fingerprint);
        if (object && this.cluster(connectionId).deleted(object.uid, at, earliest)) touched(kind);
      },
    };
  }

  async knownSince(...of: Parameters<InventoryStore['knownSince']>): ReturnType<InventoryStore['knownSince']> {
    await this.flush();
    return this.store.knownSince(...of);
  }
  /** Every version of these kinds that overlaps a time, oldest first. */
  async within(of: Parameters<InventoryStore['within']>[0]): Promise<ObjectVersion[]> {
    await this.flush();
    return this.store.within(of);
  }
  /** The same up to now: what holds now is in memory, and only what ended is read. */
  async withinUntilNow(connectionId: string, kinds: readonly InventoryKind[], from: number): Promise<ObjectVersion[]> {
    const open = this.cluster(connectionId).openVersions(new Set(kinds));
    await this.flush();
    const ended = await this.store.endedSince(connectionId, kinds, from);
    // what ended while it was read still holds in this answer
    const held = new Map<string, number>();
    await inPieces(open, ({ object, from: since }) => void held.set(object.uid, since));
    const past: ObjectVersion[] = [];
    await inPieces(ended, (version) => {
      if (held.get(version.object.uid) !== version.from) past.push(version);
    });
    return yieldedInPieces(merged(past, open, (a, b) => a.from - b.from));
  }
  /** The last state of what went, newest first, as far as it is kept and not too many. */
  async gone(
    connectionId: string,
    kinds: readonly InventoryKind[],
  ): Promise<{ object: InventoryObject; to: number }[]> {
    await this.flush();
    // pods are told apart by their replica sets
    return this.store.gone(connectionId, [...kinds, 'replica set'], MOST_GONE);
  }
  /** The last state that is kept of the newest object of a name. */
  async lastNamed(
    connectionId: string,
    named: Parameters<InventoryStore['lastNamed']>[1],
  ): Promise<ObjectVersion | undefined> {
    await this.flush();
    return this.store.lastNamed(connectionId, named);
  }
  /** Every state of one object that is kept, newest first. */
  async versionsOf(connectionId: string, uid: string, most: number): Promise<ObjectVersion[]> {
    await this.flush();
    return this.store.versionsOf(connectionId, uid, most);
  }
  /** When each pod of a time was there. */
  async podSpans(connectionId: string, from: number): Promise<{ from: number; to: number | null }[]> {
    await this.flush();
    return this.store.podSpans(connectionId, from);
  }
  /** The state of every object at a moment, by uid. */
  async at(connectionId: string, moment: number): Promise<Map<string, StateAt>> {
    await this.flush();
    const byUid = new Map<string, ObjectVersion[]>();
    await inPieces(await this.store.at(connectionId, moment), (version) => {
      const versions = byUid.get(version.object.uid);
      if (versions) versions.push(version);
      else byUid.set(version.object.uid, [version]);
    });
    const states = new Map<string, StateAt>();
    await inPieces(byUid, ([uid, versions]) => {
      const state = stateAt(versions, moment);
      if (state) states.set(uid, state);
    });
    return states;
  }
  async eventsAbout({
    connectionId,
    uids,
    from,
    to,
  }: {
    readonly connectionId: string;
    readonly uids: readonly string[];
    readonly from: number;
    readonly to: number;
  }): Promise<ClusterEvent[]> {
    await this.flush();
    return this.store.eventsAbout({ connectionId, uids, from, to, limit: 60 });
  }
  /** What a cluster had said within the hour before a moment, as it was known then. */
  async saidBefore(connectionId: string, at: number): Promise<ClusterEvent[]> {
    await this.flush();
    const events = await this.store.eventsBetween(connectionId, at - HOUR, at);
    return events.map((event) => (event.lastAt <= at ? event : { ...event, lastAt: at }));
  }
  /** What a cluster said within a stretch of time, of all its objects; the newest where it is too much. */
  async heardBetween(connectionId: string, from: number, to: number): Promise<ClusterEvent[]> {
    await this.flush();
    return this.store.eventsBetween(connectionId, from, to);
  }
  async eventsIn({
    connectionId,
    namespace,
    from,
    to,
  }: {
    readonly connectionId: string;
    readonly namespace: string;
    readonly from: number;
    readonly to: number;
  }): Promise<ClusterEvent[]> {
    await this.flush();
    return this.store.eventsIn({ connectionId, namespace, from, to, limit: 60 });
  }

  private enqueue(write: InventoryWrite): void {
    this.queue.push(write);
    this.timer ??= setTimeout(() => void this.flush(), FLUSH_EVERY);
  }

  /** Writes what is waiting. While PostgreSQL is away it waits on, in order; a restart would list everything again. */
  private flush(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.flushing = this.flushing.then(async () => {
      const writes = this.queue;
      if (writes.length === 0) return;
      this.queue = [];
      try {
        await this.store.write(writes);
      } catch (error) {
        if (neverFits(error)) return this.writeEach(writes);
        const known = writes.filter((write) => this.clusters.has(write.connectionId));
        this.queue = [...known, ...this.queue];
        this.timer ??= setTimeout(() => void this.flush(), RETRY_AFTER);
        this.log.failure('inventoryNotWritten', error, { waiting: this.queue.length });
      }
    });
    return this.flushing;
  }
  /** One of these can never be kept, whatever a cluster said there: the others are. */
  private async writeEach(writes: readonly InventoryWrite[]): Promise<void> {
    for (const [i, write] of writes.entries()) {
      try {
        await this.store.write([write]);
      } catch (error) {
        if (!neverFits(error)) {
          this.queue = [...writes.slice(i), ...this.queue];
          this.timer ??= setTimeout(() => void this.flush(), RETRY_AFTER);
          return;
        }
        this.log.failure('objectNotKept', error, { cluster: write.connectionId, write: write.write });
      }
    }
  }
}
