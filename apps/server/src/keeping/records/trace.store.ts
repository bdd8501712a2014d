import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { Origin } from '@zetopsis/core/origins';
import type { SamplingChoice } from '@zetopsis/core/spans';
import type { EpochMs } from '@zetopsis/core/units';
import { DataSource } from 'typeorm';
import { LeaseService } from '../store/lease.service.ts';
import { type PushMark, RecordStore } from './recordStore.ts';

/** Spans that came together, as the journal has them. */
export interface JournalledSpans {
  readonly id: number;
  readonly at: EpochMs;
  readonly choice: SamplingChoice;
  readonly origins: readonly Origin[];
  /** Compressed. */
  readonly payload: Buffer;
}
export interface TraceBlock {
  readonly id: number;
  /** Of the first beginning and the last end of its traces. */
  readonly from: EpochMs;
  readonly to: EpochMs;
  /** The last number of the journal that anything of it came with. */
  readonly lastId: number;
  readonly traces: number;
  readonly spans: number;
  readonly streams: readonly number[];
  readonly origins: readonly Origin[];
  /** A filter of its trace ids. */
  readonly ids: Buffer;
  readonly summaries: Buffer;
  readonly body: Buffer;
}
export type NewTraceBlock = Omit<TraceBlock, 'id'>;
interface BlockRow {
  readonly id: number;
  readonly from_ms: number;
  readonly to_ms: number;
  readonly last_id: number;
  readonly traces: number;
  readonly spans: number;
  readonly streams: number[];
  readonly origins: Origin[];
  readonly ids: Buffer;
  readonly summaries: Buffer;
  readonly body: Buffer;
}
const BLOCK_COLUMNS = 'id, from_ms, to_ms, last_id, traces, spans, streams, origins, ids, summaries, body';
const WATERMARK = 'spans';

/** SQL of spans. */
@Injectable()
export class TraceStore extends RecordStore {
  constructor(@InjectDataSource() database: DataSource, lease: LeaseService) {
    super(database, lease);
  }

  /** Accepted means: this has returned. Answers of each push whether it is new; nothing of one that was taken before is written. */
  async append(
    pushes: readonly (PushMark & { readonly at: EpochMs; readonly row: JournalledSpans })[],
  ): Promise<boolean[]> {
    return this.inTransaction(async (manager) => {
      const fresh = await this.unseen(manager, pushes);
      const rows = pushes.flatMap(({ row }, i) => (fresh[i] ? [row] : []));
      await this.ensure(
        manager,
        'span_journal',
        rows.map(({ at }) => at),
      );
      if (rows.length > 0)
        await manager.query(
          `insert into span_journal (id, at_ms, epoch, one_in, slow_ms, origins, payload)
           select id, at_ms, $1, one_in, slow_ms, origins, payload
             from unnest($2::bigint[], $3::bigint[], $4::int[], $5::float8[], $6::jsonb[], $7::bytea[])
               as given (id, at_ms, one_in, slow_ms, origins, payload)`,
          [
            this.epoch,
            rows.map(({ id }) => id),
            rows.map(({ at }) => at),
            rows.map(({ choice }) => choice.oneIn),
            rows.map(({ choice }) => choice.slow),
            rows.map(({ origins }) => JSON.stringify(origins)),
            rows.map(({ payload }) => payload),
          ],
        );
      await this.keepForwards(manager, pushes, fresh);
      return fresh;
    });
  }
  async watermark(): Promise<number> {
    const [row]: { journal_id: number }[] = await this.database.query(
      `select journal_id from span_packed where name = $1`,
      [WATERMARK],
    );
    return row?.journal_id ?? 0;
  }
  async journal(after: number, most: number): Promise<JournalledSpans[]> {
    const rows: {
      id: number;
      at_ms: number;
      one_in: number;
      slow_ms: number;
      origins: Origin[];
      payload: Buffer;
    }[] = await this.database.query(
      `select id, at_ms, one_in, slow_ms, origins, payload from span_journal where id > $1 order by id limit $2`,
      [after, most],
    );
    return rows.map(({ id, at_ms, one_in, slow_ms, origins, payload }) => ({
      id,
      at: at_ms,
      choice: { oneIn: one_in, slow: slow_ms },
      origins,
      payload,
    }));
  }
  /** Parts of the journal that came wholly before a moment, and of which everything is settled. */
  dropJournalBefore(moment: EpochMs): Promise<void> {
    return this.dropDone('span_journal', moment, {
      where: `j.id > coalesce((select journal_id from span_packed where name = $1), 0)`,
      values: [WATERMARK],
    });
  }

  /** A block, if there is one, and with it up to which number of the journal everything is settled. */
  async keep(block: NewTraceBlock | null, settled: number): Promise<void> {
    await this.inTransaction(async (manager) => {
      if (block) {
        await this.ensure(manager, 'trace_block', [block.from]);
        await manager.query(
          `insert into trace_block (from_ms, to_ms, last_id, traces, spans, streams, origins, ids, summaries, body)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
          [
            block.from,
            block.to,
            block.lastId,
            block.traces,
            block.spans,
            block.streams,
            JSON.stringify(block.origins),
            block.ids,
            block.summaries,
            block.body,
          ],
        );
      }
      await manager.query(
        `insert into span_packed (name, journal_id) values ($1, $2)
         on conflict (name) do update set journal_id = excluded.journal_id`,
        [WATERMARK, settled],
      );
    });
  }
  /** Those with anything that came with a later row of the journal. */
  async blocksAfter(journalId: number): Promise<TraceBlock[]> {
    return blocksOf(
      await this.database.query(`select ${BLOCK_COLUMNS} from trace_block where last_id > $1`, [journalId]),
    );
  }
  /** Blocks that touch a stretch of time, newest first; of some streams, or of all. */
  async blocks({
    streams,
    from,
    to,
    after,
    most,
  }: {
    readonly streams: readonly number[] | null;
    readonly from: EpochMs;
    readonly to: EpochMs;
    readonly after: Pick<TraceBlock, 'to' | 'id'> | null;
    readonly most: number;
  }): Promise<TraceBlock[]> {
    return blocksOf(
      await this.database.query(
        `select ${BLOCK_COLUMNS} from trace_block
          where ($1::int[] is null or streams && $1::int[]) and to_ms >= $2 and from_ms < $3
            and (to_ms, id) < ($4::bigint, $5::bigint)
          order by to_ms desc, id desc limit $6`,
        [
          streams,
          Math.floor(from),
          Math.ceil(to),
          after?.to ?? Number.MAX_SAFE_INTEGER,
          after?.id ?? Number.MAX_SAFE_INTEGER,
          most,
        ],
      ),
    );
  }
}
const blocksOf = (rows: readonly BlockRow[]): TraceBlock[] =>
  rows.map(({ from_ms, to_ms, last_id, ...row }) => ({ ...row, from: from_ms, to: to_ms, lastId: last_id }));
