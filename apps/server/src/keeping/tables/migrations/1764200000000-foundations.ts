import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Documents and revisions; what was configured in tables of its own becomes the first revision. */
export class Foundations1764200000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table revision (
      id serial primary key,
      at timestamptz not null default now(),
      by text not null,
      what text not null,
      changes jsonb not null)`);
    await q.query(`create table document (
      kind text not null,
      key text not null,
      body jsonb not null,
      revision_id integer not null references revision,
      primary key (kind, key))`);
    await q.query(`create table access_token (
      id uuid primary key default gen_random_uuid(),
      person_id uuid not null references person on delete cascade,
      name text not null,
      token_hash text not null unique,
      bound jsonb not null,
      created_at timestamptz not null default now(),
      expires_at timestamptz not null,
      last_used_at timestamptz)`);

    await q.query(`alter table person drop constraint person_role_check`);
    await q.query(`create temporary table before_documents (kind text, key text, body jsonb) on commit drop`);
    // a reader read everything: that is a grant now
    await q.query(`insert into before_documents
      select 'grant', left(regexp_replace(name, '[^a-zA-Z0-9-]', '-', 'g'), 40) || '-read-every-cluster',
             jsonb_build_object('person', name, 'may', 'read', 'cluster', null, 'namespace', null)
        from person where role = 'reader'`);
    await q.query(`update person set role = 'member' where role = 'reader'`);
    await q.query(`alter table person add constraint person_role_check check (role in ('administrator', 'member'))`);
    await q.query(`insert into before_documents
      select 'team', 'team-' || id, jsonb_build_object('name', name, 'email', email, 'members', '[]'::jsonb, 'owns',
        coalesce((select jsonb_agg(jsonb_build_object('by', 'name', 'cluster', null, 'namespace', namespace) order by namespace)
                    from team_namespace where team_id = team.id), '[]'::jsonb))
        from team`);
    await q.query(`insert into before_documents
      select 'cluster', name, jsonb_build_object('address', address, 'authority', authority,
        'nodePage', jsonb_build_object('path', node_page_path, 'intervalSeconds', interval_seconds),
        'environment', '', 'region', '', 'flavour', '')
        from connection`);
    await q.query(`insert into before_documents
      select 'rule', kind, jsonb_build_object('name', name, 'enabled', enabled, 'severity', severity,
        'holdsSeconds', holds_seconds, 'easesSeconds', eases_seconds, 'above', above)
        from rule`);
    await q.query(`insert into before_documents values
      ('retention', 'kept', '{"samplesDays": 400, "versionsDays": 400, "eventsDays": 90, "alertsDays": 730}')`);
    await q.query(`with first as (
      insert into revision (by, what, changes)
        select 'Zetopsis', 'what was configured at the start',
               jsonb_agg(jsonb_build_object('kind', kind, 'key', key, 'before', null, 'after', body) order by kind, key)
          from before_documents returning id)
      insert into document select kind, key, body, first.id from before_documents, first`);

    await q.query(`drop table team_namespace, team`);
    await q.query(`alter table connection drop column address, drop column authority, drop column node_page_path,
      drop column interval_seconds`);
    await q.query(`alter table rule drop column name, drop column enabled, drop column severity,
      drop column holds_seconds, drop column eases_seconds, drop column above`);

    await q.query(`alter table audit drop constraint audit_by_check`);
    await q.query(
      `alter table audit add constraint audit_by_check check (by in ('person', 'token', 'zetopsis', 'stranger'))`,
    );
  }
  async down(): Promise<void> {
    throw new Error('revisions cannot be taken back: restore the backup that was made before the upgrade');
  }
}
