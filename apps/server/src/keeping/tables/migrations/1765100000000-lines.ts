import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Log lines: what is journalled, blocks of it by stream and day, wordings, and which pushes were taken lately. */
export class Lines1765100000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    // '' stands for none: what is null is never the same as another null
    await q.query(`create table line_stream (
      id integer generated always as identity primary key,
      cluster text not null,
      namespace text not null,
      kind text not null,
      name text not null,
      first_ms bigint not null,
      unique (cluster, namespace, kind, name))`);
    await q.query(`create table line_wording (
      stream_id integer not null references line_stream on delete cascade,
      number integer not null,
      text text not null,
      alias_of integer,
      primary key (stream_id, number))`);
    await q.query(`create table line_journal (
      id bigint not null,
      at_ms bigint not null,
      epoch integer not null,
      streams integer[] not null,
      origins jsonb not null,
      payload bytea not null) partition by range (at_ms)`);
    await q.query(`alter table line_journal alter column payload set storage external`);
    // everything of a stream up to this number of the journal is in blocks
    await q.query(`create table line_packed (
      stream_id integer primary key references line_stream on delete cascade,
      journal_id bigint not null)`);
    await q.query(`create table line_block (
      id bigint generated always as identity,
      stream_id integer not null,
      from_ms bigint not null,
      to_ms bigint not null,
      last_id bigint not null,
      lines integer not null,
      bytes integer not null,
      levels integer[] not null,
      origins jsonb not null,
      words bytea not null,
      body bytea not null) partition by range (from_ms)`);
    // compressed already
    for (const column of ['words', 'body'])
      await q.query(`alter table line_block alter column ${column} set storage external`);
    await q.query(`create index line_block_place on line_block (stream_id, to_ms)`);
    await q.query(`create table push_seen (
      key text not null,
      digest bytea not null,
      at_ms bigint not null,
      primary key (key, digest))`);
    await q.query(`create index push_seen_at on push_seen (at_ms)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table push_seen, line_block, line_packed, line_journal, line_wording, line_stream`);
  }
}
