import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Ground1764000000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table person (
      id uuid primary key default gen_random_uuid(),
      name text not null unique,
      password_hash text not null,
      role text not null check (role in ('administrator', 'reader')),
      created_at timestamptz not null default now())`);
    await q.query(`create table session (
      id_hash text primary key,
      person_id uuid not null references person on delete cascade,
      created_at timestamptz not null default now(),
      expires_at timestamptz not null)`);
    await q.query(`create index session_expires on session (expires_at)`);

    await q.query(`create table connection (
      id uuid primary key default gen_random_uuid(),
      name text not null unique,
      address text not null,
      token_encrypted text not null,
      authority text not null,
      node_page_path text not null,
      interval_seconds integer not null check (interval_seconds between 1 and 3600),
      created_at timestamptz not null default now())`);

    // times in ms since 1970. An open version has no end; earliest = latest except where a connection was broken
    await q.query(`create table object_version (
      connection_id uuid not null references connection on delete cascade,
      uid text not null,
      from_ms bigint not null,
      from_earliest_ms bigint not null,
      to_earliest_ms bigint,
      to_ms bigint,
      kind text not null,
      namespace text,
      name text not null,
      object jsonb not null,
      primary key (connection_id, uid, from_ms))`);
    await q.query(`create index object_version_kind on object_version (connection_id, kind, to_ms)`);
    await q.query(`create table cluster_event (
      connection_id uuid not null references connection on delete cascade,
      uid text not null,
      namespace text,
      about_uid text not null,
      about_kind text not null,
      about_name text not null,
      type text not null,
      reason text not null,
      message text not null,
      count integer not null,
      first_ms bigint not null,
      last_ms bigint not null,
      primary key (connection_id, uid))`);
    await q.query(`create index cluster_event_about on cluster_event (connection_id, about_uid, last_ms)`);
    await q.query(`create index cluster_event_place on cluster_event (connection_id, namespace, last_ms)`);

    await q.query(`create table endpoint (
      id serial primary key,
      connection_id uuid not null references connection on delete cascade,
      node text not null,
      retired_at timestamptz,
      history_until_ms bigint,
      unique (connection_id, node))`);
    await q.query(`create table endpoint_gap (
      endpoint_id integer not null references endpoint on delete cascade,
      from_ms bigint not null,
      to_ms bigint,
      reason text not null,
      primary key (endpoint_id, from_ms))`);

    // hot tables: endpoint first in every key (its shard), no joins across endpoints
    await q.query(`create table series (
      id serial primary key,
      endpoint_id integer not null references endpoint on delete cascade,
      identity bytea not null,
      metric text not null,
      labels jsonb not null,
      cumulative boolean not null,
      born_ms bigint not null,
      unique (endpoint_id, identity))`);
    await q.query(`create table layout (
      id serial primary key,
      endpoint_id integer not null references endpoint on delete cascade,
      identity bytea not null,
      series_ids integer[] not null,
      unique (endpoint_id, identity))`);
    await q.query(`create table journal (
      endpoint_id integer not null,
      at_ms bigint not null,
      read_ms bigint not null,
      duration_ms real not null,
      bytes integer not null,
      layout_id integer not null,
      payload bytea not null,
      primary key (endpoint_id, at_ms))`);
    await q.query(`alter table journal alter column payload set storage external`);
    await q.query(`create table chunk (
      endpoint_id integer not null,
      series_id integer not null,
      from_ms bigint not null,
      to_ms bigint not null,
      samples integer not null,
      payload bytea not null,
      primary key (endpoint_id, series_id, from_ms))`);
    await q.query(`alter table chunk alter column payload set storage external`);

    await q.query(`create table team (
      id serial primary key,
      name text not null unique,
      email text not null)`);
    await q.query(`create table team_namespace (
      namespace text primary key,
      team_id integer not null references team on delete cascade)`);

    await q.query(`create table rule (
      id serial primary key,
      kind text not null unique,
      name text not null,
      enabled boolean not null default true,
      severity text not null check (severity in ('critical', 'warning')),
      holds_seconds integer not null,
      eases_seconds integer not null,
      above double precision,
      judged_ms bigint)`);
    await q.query(`insert into rule (kind, name, severity, holds_seconds, eases_seconds, above) values
      ('containerMemory', 'memory of a container near its limit', 'warning', 300, 300, 0.9),
      ('readyPods', 'a workload has fewer ready pods than desired', 'critical', 600, 120, null)`);
    await q.query(`create table alert (
      id serial primary key,
      rule_id integer not null references rule on delete cascade,
      connection_id uuid not null references connection on delete cascade,
      subject text not null,
      severity text not null,
      since_ms bigint not null,
      raised_ms bigint not null,
      ended_ms bigint,
      ended_how text,
      facts jsonb not null)`);
    await q.query(`create index alert_open on alert (raised_ms) where ended_ms is null`);
    await q.query(`create index alert_time on alert (raised_ms)`);
    await q.query(`create table rule_state (
      rule_id integer not null references rule on delete cascade,
      connection_id uuid not null references connection on delete cascade,
      subject text not null,
      state jsonb not null,
      alert_id integer references alert on delete set null,
      primary key (rule_id, connection_id, subject))`);
    await q.query(`create table outbox (
      id serial primary key,
      stable_key text not null unique,
      alert_id integer references alert on delete set null,
      recipient text not null,
      subject text not null,
      body_text text not null,
      body_html text not null,
      created_at timestamptz not null default now(),
      attempts integer not null default 0,
      next_at timestamptz not null default now(),
      sent_at timestamptz,
      dead_at timestamptz,
      last_error text)`);
    await q.query(`create index outbox_due on outbox (next_at) where sent_at is null and dead_at is null`);
  }

  async down(q: QueryRunner): Promise<void> {
    await q.query(
      `drop table outbox, rule_state, alert, rule, team_namespace, team, chunk, journal, layout, series, endpoint_gap, endpoint, cluster_event, object_version, connection, session, person`,
    );
  }
}
