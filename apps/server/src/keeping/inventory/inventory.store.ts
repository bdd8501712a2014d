import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type {
  ClusterEvent,
  InventoryKind,
  InventoryObject,
  ObjectVersion,
  VersionWrite,
} from '@zetopsis/core/inventory';
import type { Client } from 'pg';
import QueryStream from 'pg-query-stream';
import { DataSource, type EntityManager } from 'typeorm';
import { Pieces } from '../../ground/platform/inPieces.ts';

/** What the inventory wants kept: a version, or an event. */
export type InventoryWrite =
  | VersionWrite
  | { readonly write: 'event'; readonly connectionId: string; readonly event: ClusterEvent };

interface VersionRow {
  from_ms: number;
  from_earliest_ms: number;
  to_ms: number | null;
  to_earliest_ms: number | null;
  object: InventoryObject;
}
const toVersion = (row: VersionRow): ObjectVersion => ({
  object: row.object,
  from: row.from_ms,
  fromEarliest: row.from_earliest_ms,
  to: row.to_ms,
  toEarliest: row.to_earliest_ms,
});
const VERSION_COLUMNS = 'from_ms, from_earliest_ms, to_ms, to_earliest_ms, object';

/** Rows that are asked for together: few enough to be read in some ten milliseconds. */
const AT_ONCE = { batchSize: 1000, highWaterMark: 1000 };
/** More than so many at once are not looked at. */
const MOST_EVENTS = 5000;

/** Versions of objects and the clusters' own events. */
@Injectable()
export class InventoryStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  /** Of a query that may answer very many rows: they come, and are read, some at a time. */
  private async versions(sql: string, parameters: unknown[]): Promise<ObjectVersion[]> {
    const runner = this.database.createQueryRunner();
    const versions: ObjectVersion[] = [];
    const pieces = new Pieces();
    try {
      const client: Client = await runner.connect();
      for await (const row of client.query(new QueryStream(sql, parameters, AT_ONCE))) {
        versions.push(toVersion(row as VersionRow)); // as the query names its columns
        if (pieces.due) await pieces.pause();
      }
    } finally {
      await runner.release();
    }
    return versions;
  }

  /** In the order given, in one transaction: a close and the open that follows it are never seen apart. */
  async write(writes: readonly InventoryWrite[]): Promise<void> {
    await this.database.transaction(async (manager) => {
      for (const write of writes) await this.writeOne(manager, write);
    });
  }
  private async writeOne(manager: EntityManager, write: InventoryWrite): Promise<void> {
    switch (write.write) {
      case 'open': {
        const { object } = write;
        await manager.query(
          `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, kind, namespace, name, object)
           values ($1, $2, $3, $4, $5, $6, $7, $8)
           on conflict (connection_id, uid, from_ms) do update set object = excluded.object, to_ms = null, to_earliest_ms = null`,
          [
            write.connectionId,
            object.uid,
            write.from,
            write.fromEarliest,
            object.kind,
            object.namespace,
            object.name,
            JSON.stringify(object),
          ],
        );
        return;
      }
      case 'close':
        await manager.query(
          `update object_version set to_ms = $4, to_earliest_ms = $5 where connection_id = $1 and uid = $2 and from_ms = $3`,
          [write.connectionId, write.uid, write.from, write.to, write.toEarliest],
        );
        return;
      case 'event': {
        const { event } = write;
        await manager.query(
          `insert into cluster_event (connection_id, uid, namespace, about_uid, about_kind, about_name, type, reason, message, count, first_ms, last_ms)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)
           on conflict (connection_id, uid) do update set count = excluded.count, last_ms = excluded.last_ms, message = excluded.message`,
          [
            write.connectionId,
            event.uid,
            event.namespace,
            event.about.uid,
            event.about.kind,
            event.about.name,
            event.type,
            event.reason,
            event.message,
            event.count,
            event.firstAt,
            event.lastAt,
          ],
        );
      }
    }
  }

  async open(connectionId: string): Promise<ObjectVersion[]> {
    return this.versions(`select ${VERSION_COLUMNS} from object_version where connection_id = $1 and to_ms is null`, [
      connectionId,
    ]);
  }

  /** Newest moment this connection's inventory is known to have been written; 0 when never. */
  async newestAt(connectionId: string): Promise<number> {
    const [row]: { at: number | null }[] = await this.database.query(
      `select max(greatest(from_ms, coalesce(to_ms, 0))) as at from object_version where connection_id = $1`,
      [connectionId],
    );
    return row?.at ?? 0;
  }

  /**
   * The oldest moment of which it is kept what this cluster had of all these kinds; null where nothing is kept of it. Each
   * kind is listed by itself; of one that the cluster never had, the oldest of the others says since when.
   */
  async knownSince(connectionId: string, kinds: readonly InventoryKind[]): Promise<number | null> {
    const [row]: { at: number | null }[] = await this.database.query(
      `select coalesce(max(at) filter (where kind = any($2)), min(at)) as at
         from (select kind, min(from_ms) as at from object_version where connection_id = $1 group by kind) as since`,
      [connectionId, kinds],
    );
    return row?.at ?? null;
  }

  /** Versions of one kind that lay at least partly in the window, oldest first; index object_version_kind. */
  async within({
    connectionId,
    kinds,
    from,
    to,
  }: {
    readonly connectionId: string;
    readonly kinds: readonly InventoryKind[];
    readonly from: number;
    readonly to: number;
  }): Promise<ObjectVersion[]> {
    return this.versions(
      `select ${VERSION_COLUMNS} from object_version
        where connection_id = $1 and kind = any($2) and from_earliest_ms <= $4 and (to_ms is null or to_ms > $3) order by from_ms`,
      [connectionId, kinds, from, to],
    );
  }

  async versionsOf(connectionId: string, uid: string, most: number): Promise<ObjectVersion[]> {
    return this.versions(
      `select ${VERSION_COLUMNS} from object_version where connection_id = $1 and uid = $2 order by from_ms desc limit $3`,
      [connectionId, uid, most],
    );
  }
  /** Last states of objects that have none now, newest first. */
  async gone(
    connectionId: string,
    kinds: readonly InventoryKind[],
    most: number,
  ): Promise<{ object: InventoryObject; to: number }[]> {
    const rows: { object: InventoryObject; to_ms: number }[] = await this.database.query(
      `select object, to_ms from (
         select distinct on (uid) uid, object, to_ms from object_version
          where connection_id = $1 and kind = any($2) order by uid, from_ms desc) as last
        where to_ms is not null order by to_ms desc limit $3`,
      [connectionId, kinds, most],
    );
    return rows.map(({ object, to_ms }) => ({ object, to: to_ms }));
  }
  /** The last state that is kept of the newest object of a name; undefined where there never was one. */
  async lastNamed(
    connectionId: string,
    {
      kind,
      namespace,
      name,
    }: { readonly kind: InventoryKind; readonly namespace: string | null; readonly name: string },
  ): Promise<ObjectVersion | undefined> {
    const [version] = await this.versions(
      `select ${VERSION_COLUMNS} from object_version
        where connection_id = $1 and kind = $2 and namespace is not distinct from $3 and name = $4
        order by from_ms desc limit 1`,
      [connectionId, kind, namespace, name],
    );
    return version;
  }
  /** Pods that were there at least partly since a moment: from their creation to their end, null while they are there. */
  async podSpans(connectionId: string, from: number): Promise<{ from: number; to: number | null }[]> {
    const rows: { from: number; to: number | null }[] = await this.database.query(
      `select least(min(from_ms), min((object->>'createdAt')::float8)) as "from",
              case when bool_or(to_ms is null) then null else max(to_ms) end as "to"
         from object_version where connection_id = $1 and kind = 'pod' and (to_ms is null or to_ms > $2) group by uid`,
      [connectionId, from],
    );
    return rows;
  }
  /** Versions that ended since a moment; index object_version_kind. */
  async endedSince(connectionId: string, kinds: readonly InventoryKind[], from: number): Promise<ObjectVersion[]> {
    return this.versions(
      `select ${VERSION_COLUMNS} from object_version
        where connection_id = $1 and kind = any($2) and to_ms > $3 order by from_ms`,
      [connectionId, kinds, from],
    );
  }
  /** Every version that may have been the state at a moment, by uid. */
  async at(connectionId: string, moment: number): Promise<ObjectVersion[]> {
    return this.versions(
      `select ${VERSION_COLUMNS} from object_version
        where connection_id = $1 and from_earliest_ms <= $2 and (to_ms is null or to_ms > $2) order by uid, from_ms`,
      [connectionId, moment],
    );
  }

  async eventsAbout({
    connectionId,
    uids,
    from,
    to,
    limit,
  }: {
    readonly connectionId: string;
    readonly uids: readonly string[];
    readonly from: number;
    readonly to: number;
    readonly limit: number;
  }): Promise<ClusterEvent[]> {
    return this.events(`about_uid = any($2)`, [connectionId, uids, from, to, limit]);
  }
  async eventsIn({
    connectionId,
    namespace,
    from,
    to,
    limit,
  }: {
    readonly connectionId: string;
    readonly namespace: string;
    readonly from: number;
    readonly to: number;
    readonly limit: number;
  }): Promise<ClusterEvent[]> {
    return this.events(`namespace = $2`, [connectionId, namespace, from, to, limit]);
  }
  /** Of the whole cluster, what was said in a stretch of time; the newest where there are too many. */
  async eventsBetween(connectionId: string, from: number, to: number): Promise<ClusterEvent[]> {
    return this.events(`$2::text is null`, [connectionId, null, from, to, MOST_EVENTS]);
  }
  private async events(where: string, parameters: unknown[]): Promise<ClusterEvent[]> {
    const rows: Record<string, never>[] = await this.database.query(
      `select uid, namespace, about_uid, about_kind, about_name, type, reason, message, count, first_ms, last_ms
         from cluster_event where connection_id = $1 and ${where} and last_ms >= $3 and first_ms <= $4 order by last_ms desc limit $5`,
      parameters,
    );
    return rows.map((row) => ({
      uid: row['uid']!,
      namespace: row['namespace']!,
      about: { uid: row['about_uid']!, kind: row['about_kind']!, name: row['about_name']! },
      type: row['type']!,
      reason: row['reason']!,
      message: row['message']!,
      count: row['count']!,
      firstAt: row['first_ms']!,
      lastAt: row['last_ms']!,
    }));
  }
}
