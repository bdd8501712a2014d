import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What a program answered to an action is kept, and messages that are sent together point to the one that they are sent in. */
export class Delivery1764900000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`alter table outbox add column answer text,
      add column folded_into integer references outbox (id) on delete cascade`);
    await q.query(`create index outbox_folded on outbox (folded_into) where folded_into is not null`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`alter table outbox drop column folded_into, drop column answer`);
  }
}
