import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { Origin } from '@zetopsis/core/origins';
import { DAY, SECOND } from '@zetopsis/core/units';
import { DataSource } from 'typeorm';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';

/** Whose lines something is, and how many of them a day that team wants at most; null: as many as come. */
export interface Quota {
  readonly team: string;
  readonly name: string;
  readonly most: number | null;
}
type Asked = (of: Pick<Origin, 'cluster' | 'namespace'>, team: string | null) => Quota | null;
interface Counted {
  lines: number;
  dropped: number;
  isKept: boolean;
}

/** Counts the log lines of each team by day (UTC), and holds back what is beyond a team's own limit. */
@Injectable()
export class LineQuotas implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly askers: Asked[] = [];
  private counts = new Map<string, Counted>();
  private day = 0;
  private readonly keeping = new Repeated(() => this.keep(), 15 * SECOND);

  constructor(
    @InjectDataSource() private readonly database: DataSource,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}
  async onApplicationBootstrap(): Promise<void> {
    this.day = this.today();
    const rows: { team: string; lines: number; dropped: number }[] = await this.database.query(
      `select team, lines, dropped from line_day where day = $1`,
      [this.day],
    );
    for (const { team, lines, dropped } of rows) this.counts.set(team, { lines, dropped, isKept: true });
    this.keeping.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.keeping.stop();
    await this.keep();
  }

  /** Who knows whose lines something is. */
  onAsked(ask: Asked): void {
    this.askers.push(ask);
  }
  of(origin: Pick<Origin, 'cluster' | 'namespace'>, team: string | null): Quota | null {
    for (const ask of this.askers) {
      const quota = ask(origin, team);
      if (quota) return quota;
    }
    return null;
  }
  /** How many of so many lines are taken; they count from now on. */
  take({ team, most }: Quota, lines: number): number {
    const own = this.countOf(team);
    const taken = most === null ? lines : Math.max(0, Math.min(lines, most - own.lines));
    own.lines += taken;
    own.dropped += lines - taken;
    own.isKept = false;
    return taken;
  }
  /** They were taken before, and count once. */
  giveBack({ team }: Quota, lines: number): void {
    const own = this.countOf(team);
    own.lines = Math.max(0, own.lines - lines);
    own.isKept = false;
  }
  droppedToday(team: string): number {
    return this.countOf(team).dropped;
  }

  private today(): number {
    return Math.floor(this.clock.now() / DAY);
  }
  private countOf(team: string): Counted {
    if (this.today() !== this.day) {
      this.day = this.today();
      this.counts = new Map();
    }
    const own = this.counts.get(team) ?? { lines: 0, dropped: 0, isKept: true };
    this.counts.set(team, own);
    return own;
  }
  private async keep(): Promise<void> {
    const fresh = [...this.counts].filter(([, { isKept }]) => !isKept);
    if (fresh.length === 0) return;
    for (const [, own] of fresh) own.isKept = true;
    try {
      await this.database.query(
        `insert into line_day (team, day, lines, dropped) select team, $1, lines, dropped
           from unnest($2::text[], $3::bigint[], $4::bigint[]) as given (team, lines, dropped)
         on conflict (team, day) do update set lines = excluded.lines, dropped = excluded.dropped`,
        [
          this.day,
          fresh.map(([team]) => team),
          fresh.map(([, { lines }]) => lines),
          fresh.map(([, { dropped }]) => dropped),
        ],
      );
      await this.database.query(`delete from line_day where day < $1`, [this.day - 40]);
    } catch (error) {
      for (const [, own] of fresh) own.isKept = false;
      this.log.failure('lineDaysNotKept', error);
    }
  }
}
