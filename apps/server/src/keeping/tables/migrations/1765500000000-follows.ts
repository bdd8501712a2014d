import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Up to where the lines of containers that are followed were taken, and what is missing of them. */
export class Follows1765500000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    await q.query(`create table followed_container (
      place text primary key,
      stamp text not null,
      same integer not null,
      head text,
      restarts integer not null,
      at_ms bigint not null)`);
    await q.query(`create table line_gap (
      cluster text not null,
      namespace text not null,
      workload text not null,
      pod text not null,
      container text not null,
      from_ms bigint not null,
      to_ms bigint not null,
      why text not null,
      primary key (cluster, namespace, pod, container, from_ms))`);
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`drop table line_gap`);
    await q.query(`drop table followed_container`);
  }
}
