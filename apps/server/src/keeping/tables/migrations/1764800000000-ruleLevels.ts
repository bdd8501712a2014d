import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Rules have keys of their own and two levels, each with a state; what they look at may stand in no cluster. An alert of a rule
 * on trial is kept, and told to nobody; somebody may take one, with a note, and a hush may
 * keep one quiet. Documents of rules are read in their old form as well.
 */
export class RuleLevels1764800000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table rule rename column kind to key`);
    // what was raised stands on the level that it was told with
    await q.query(`update rule_state set state = case
        when coalesce(
          (select severity from alert where alert.id = rule_state.alert_id),
          (select body->>'severity' from rule join document on document.kind = 'rule' and document.key = rule.key
            where rule.id = rule_state.rule_id)) = 'critical'
        then jsonb_build_object('warning', '{"kind": "clear"}'::jsonb, 'critical', state)
        else jsonb_build_object('warning', state, 'critical', '{"kind": "clear"}'::jsonb) end`);
    for (const table of ['alert', 'rule_state']) {
      if (table === 'rule_state') await q.query(`alter table rule_state drop constraint rule_state_pkey`);
      await q.query(`alter table ${table} alter column connection_id drop not null`);
    }
    await q.query(`alter table rule_state add constraint rule_state_one
      unique nulls not distinct (rule_id, connection_id, subject)`);
    await q.query(`alter table alert add column trial boolean not null default false, add column taken jsonb,
      add column hush_key text, add column hushed text`);
    await q.query(`alter table outbox add column channel text`);
    await q.query(`create table channel_secret (channel text primary key, secret_encrypted text not null)`);
    await q.query(`create index alert_rule on alert (rule_id, raised_ms)`);
  }
  async down(): Promise<void> {
    throw new Error('this upgrade cannot be taken back: restore the backup that was made before it');
  }
}
