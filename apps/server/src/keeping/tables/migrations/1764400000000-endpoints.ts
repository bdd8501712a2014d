import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Endpoints that are given by address or found by scouts, beside the nodes' own; how their readings went. */
export class Endpoints1764400000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table endpoint
      alter column connection_id drop not null,
      alter column node drop not null,
      add column given text unique,
      add column found text,
      add column own boolean not null default false,
      add column secret_encrypted text not null default '',
      add constraint endpoint_found unique (connection_id, found),
      add constraint endpoint_is_one_thing check (num_nonnulls(node, given, found) + own::int = 1),
      add constraint endpoint_of_a_cluster check (connection_id is not null or given is not null or own)`);
    await q.query(`alter table endpoint_gap add column planned boolean not null default false`);
    await q.query(`create table endpoint_history (
      endpoint_id integer not null references endpoint on delete cascade,
      at_ms double precision not null,
      readings integer not null,
      failures integer not null,
      duration_ms real,
      longest_ms real,
      bytes double precision,
      series integer,
      reason text,
      primary key (endpoint_id, at_ms))`);
    await q.query(`create table exemplar (
      endpoint_id integer not null references endpoint on delete cascade,
      series_id integer not null references series on delete cascade,
      at_ms double precision not null,
      value double precision not null,
      labels jsonb not null,
      primary key (endpoint_id, series_id, at_ms))`);
    await q.query(`create index exemplar_series on exemplar (series_id)`);
    await q.query(`create index exemplar_at on exemplar (endpoint_id, at_ms)`);
    await q.query(`create index endpoint_history_at on endpoint_history (at_ms)`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table exemplar, endpoint_history`);
    await q.query(`alter table endpoint_gap drop column planned`);
    await q.query(`delete from endpoint where node is null`);
    await q.query(`alter table endpoint
      drop constraint endpoint_is_one_thing, drop constraint endpoint_of_a_cluster, drop constraint endpoint_found,
      drop column given, drop column found, drop column own, drop column secret_encrypted,
      alter column connection_id set not null, alter column node set not null`);
  }
}
