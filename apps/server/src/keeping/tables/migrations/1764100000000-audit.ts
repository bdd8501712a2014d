import type { MigrationInterface, QueryRunner } from 'typeorm';

export class Audit1764100000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table audit (
      id serial primary key,
      at timestamptz not null default now(),
      by text not null check (by in ('person', 'zetopsis', 'stranger')),
      who text not null,
      action text not null,
      target text not null,
      outcome text not null check (outcome in ('done', 'refused', 'failed')),
      detail text not null,
      address text not null)`);
    // append-only, whoever asks: entries are never changed or taken back
    await q.query(`create function audit_is_append_only() returns trigger language plpgsql as
      $$ begin raise exception 'the audit log is append-only'; end $$`);
    await q.query(`create trigger audit_append_only before update or delete or truncate on audit
      for each statement execute function audit_is_append_only()`);
    await q.query(`alter table person add column last_sign_in_at timestamptz`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`alter table person drop column last_sign_in_at`);
    await q.query(`drop table audit`);
    await q.query(`drop function audit_is_append_only`);
  }
}
