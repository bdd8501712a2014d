import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How many log lines of each team came on a day, and how many of them were dropped by the team's own limit. */
export class LineDays1765400000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table line_day (
      team text not null,
      day integer not null,
      lines bigint not null,
      dropped bigint not null,
      primary key (team, day))`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table line_day`);
  }
}
