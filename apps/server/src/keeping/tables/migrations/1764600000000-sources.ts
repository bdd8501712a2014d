import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Since when each scout looks: of two that find one page, the one that came first reads it. What an import needs to go on after a
 * restart.
 */
export class Sources1764600000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table scout_since (
      scout text primary key,
      since_ms bigint not null)`);
    await q.query(`alter table history_import
      add column file text,
      add column endpoint integer,
      add column lines_done integer not null default 0,
      add column taken_up integer not null default 0`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(
      `alter table history_import drop column file, drop column endpoint, drop column lines_done, drop column taken_up`,
    );
    await q.query(`drop table scout_since`);
  }
}
