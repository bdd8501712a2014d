import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Spans: what is journalled, and blocks of whole traces by day. */
export class Traces1765200000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table span_journal (
      id bigint not null,
      at_ms bigint not null,
      epoch integer not null,
      one_in integer not null,
      slow_ms double precision not null,
      origins jsonb not null,
      payload bytea not null) partition by range (at_ms)`);
    await q.query(`alter table span_journal alter column payload set storage external`);
    // every span up to this number of the journal is in a block, or its trace was not kept
    await q.query(`create table span_packed (name text primary key, journal_id bigint not null)`);
    await q.query(`create table trace_block (
      id bigint generated always as identity,
      from_ms bigint not null,
      to_ms bigint not null,
      last_id bigint not null,
      traces integer not null,
      spans integer not null,
      streams integer[] not null,
      origins jsonb not null,
      ids bytea not null,
      summaries bytea not null,
      body bytea not null) partition by range (from_ms)`);
    for (const column of ['ids', 'summaries', 'body'])
      await q.query(`alter table trace_block alter column ${column} set storage external`);
    await q.query(`create index trace_block_time on trace_block (to_ms)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table trace_block, span_packed, span_journal`);
  }
}
