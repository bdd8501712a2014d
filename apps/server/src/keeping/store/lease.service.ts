import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { Injectable, type OnApplicationShutdown, type OnModuleInit } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { SECOND } from '@zetopsis/core/units';
import { DataSource, type EntityManager } from 'typeorm';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Settings } from '../../ground/platform/settings.ts';

const LASTS = 15 * SECOND;
const RENEWED_EVERY = 3 * SECOND;

/**
 * Who may write samples, judge rules and send messages. Whoever takes the lease gets a new epoch, and every write checks that its epoch is the newest:
 * a process that was paused and wakes up writes nothing. The same installation takes it over from itself at once,
 * another one when it has run out.
 */
@Injectable()
export class LeaseService implements OnModuleInit, OnApplicationShutdown {
  private readonly holder: string;
  private held = 0;
  private other: string | null = null;
  private readonly renewing = new Repeated(() => this.renew(), RENEWED_EVERY);
  private readonly listeners = new Set<(held: boolean) => void>();

  constructor(
    @InjectDataSource() private readonly database: DataSource,
    private readonly log: ServerLog,
    settings: Settings,
  ) {
    const file = join(settings.config.dataDir, 'installation');
    if (!existsSync(file)) writeFileSync(file, randomUUID(), { mode: 0o600 });
    this.holder = `${hostname()} ${readFileSync(file, 'utf8').trim()}`;
  }
  async onModuleInit(): Promise<void> {
    await this.take();
    this.renewing.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.renewing.stop();
    if (this.held === 0) return;
    await this.database
      .query(`update lease set until_ms = 0 where name = 'store' and epoch = $1`, [this.held])
      .catch(() => undefined);
  }

  /** 0 while another process has it. */
  get epoch(): number {
    return this.held;
  }
  /** Who writes instead; null when this process does. */
  get heldBy(): string | null {
    return this.held === 0 ? (this.other ?? 'its name is not known yet') : null;
  }
  onChange(listener: (held: boolean) => void): void {
    this.listeners.add(listener);
  }
  /** Within the caller's transaction: nobody takes over before its end. A refusal where somebody has. */
  async demand(manager: EntityManager): Promise<void> {
    const rows: unknown[] = await manager.query(
      `select 1 from lease where name = 'store' and epoch = $1 for key share`,
      [this.held],
    );
    if (rows.length > 0) return;
    this.lost();
    throw new Refusal('conflict', 'Another process of Zetopsis has taken over: ask that one.');
  }
  /** Whether nobody has taken over yet. */
  async isStillHeld(): Promise<boolean> {
    const rows: unknown[] = await this.database.query(`select 1 from lease where name = 'store' and epoch = $1`, [
      this.held,
    ]);
    if (rows.length === 0) this.lost();
    return rows.length > 0;
  }
  /** A write was refused because of its epoch. */
  lost(): void {
    if (this.held === 0) return;
    this.held = 0;
    this.log.warning('leaseLost', 'another process of Zetopsis has taken over; this one writes nothing', {});
    for (const listener of this.listeners) listener(false);
  }

  /** The database's own clock counts: two machines may disagree about the time. */
  private async take(): Promise<void> {
    const rows: { epoch: number }[] = await this.database.query(
      `insert into lease (name, holder, epoch, until_ms)
         values ('store', $1, 1, extract(epoch from clock_timestamp()) * 1000 + $2)
       on conflict (name) do update set holder = excluded.holder, epoch = lease.epoch + 1, until_ms = excluded.until_ms
         where lease.holder = excluded.holder or lease.until_ms < extract(epoch from clock_timestamp()) * 1000
       returning epoch`,
      [this.holder, LASTS],
    );
    if (rows[0]) {
      this.held = rows[0].epoch;
      this.other = null;
      for (const listener of this.listeners) listener(true);
      return;
    }
    const [row]: { holder: string }[] = await this.database.query(`select holder from lease where name = 'store'`);
    this.other = row?.holder.split(' ')[0] ?? null;
  }
  private async renew(): Promise<void> {
    try {
      if (this.held === 0) return await this.take();
      const [, changed]: [unknown[], number] = await this.database.query(
        `update lease set until_ms = extract(epoch from clock_timestamp()) * 1000 + $2
          where name = 'store' and epoch = $1`,
        [this.held, LASTS],
      );
      if (changed === 0) this.lost();
    } catch {
      // PostgreSQL is away: nothing can be written, by nobody; the epoch decides when it is back
    }
  }
}
