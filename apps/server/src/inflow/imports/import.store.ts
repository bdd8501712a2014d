import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { ImportAnswer, ImportWhat } from '@zetopsis/contract';
import type { InventoryObject } from '@zetopsis/core/inventory';
import { DataSource } from 'typeorm';

const KEPT = 200;
/** An import that was under way at so many ends in a row may be their cause. */
const TAKEN_UP = 3;
type Row = Record<string, string | number | null>;
const COLUMNS = `id, cluster, about, what, by, state, parts, parts_done as "partsDone", added, same, other,
  left_out as "leftOut", problem, started_ms as "startedAt", ended_ms as "endedAt"`;

export interface ImportBegun {
  readonly cluster: string;
  readonly about: string;
  readonly what: ImportWhat;
  readonly by: string;
  readonly parts: number;
  /** The name of the kept file; null where parts are fetched. */
  readonly file: string | null;
  /** Whose samples they are; null for states. */
  readonly endpoint: number | null;
}

/** What was imported, and states of objects from elsewhere. */
@Injectable()
export class ImportStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async begin({ cluster, about, what, by, parts, file, endpoint }: ImportBegun, at: number): Promise<number> {
    const [row]: { id: number }[] = await this.database.query(
      `insert into history_import (cluster, about, what, by, state, parts, file, endpoint, started_ms)
       values ($1, $2, $3, $4, 'waiting', $5, $6, $7, $8) returning id`,
      [cluster, about, what, by, parts, file, endpoint, at],
    );
    return row!.id; // an insert always returns the row
  }
  /** `linesDone`: of a file of states, the lines that need not be looked at again. */
  async note(run: ImportAnswer, linesDone: number | null = null): Promise<void> {
    await this.database.query(
      `update history_import set state = $2, parts = $3, parts_done = $4, added = $5, same = $6, other = $7, left_out = $8,
         problem = $9, ended_ms = $10, lines_done = coalesce($11, lines_done) where id = $1`,
      [
        run.id,
        run.state,
        run.parts,
        run.partsDone,
        run.added,
        run.same,
        run.other,
        run.leftOut,
        run.problem,
        run.endedAt,
        linesDone,
      ],
    );
  }
  /** What was under way when the server ended, oldest first; not what ended it again and again. */
  async unfinished(): Promise<(ImportAnswer & { file: string | null; endpoint: number | null; linesDone: number })[]> {
    const rows: Row[] = await this.database.query(
      `select ${COLUMNS}, file, endpoint, lines_done as "linesDone" from history_import where state in ('waiting', 'running') and taken_up < ${TAKEN_UP} order by id`,
    );
    return rows as never; // the columns are those of the answer
  }
  async takenUp(id: number): Promise<void> {
    await this.database.query(`update history_import set taken_up = taken_up + 1 where id = $1`, [id]);
  }
  /** The newest of these, where the end of a process broke it off. */
  async brokenOff(of: { cluster: string; about: string; by: string }): Promise<ImportAnswer | null> {
    const [row]: Row[] = await this.database.query(
      `select ${COLUMNS} from history_import where cluster = $1 and about = $2 and by = $3 order by id desc limit 1`,
      [of.cluster, of.about, of.by],
    );
    return row?.['state'] === 'interrupted' ? (row as unknown as ImportAnswer) : null; // the columns are those of the answer
  }
  /** What was under way when the server ended and does not go on. */
  async interrupted(goOn: readonly number[], at: number): Promise<void> {
    await this.database.query(
      `update history_import set state = 'interrupted', ended_ms = $2,
         problem = 'The server ended meanwhile. What had been taken is kept; import it again for the rest.'
       where state in ('waiting', 'running') and id <> all($1)`,
      [goOn, at],
    );
  }
  async newest(): Promise<ImportAnswer[]> {
    const rows: Row[] = await this.database.query(
      `select ${COLUMNS} from history_import order by id desc limit ${KEPT}`,
    );
    return rows as unknown as ImportAnswer[]; // the columns are those of the answer
  }

  /** A state that overlaps one that is known of the same object is left out; answers how many were taken. */
  async addStates(
    connectionId: string,
    states: readonly { object: InventoryObject; from: number; to: number }[],
  ): Promise<number> {
    const rows: { uid: string }[] = await this.database.query(
      `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, to_earliest_ms, to_ms, kind, namespace, name, object)
       select $1::uuid, given.uid, given.from_ms, given.from_ms, given.to_ms, given.to_ms, given.kind, given.namespace, given.name, given.object
         from unnest($2::text[], $3::bigint[], $4::bigint[], $5::text[], $6::text[], $7::text[], $8::jsonb[])
           as given (uid, from_ms, to_ms, kind, namespace, name, object)
        where not exists (select 1 from object_version known where known.connection_id = $1 and known.uid = given.uid
          and known.from_ms < given.to_ms and (known.to_ms is null or known.to_ms > given.from_ms))
       on conflict do nothing returning uid`,
      [
        connectionId,
        states.map(({ object }) => object.uid),
        states.map(({ from }) => from),
        states.map(({ to }) => to),
        states.map(({ object }) => object.kind),
        states.map(({ object }) => object.namespace),
        states.map(({ object }) => object.name),
        states.map(({ object }) => JSON.stringify(object)),
      ],
    );
    return rows.length;
  }
}
