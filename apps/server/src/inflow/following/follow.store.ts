import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { LineGap, LineGapReason } from '@zetopsis/contract';
import type { UpTo } from '@zetopsis/core/lines';
import { DAY, type EpochMs } from '@zetopsis/core/units';
import { DataSource } from 'typeorm';

/** Where a container's lines were taken up to, and how often it had restarted then. */
export interface Position extends UpTo {
  readonly restarts: number;
}
export interface GapPlace {
  readonly cluster: string;
  readonly namespace: string;
  readonly workload: string;
}
const FORGOTTEN = 14 * DAY;

/** SQL of what is followed. */
@Injectable()
export class FollowStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async position(place: string): Promise<Position | null> {
    const [row]: Position[] = await this.database.query(
      `select stamp, same, head, restarts from followed_container where place = $1`,
      [place],
    );
    return row ?? null;
  }
  async keepGap({ cluster, namespace, workload }: GapPlace, { pod, container, from, to, why }: LineGap): Promise<void> {
    await this.database.query(
      `insert into line_gap (cluster, namespace, workload, pod, container, from_ms, to_ms, why)
       values ($1, $2, $3, $4, $5, $6, $7, $8) on conflict do nothing`,
      [cluster, namespace, workload, pod, container, Math.floor(from), Math.ceil(to), why],
    );
  }
  /** The newest ones of a namespace, of one workload or all, that touch a stretch of time. */
  async gaps(
    { cluster, namespace, workload }: Omit<GapPlace, 'workload'> & { readonly workload: string | null },
    { from, to }: { readonly from: EpochMs; readonly to: EpochMs },
    most: number,
  ): Promise<LineGap[]> {
    const rows: { pod: string; container: string; from_ms: number; to_ms: number; why: LineGapReason }[] =
      await this.database.query(
        `select pod, container, from_ms, to_ms, why from line_gap
          where cluster = $1 and namespace = $2 and ($3::text is null or workload = $3) and to_ms >= $4 and from_ms < $5
          order by from_ms desc limit $6`,
        [cluster, namespace, workload, Math.floor(from), Math.ceil(to), most],
      );
    return rows.map(({ pod, container, from_ms, to_ms, why }) => ({ pod, container, from: from_ms, to: to_ms, why }));
  }
  async forget(now: EpochMs): Promise<void> {
    await this.database.query(`delete from followed_container where at_ms < $1`, [now - FORGOTTEN]);
    await this.database.query(`delete from line_gap where to_ms < $1`, [now - FORGOTTEN]);
  }
}
