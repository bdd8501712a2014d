import { statfs } from 'node:fs/promises';
import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import { type EpochMs, HOUR, MINUTE } from '@zetopsis/core/units';
import { fullIn } from '@zetopsis/core/usage';
import { DataSource } from 'typeorm';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from './lease.service.ts';
import { SamplesService } from './samples.service.ts';
import { StoreLimits } from './storeLimits.ts';

const LOOKED_BACK = 240;
const GIBIBYTE = 1024 ** 3;

export interface Space {
  readonly usedBytes: number;
  /** Room in all; null when it is neither set nor to be seen from here. */
  readonly roomBytes: number | null;
  readonly room: 'set' | 'disk' | null;
  readonly fullAt: EpochMs | null;
  /** Whole hours of sizes that the forecast stands on. */
  readonly hoursKnown: number;
}

/** How much the database takes, and when its room is full at the pace of the last ten days. */
@Injectable()
export class SpaceService implements OnApplicationBootstrap, OnApplicationShutdown {
  private known: Space | null = null;
  private readonly looking = new Repeated(() => this.look(), MINUTE);

  constructor(
    @InjectDataSource() private readonly database: DataSource,
    private readonly samples: SamplesService,
    private readonly limits: StoreLimits,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}
  onApplicationBootstrap(): void {
    this.looking.begin(0);
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
  }
  get space(): Space | null {
    return this.known;
  }

  private async look(): Promise<void> {
    try {
      const [row]: { bytes: number }[] = await this.database.query(
        `select pg_database_size(current_database())::bigint as bytes`,
      );
      const usedBytes = row!.bytes; // a function always answers
      const hour = Math.floor(this.clock.now() / HOUR) * HOUR;
      if (this.lease.epoch !== 0)
        await this.database.query(
          `insert into store_size (at_ms, bytes, samples) values ($1, $2, $3)
           on conflict (at_ms) do update set bytes = excluded.bytes, samples = excluded.samples`,
          [hour, usedBytes, this.samples.samplesTaken],
        );
      const sizes: { at_ms: number; bytes: number }[] = await this.database.query(
        `select at_ms, bytes from store_size where at_ms > $1 order by at_ms`,
        [hour - LOOKED_BACK * HOUR],
      );
      const values = new Float64Array(sizes.length === 0 ? 0 : (hour - sizes[0]!.at_ms) / HOUR + 1).fill(Number.NaN);
      for (const { at_ms, bytes } of sizes) values[(at_ms - sizes[0]!.at_ms) / HOUR] = bytes;
      const disk = this.limits.roomGigabytes === null ? await this.diskRoom(usedBytes) : null;
      const roomBytes = this.limits.roomGigabytes === null ? disk : this.limits.roomGigabytes * GIBIBYTE;
      const left = roomBytes === null ? null : fullIn(values, HOUR, roomBytes);
      this.known = {
        usedBytes,
        roomBytes,
        room: this.limits.roomGigabytes !== null ? 'set' : disk === null ? null : 'disk',
        fullAt: left === null ? null : this.clock.now() + left,
        hoursKnown: sizes.length,
      };
    } catch (error) {
      // PostgreSQL is away, which is told elsewhere
      this.log.note('spaceNotSeen', error instanceof Error ? error.message : String(error));
    }
  }
  /** Only where PostgreSQL runs on this machine and says where. */
  private async diskRoom(usedBytes: number): Promise<number | null> {
    try {
      const [row]: { folder: string | null }[] = await this.database.query(
        `select current_setting('data_directory', true) as folder where inet_server_addr() << '127.0.0.0/8'`,
      );
      if (!row?.folder) return null;
      const { bavail, bsize } = await statfs(row.folder);
      return usedBytes + bavail * bsize;
    } catch {
      return null;
    }
  }
}
