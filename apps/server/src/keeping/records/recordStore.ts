import type { UpTo } from '@zetopsis/core/lines';
import type { EpochMs } from '@zetopsis/core/units';
import type { DataSource, EntityManager } from 'typeorm';
import type { LeaseService } from '../store/lease.service.ts';
import { Partitions, partitionsOf } from '../store/threads/partitions.ts';
import type { PartitionedTable } from '../store/tiers.ts';
import { type ForwardRow, keepForwardRows } from './forwardRows.ts';

/** Which push something came with: the same one once more is known by its digest. */
export interface PushMark {
  readonly key: string;
  readonly digest: Buffer;
  /** Of lines that are read from a container: up to where they are taken with it, kept with them or not at all. */
  readonly position?: UpTo & { readonly place: string; readonly restarts: number };
  /** What of it is to go on to other receivers. */
  readonly forwards?: readonly ForwardRow[];
}

/** What stores of records share: transactions under the lease, partitions by time, pushes that were taken. */
export abstract class RecordStore {
  protected readonly partitions = new Partitions();
  protected constructor(
    protected readonly database: DataSource,
    private readonly lease: LeaseService,
  ) {}

  protected get epoch(): number {
    return this.lease.epoch;
  }
  /** Everything or nothing, and nothing once the lease is another's. */
  protected async inTransaction<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    try {
      return await this.database.transaction(async (manager) => {
        await this.lease.demand(manager);
        return work(manager);
      });
    } catch (error) {
      // one that was made in it is not there
      this.partitions.forget();
      throw error;
    }
  }
  protected async ensure(manager: EntityManager, table: PartitionedTable, times: readonly EpochMs[]): Promise<void> {
    await this.partitions.ensure(driver(manager), table, times);
  }
  async wasTaken({ key, digest }: PushMark): Promise<boolean> {
    const rows: unknown[] = await this.database.query(`select 1 from push_seen where key = $1 and digest = $2`, [
      key,
      digest,
    ]);
    return rows.length > 0;
  }
  /** Of each push whether it is new; they are known from now on. */
  protected async unseen(
    manager: EntityManager,
    pushes: readonly (PushMark & { readonly at: EpochMs })[],
  ): Promise<boolean[]> {
    const rows: { key: string; digest: Buffer }[] = await manager.query(
      `insert into push_seen (key, digest, at_ms) select * from unnest($1::text[], $2::bytea[], $3::bigint[])
       on conflict do nothing returning key, digest`,
      [pushes.map(({ key }) => key), pushes.map(({ digest }) => digest), pushes.map(({ at }) => at)],
    );
    const markOf = ({ key, digest }: PushMark) => `${digest.toString('hex')} ${key}`;
    const left = new Set(rows.map(markOf));
    // the first of two that came together is the new one
    return pushes.map((push) => left.delete(markOf(push)));
  }
  /** Of pushes that are new. */
  protected async keepForwards(
    manager: EntityManager,
    pushes: readonly (PushMark & { readonly at: EpochMs })[],
    fresh: readonly boolean[],
  ): Promise<void> {
    const rows = pushes.flatMap(({ forwards = [] }, i) => (fresh[i] ? forwards : []));
    if (rows.length > 0) await keepForwardRows(manager, rows, pushes[0]!.at); // one has them
  }
  /**
   * Drops parts of a journal that came wholly before a moment: that writes almost nothing. `open` is what a row still has that is kept
   * nowhere else; a part with such a row stays, whatever its age.
   */
  protected async dropDone(
    table: PartitionedTable,
    moment: EpochMs,
    open: { readonly where: string; readonly values: readonly unknown[] },
  ): Promise<void> {
    let dropped = false;
    for (const { name } of (await partitionsOf(driver(this.database), table)).filter(({ to }) => to <= moment)) {
      const [row]: { open: boolean }[] = await this.database.query(
        `select exists (select 1 from ${name} j where ${open.where}) as open`,
        [...open.values],
      );
      if (row!.open) continue; // exists always answers
      await this.database.transaction(async (manager) => {
        await manager.query(`set local lock_timeout = '3s'`);
        await manager.query(`drop table if exists ${name}`);
      });
      dropped = true;
    }
    if (dropped) this.partitions.forget();
  }
  async forgetSeen(before: EpochMs): Promise<void> {
    await this.database.query(`delete from push_seen where at_ms < $1`, [before]);
  }
}
const driver = (on: DataSource | EntityManager) =>
  ({ query: async (text: string, values?: unknown[]) => ({ rows: await on.query(text, values) }) }) as never; // the one call that partitions make
