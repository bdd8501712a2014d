import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What is to go on to other receivers, until it is taken there; and what these are shown, encrypted. */
export class Forwards1765600000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table forward_row (
      id bigserial primary key,
      forward text not null,
      signal text not null,
      at_ms bigint not null,
      items integer not null,
      bytes integer not null,
      payload bytea not null)`);
    await q.query(`create index forward_row_order on forward_row (forward, id)`);
    await q.query(`create table forward_secret (forward text primary key, secret text not null)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table forward_secret`);
    await q.query(`drop table forward_row`);
  }
}
