import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Imports1764310000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table history_import (
      id serial primary key,
      cluster text not null,
      about text not null,
      what text not null,
      by text not null,
      state text not null,
      parts integer not null,
      parts_done integer not null default 0,
      added bigint not null default 0,
      same bigint not null default 0,
      other bigint not null default 0,
      left_out bigint not null default 0,
      problem text,
      started_ms bigint not null,
      ended_ms bigint)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table history_import`);
  }
}
