import { Injectable } from '@nestjs/common';
import { InjectDataSource } from '@nestjs/typeorm';
import type { AuditEntry, AuditQuery } from '@zetopsis/contract';
import { DataSource } from 'typeorm';

const LIKE_MARKS = /[\\%_]/g;

/** Append-only: there is no other write than `add`, and the table refuses any. */
@Injectable()
export class AuditStore {
  constructor(@InjectDataSource() private readonly database: DataSource) {}

  async add(entry: Omit<AuditEntry, 'id' | 'at'>): Promise<void> {
    await this.database.query(
      `insert into audit (by, who, action, target, outcome, detail, address) values ($1, $2, $3, $4, $5, $6, $7)`,
      [entry.by, entry.who, entry.action, entry.on, entry.outcome, entry.detail, entry.from],
    );
  }

  /** What Zetopsis noted under actions that begin so, up to a moment, newest first; `on`: of that alone. */
  async ownOf({
    action,
    on,
    to,
    most,
  }: {
    readonly action: string;
    readonly on: string | null;
    readonly to: number;
    readonly most: number;
  }): Promise<AuditEntry[]> {
    return this.entries(
      `by = 'zetopsis' and starts_with(action, $1) and ($2::text is null or target = $2)
          and extract(epoch from at) * 1000 <= $3::float8 order by id desc limit $4`,
      [action, on, to, most],
    );
  }
  /** Newest first. */
  async search({ text, by, before }: AuditQuery, limit: number): Promise<AuditEntry[]> {
    const pattern = `%${text.replace(LIKE_MARKS, '\\$&')}%`;
    return this.entries(
      `($1 = '%%' or who || ' ' || action || ' ' || target || ' ' || outcome || ' ' || detail || ' ' || address ilike $1)
          and ($2 = 'anyone' or (by = 'zetopsis') = ($2 = 'zetopsis'))
          and ($3::int is null or id < $3)
        order by id desc limit $4`,
      [pattern, by, before ?? null, limit],
    );
  }
  private async entries(where: string, parameters: unknown[]): Promise<AuditEntry[]> {
    const rows: (Omit<AuditEntry, 'at'> & { at: Date })[] = await this.database.query(
      `select id, at, by, who, action, target as on, outcome, detail, address as from from audit where ${where}`,
      parameters,
    );
    return rows.map((row) => ({ ...row, at: row.at.getTime() }));
  }
}
