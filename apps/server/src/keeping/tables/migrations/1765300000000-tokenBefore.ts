import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The token before a key's newest one is valid for a while beside it. */
export class TokenBefore1765300000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table push_key add column before_hash text`);
    await q.query(`alter table push_key add column before_until timestamptz`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`alter table push_key drop column before_hash, drop column before_until`);
  }
}
