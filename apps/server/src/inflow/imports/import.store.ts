import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { ImportAnswer, ImportWhat } from '@zetopsis/contract';
import type { InventoryObject } from '@zetopsis/core/inventory';
import { DataSource } from 'typeorm';

const KEPT = 200;
type Row = Record<string, string | number | null>;

/** What was imported, and states of objects from elsewhere. */
@Injectable()
export class ImportStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async begin(run: { cluster: string; about: string; what: ImportWhat; by: string; parts: number }, at: number) {
    const [row]: { id: number }[] = await this.database.query(
      `insert into history_import (cluster, about, what, by, state, parts, started_ms)
       values ($1, $2, $3, $4, 'waiting', $5, $6) returning id`,
      [run.cluster, run.about, run.what, run.by, run.parts, at],
    );
    return row!.id; // an insert always returns the row
  }
  async note(run: ImportAnswer): Promise<void> {
    await this.database.query(
      `update history_import set state = $2, parts_done = $3, added = $4, same = $5, other = $6, left_out = $7,
         problem = $8, ended_ms = $9 where id = $1`,
      [run.id, run.state, run.partsDone, run.added, run.same, run.other, run.leftOut, run.problem, run.endedAt],
    );
  }
  /** What was under way when the server ended. */
  async interrupted(at: number): Promise<void> {
    await this.database.query(
      `update history_import set state = 'interrupted', ended_ms = $1,
         problem = 'The server ended meanwhile. What had been taken is kept; import it again for the rest.'
       where state in ('waiting', 'running')`,
      [at],
    );
  }
  async newest(): Promise<ImportAnswer[]> {
    const rows: Row[] = await this.database.query(
      `select id, cluster, about, what, by, state, parts, parts_done as "partsDone", added, same, other,
         left_out as "leftOut", problem, started_ms as "startedAt", ended_ms as "endedAt"
       from history_import order by id desc limit ${KEPT}`,
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
