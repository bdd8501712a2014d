import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Buckets hold what came after their start up to their end, know how long before it the last number was read, and how many
 * values were none. Days before `anew_ms` are rolled up anew from their samples, as far as there are any.
 */
export class BucketBorders1764700000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    for (const table of ['rollup_five', 'rollup_hour']) {
      await q.query(`alter table ${table} add column nans bytea, add column gap bytea`);
      for (const column of ['nans', 'gap'])
        await q.query(`alter table ${table} alter column ${column} set storage external`);
    }
    await q.query(`alter table packed add column anew_ms bigint not null default 0`);
    await q.query(`update packed set anew_ms = joined_ms`);
  }
  async down(): Promise<void> {
    throw new Error('this upgrade cannot be taken back: restore the backup that was made before it');
  }
}
