import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { KeptWording } from '@zetopsis/core/lines';
import type { Origin, Stream } from '@zetopsis/core/origins';
import type { EpochMs } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { DataSource, type EntityManager } from 'typeorm';
import { LeaseService } from '../store/lease.service.ts';
import { type PushMark, RecordStore } from './recordStore.ts';

/** Lines that came with one push, as the journal has them: those of each stream by themselves. */
export interface JournalledLines {
  readonly id: number;
  readonly at: EpochMs;
  readonly streams: readonly number[];
  /** Of each stream. */
  readonly origins: readonly (readonly Origin[])[];
  /** Compressed. */
  readonly payload: Buffer;
}
export interface StreamWordings {
  readonly stream: number;
  readonly wordings: readonly KeptWording[];
}
export interface KnownStream extends Stream {
  readonly id: number;
}
/** With how many lines of a block are of it, and how many of these bear a trace id. */
export interface CountedOrigin extends Origin {
  readonly lines: number;
  readonly traced: number;
}
export interface LineBlock {
  readonly id: number;
  readonly stream: number;
  readonly from: EpochMs;
  readonly to: EpochMs;
  /** The last number of the journal that is in it. */
  readonly lastId: number;
  readonly lines: number;
  /** Of their texts and fields as they were. */
  readonly bytes: number;
  /** How many of each level; none first. */
  readonly levels: readonly number[];
  readonly origins: readonly CountedOrigin[];
  readonly words: Buffer;
  readonly body: Buffer;
}
export type NewBlock = Omit<LineBlock, 'id' | 'stream' | 'lastId'>;
interface BlockRow {
  readonly id: number;
  readonly stream_id: number;
  readonly from_ms: number;
  readonly to_ms: number;
  readonly last_id: number;
  readonly lines: number;
  readonly bytes: number;
  readonly levels: number[];
  readonly origins: CountedOrigin[];
  readonly words: Buffer;
  readonly body: Buffer;
}

/** Of a row `j` of the journal: something of it is in no block yet. */
const UNPACKED = `exists (select 1 from unnest(j.streams) as stream_id left join line_packed p using (stream_id)
  where j.id > coalesce(p.journal_id, 0))`;

/** SQL of log lines. */
@Injectable()
export class LineStore extends RecordStore {
  private readonly known = new LRUCache<string, number>({ max: 20_000 });

  constructor(@InjectDataSource() database: DataSource, lease: LeaseService) {
    super(database, lease);
  }

  // ---- streams and wordings ---------------------------------------------------------------------------------------

  async streamIdOf(stream: Stream, now: EpochMs): Promise<number> {
    const key = JSON.stringify([stream.cluster, stream.namespace, stream.kind, stream.name]);
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const [id] = await this.streamIds([stream], now);
    this.known.set(key, id!); // one was asked for
    return id!;
  }
  /** Numbers of streams, in the order given. */
  private async streamIds(streams: readonly Stream[], now: EpochMs): Promise<number[]> {
    const rows: { id: number; place: string }[] = await this.database.query(
      `with given as (select * from unnest($1::text[], $2::text[], $3::text[], $4::text[]) as given (cluster, namespace, kind, name)),
            made as (insert into line_stream (cluster, namespace, kind, name, first_ms) select distinct *, $5::bigint from given
              on conflict (cluster, namespace, kind, name) do update set name = excluded.name
              returning id, cluster, namespace, kind, name)
       select id, jsonb_build_array(cluster, namespace, kind, name)::text as place from made`,
      [
        streams.map(({ cluster }) => cluster ?? ''),
        streams.map(({ namespace }) => namespace ?? ''),
        streams.map(({ kind }) => kind),
        streams.map(({ name }) => name),
        now,
      ],
    );
    const ids = new Map(rows.map(({ id, place }) => [JSON.stringify(JSON.parse(place)), id]));
    return streams.map(
      ({ cluster, namespace, kind, name }) => ids.get(JSON.stringify([cluster ?? '', namespace ?? '', kind, name]))!, // every one given comes back
    );
  }
  async streams(): Promise<KnownStream[]> {
    const rows: { id: number; cluster: string; namespace: string; kind: Stream['kind']; name: string }[] =
      await this.database.query(`select id, cluster, namespace, kind, name from line_stream`);
    return rows.map(({ id, cluster, namespace, kind, name }) => ({
      id,
      cluster: cluster || null,
      namespace: namespace || null,
      kind,
      name,
    }));
  }
  async wordings(stream: number): Promise<KeptWording[]> {
    const rows: { number: number; text: string; alias_of: number | null }[] = await this.database.query(
      `select number, text, alias_of from line_wording where stream_id = $1`,
      [stream],
    );
    return rows.map(({ number, text, alias_of }) => ({ number, text, aliasOf: alias_of }));
  }

  // ---- journal ----------------------------------------------------------------------------------------------------

  /**
   * Accepted means: this has returned. Answers of each push whether it is new; nothing of one that was taken before is written.
   * Everything or nothing, and nothing once the lease is another's.
   */
  async append(
    pushes: readonly (PushMark & { readonly at: EpochMs; readonly row: JournalledLines })[],
    wordings: readonly StreamWordings[],
  ): Promise<boolean[]> {
    return this.inTransaction(async (manager) => {
      const fresh = await this.unseen(manager, pushes);
      const rows = pushes.flatMap(({ row }, i) => (fresh[i] ? [row] : []));
      await this.ensure(
        manager,
        'line_journal',
        rows.map(({ at }) => at),
      );
      if (rows.length > 0)
        await manager.query(
          `insert into line_journal (id, at_ms, epoch, streams, origins, payload)
           select id, at_ms, $1, streams::int[], origins, payload
             from unnest($2::bigint[], $3::bigint[], $4::text[], $5::jsonb[], $6::bytea[]) as given (id, at_ms, streams, origins, payload)`,
          [
            this.epoch,
            rows.map(({ id }) => id),
            rows.map(({ at }) => at),
            rows.map(({ streams }) => `{${streams.join(',')}}`),
            rows.map(({ origins }) => JSON.stringify(origins)),
            rows.map(({ payload }) => payload),
          ],
        );
      await this.keepWordings(manager, wordings);
      await this.keepPositions(manager, pushes);
      await this.keepForwards(manager, pushes, fresh);
      return fresh;
    });
  }
  private async keepPositions(
    manager: EntityManager,
    pushes: readonly (PushMark & { readonly at: EpochMs })[],
  ): Promise<void> {
    // of one place the last one counts
    const rows = new Map(
      pushes.flatMap(({ at, position }) => (position ? [[position.place, { at, ...position }]] : [])),
    );
    if (rows.size === 0) return;
    const all = [...rows.values()];
    await manager.query(
      `insert into followed_container (place, stamp, same, head, restarts, at_ms)
       select * from unnest($1::text[], $2::text[], $3::int[], $4::text[], $5::int[], $6::bigint[])
       on conflict (place) do update set stamp = excluded.stamp, same = excluded.same, head = excluded.head, restarts = excluded.restarts,
         at_ms = excluded.at_ms`,
      [
        all.map(({ place }) => place),
        all.map(({ stamp }) => stamp),
        all.map(({ same }) => same),
        all.map(({ head }) => head ?? null),
        all.map(({ restarts }) => restarts),
        all.map(({ at }) => at),
      ],
    );
  }
  private async keepWordings(manager: EntityManager, all: readonly StreamWordings[]): Promise<void> {
    const rows = all.flatMap(({ stream, wordings }) => wordings.map((wording) => ({ stream, ...wording })));
    if (rows.length === 0) return;
    await manager.query(
      `insert into line_wording (stream_id, number, text, alias_of)
       select * from unnest($1::int[], $2::int[], $3::text[], $4::int[])
       on conflict (stream_id, number) do update set text = excluded.text, alias_of = excluded.alias_of`,
      [
        rows.map(({ stream }) => stream),
        rows.map(({ number }) => number),
        rows.map(({ text }) => text),
        rows.map(({ aliasOf }) => aliasOf),
      ],
    );
  }
  /** Of each stream the number of the journal up to which everything is in blocks. */
  async packedUpTo(): Promise<Map<number, number>> {
    const rows: { stream_id: number; journal_id: number }[] = await this.database.query(
      `select stream_id, journal_id from line_packed`,
    );
    return new Map(rows.map(({ stream_id, journal_id }) => [stream_id, journal_id]));
  }
  /** Rows of which something is in no block yet, in the order in which they came. */
  async unpacked(after: number, most: number): Promise<JournalledLines[]> {
    const rows: { id: number; at_ms: number; streams: number[]; origins: Origin[][]; payload: Buffer }[] =
      await this.database.query(
        `select id, at_ms, streams, origins, payload from line_journal j
          where id > $1 and ${UNPACKED}
          order by id limit $2`,
        [after, most],
      );
    return rows.map(({ at_ms, ...row }) => ({ ...row, at: at_ms }));
  }
  /** The highest number that was given. */
  async lastId(): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(
      `select greatest((select coalesce(max(id), 0) from line_journal), (select coalesce(max(journal_id), 0) from line_packed)) as id`,
    );
    return row!.id; // an aggregate always has a row
  }
  /** Parts of the journal that came wholly before a moment, and of which everything is in blocks. */
  dropJournalBefore(moment: EpochMs): Promise<void> {
    return this.dropDone('line_journal', moment, { where: UNPACKED, values: [] });
  }

  // ---- blocks -----------------------------------------------------------------------------------------------------

  /** With them, everything of their stream up to a number of the journal is packed. */
  async keepBlocks(stream: number, upTo: number, blocks: readonly NewBlock[]): Promise<void> {
    await this.inTransaction(async (manager) => {
      await this.ensure(
        manager,
        'line_block',
        blocks.map(({ from }) => from),
      );
      for (const block of blocks)
        await manager.query(
          `insert into line_block (stream_id, from_ms, to_ms, last_id, lines, bytes, levels, origins, words, body)
           values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
          [
            stream,
            block.from,
            block.to,
            upTo,
            block.lines,
            block.bytes,
            block.levels,
            JSON.stringify(block.origins),
            block.words,
            block.body,
          ],
        );
      await manager.query(
        `insert into line_packed (stream_id, journal_id) values ($1, $2)
         on conflict (stream_id) do update set journal_id = excluded.journal_id`,
        [stream, upTo],
      );
    });
  }
  /** Blocks that touch a stretch of time, those with the newest lines first; some at a time, `after` the last one that was got. */
  async blocks({
    streams,
    from,
    to,
    having,
    after,
    most,
  }: {
    readonly streams: readonly number[];
    readonly from: EpochMs;
    readonly to: EpochMs;
    /** What at least one of their origins has. */
    readonly having: Partial<Origin>;
    readonly after: Pick<LineBlock, 'to' | 'id'> | null;
    readonly most: number;
  }): Promise<LineBlock[]> {
    const rows: BlockRow[] = await this.database.query(
      `select id, stream_id, from_ms, to_ms, last_id, lines, bytes, levels, origins, words, body from line_block
        where stream_id = any($1::int[]) and to_ms >= $2 and from_ms < $3 and from_ms > $2::bigint - 86400000
          and origins @> $4 and (to_ms, id) < ($5::bigint, $6::bigint)
        order by to_ms desc, id desc limit $7`,
      [
        streams,
        Math.floor(from),
        Math.ceil(to),
        JSON.stringify([having]),
        after?.to ?? Number.MAX_SAFE_INTEGER,
        after?.id ?? Number.MAX_SAFE_INTEGER,
        most,
      ],
    );
    return rows.map(({ stream_id, from_ms, to_ms, last_id, ...row }) => ({
      ...row,
      stream: stream_id,
      from: from_ms,
      to: to_ms,
      lastId: last_id,
    }));
  }
  /**
   * How many lines are in blocks since a moment, and how many of them bear a trace id: of each stream those up to a number of the journal,
   * of origins that have something.
   */
  async census(
    streams: readonly { readonly stream: number; readonly before: number }[],
    since: EpochMs,
    having: Partial<Origin>,
  ): Promise<{ lines: number; traced: number }> {
    const [row]: { lines: number; traced: number }[] = await this.database.query(
      `select coalesce(sum((origin->>'lines')::int), 0)::bigint as lines, coalesce(sum((origin->>'traced')::int), 0)::bigint as traced
         from line_block join unnest($1::int[], $2::bigint[]) as asked (stream_id, before) using (stream_id),
              jsonb_array_elements(origins) as origin
        where from_ms >= $3 and last_id < before and origin @> $4`,
      [streams.map(({ stream }) => stream), streams.map(({ before }) => before), since, JSON.stringify(having)],
    );
    return row!; // an aggregate always has a row
  }
}
