import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Senders that push with a key, what is counted on of theirs, secrets of scouts, and views that people keep. */
export class Push1764500000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table endpoint
      add column pushed text unique,
      drop constraint endpoint_is_one_thing,
      drop constraint endpoint_of_a_cluster,
      add constraint endpoint_is_one_thing check (num_nonnulls(node, given, found, pushed) + own::int = 1),
      add constraint endpoint_of_a_cluster
        check (connection_id is not null or given is not null or pushed is not null or own)`);
    await q.query(`create table push_key (
      key text primary key,
      token_hash text not null unique,
      made_at timestamptz not null default now(),
      last_used_at timestamptz)`);
    await q.query(`create table push_state (
      endpoint_id integer primary key references endpoint on delete cascade,
      body jsonb not null)`);
    await q.query(`create table saved_view (
      id integer generated always as identity primary key,
      person_id uuid not null references person on delete cascade,
      name text not null,
      address text not null,
      team text)`);
    await q.query(`create table scout_secret (
      scout text primary key,
      secret_encrypted text not null)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table scout_secret, saved_view, push_state, push_key`);
    await q.query(`delete from endpoint where pushed is not null`);
    await q.query(`alter table endpoint
      drop constraint endpoint_is_one_thing,
      drop constraint endpoint_of_a_cluster,
      drop column pushed,
      add constraint endpoint_is_one_thing check (num_nonnulls(node, given, found) + own::int = 1),
      add constraint endpoint_of_a_cluster check (connection_id is not null or given is not null or own)`);
  }
}
