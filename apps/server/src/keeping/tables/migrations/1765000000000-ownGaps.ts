import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A gap that Zetopsis itself left is told apart from one of an endpoint that was silent; those of before are known by their reasons. */
export class OwnGaps1765000000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table endpoint_gap add column own boolean not null default false`);
    await q.query(`update endpoint_gap set own = true
      where starts_with(reason, 'Nothing was kept: Zetopsis') or reason like '% given up: PostgreSQL did not take %'`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`alter table endpoint_gap drop column own`);
  }
}
