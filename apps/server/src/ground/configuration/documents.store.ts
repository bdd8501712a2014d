import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { DocumentKind, DocumentOf } from '@zetopsis/contract';
import { DataSource, type EntityManager } from 'typeorm';
import type { DocumentChange, Revision } from './documents.ts';

interface RevisionRow extends Omit<Revision, 'at'> {
  readonly at: Date;
}
const REVISION = 'id, at, by, what, changes';
const toRevision = (row: RevisionRow): Revision => ({ ...row, at: row.at.getTime() });

/** Documents as they are, and every revision that led there. A revision is never changed or removed. */
@Injectable()
export class DocumentsStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  all(): Promise<{ kind: DocumentKind; key: string; body: DocumentOf[DocumentKind] }[]> {
    return this.database.query(`select kind, key, body from document`);
  }
  async newestId(): Promise<number> {
    const [row]: { id: number | null }[] = await this.database.query(`select max(id) as id from revision`);
    return row?.id ?? 0;
  }

  /** One revision with all its changes, or none. `more` is done in the same transaction. */
  async write({
    by,
    what,
    changes,
    more,
  }: {
    readonly by: string;
    readonly what: string;
    readonly changes: readonly DocumentChange[];
    readonly more: (manager: EntityManager) => Promise<void>;
  }): Promise<Revision> {
    return this.database.transaction(async (manager) => {
      const [row]: RevisionRow[] = await manager.query(
        `insert into revision (by, what, changes) values ($1, $2, $3) returning ${REVISION}`,
        [by, what, JSON.stringify(changes)],
      );
      const revision = toRevision(row!); // insert returns its row
      for (const { kind, key, after } of changes) {
        if (after === null) await manager.query(`delete from document where kind = $1 and key = $2`, [kind, key]);
        else
          await manager.query(
            `insert into document (kind, key, body, revision_id) values ($1, $2, $3, $4)
             on conflict (kind, key) do update set body = excluded.body, revision_id = excluded.revision_id`,
            [kind, key, JSON.stringify(after), revision.id],
          );
      }
      await more(manager);
      return revision;
    });
  }
  async newest(before: number | null, limit: number): Promise<Revision[]> {
    const rows: RevisionRow[] = await this.database.query(
      `select ${REVISION} from revision where $1::int is null or id < $1 order by id desc limit $2`,
      [before, limit],
    );
    return rows.map(toRevision);
  }
  /** Those that changed one document, newest first. */
  async newestOf(kind: DocumentKind, key: string, limit: number): Promise<Revision[]> {
    const rows: RevisionRow[] = await this.database.query(
      `select ${REVISION} from revision where changes @> $1::jsonb order by id desc limit $2`,
      [JSON.stringify([{ kind, key }]), limit],
    );
    return rows.map(toRevision);
  }
  async within(from: number, to: number, limit: number): Promise<Revision[]> {
    const rows: RevisionRow[] = await this.database.query(
      `select ${REVISION} from revision where at between to_timestamp($1 / 1000.0) and to_timestamp($2 / 1000.0)
        order by id desc limit $3`,
      [from, to, limit],
    );
    return rows.map(toRevision);
  }
  async get(id: number): Promise<Revision | null> {
    const [row]: RevisionRow[] = await this.database.query(`select ${REVISION} from revision where id = $1`, [id]);
    return row ? toRevision(row) : null;
  }
  /** Everything after a revision, newest first. */
  async after(id: number): Promise<Revision[]> {
    const rows: RevisionRow[] = await this.database.query(
      `select ${REVISION} from revision where id > $1 order by id desc`,
      [id],
    );
    return rows.map(toRevision);
  }
}
