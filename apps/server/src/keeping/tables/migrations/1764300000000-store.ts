import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The store at full strength: a ring of journal partitions, chunks and roll-ups by time, and the lease on writing. */
export class Store1764300000000 implements MigrationInterface {
  async up(q: QueryRunner): Promise<void> {
    // one writer at a time: what it writes bears its epoch, and is refused once another has taken over
    await q.query(`create table lease (
      name text primary key,
      holder text not null,
      epoch integer not null,
      until_ms bigint not null)`);
    // taking over changes a key, so it waits for writes under way; renewing does not, and does not wait
    await q.query(`create unique index lease_epoch on lease (name, epoch)`);

    const reading = `
      endpoint_id integer not null,
      at_ms bigint not null,
      read_ms bigint not null,
      duration_ms real not null,
      bytes integer not null,
      layout_id integer not null,
      epoch integer not null,
      payload bytea not null,
      primary key (endpoint_id, at_ms)`;
    // what waits to be packed and is not in the ring: it came late, or from before this version
    await q.query(`create table journal_late (${reading})`);
    await q.query(`alter table journal_late alter column payload set storage external`);
    await q.query(`insert into journal_late
      select endpoint_id, at_ms, read_ms, duration_ms, bytes, layout_id, 0, payload from journal`);
    await q.query(`drop table journal`);
    await q.query(`create table journal (${reading}) partition by range (at_ms)`);
    await q.query(`alter table journal alter column payload set storage external`);
    // readings up to here are in chunks; days before here are joined, and rolled up by the hour
    await q.query(`create table packed (
      endpoint_id integer primary key,
      until_ms bigint not null,
      joined_ms bigint not null)`);
    await q.query(`insert into packed select endpoint_id, max(to_ms), 0 from chunk group by endpoint_id`);

    await q.query(`alter table chunk rename to chunk_before`);
    await q.query(`alter index chunk_pkey rename to chunk_before_pkey`);
    await q.query(`create table chunk (
      endpoint_id integer not null,
      series_id integer not null,
      from_ms bigint not null,
      to_ms bigint not null,
      samples integer not null,
      payload bytea not null,
      primary key (endpoint_id, series_id, from_ms)) partition by range (from_ms)`);
    await q.query(`alter table chunk alter column payload set storage external`);
    await q.query(`create table chunk_p0 partition of chunk for values from (minvalue) to (0)`);
    await q.query(`do $$ declare day bigint; begin
      for day in select distinct from_ms / 86400000 from chunk_before loop
        execute format('create table chunk_p%s partition of chunk for values from (%s) to (%s) with (toast_tuple_target = 8160)',
          day, day * 86400000, (day + 1) * 86400000);
      end loop; end $$`);
    await q.query(`insert into chunk select * from chunk_before`);
    await q.query(`drop table chunk_before`);
    await q.query(`drop table chunk_p0`);

    for (const table of ['rollup_five', 'rollup_hour']) {
      await q.query(`create table ${table} (
        endpoint_id integer not null,
        series_id integer not null,
        from_ms bigint not null,
        to_ms bigint not null,
        buckets bytea not null,
        count bytea not null,
        sum bytea,
        squares bytea,
        min bytea,
        max bytea,
        first bytea not null,
        last bytea,
        increase bytea,
        primary key (endpoint_id, series_id, from_ms)) partition by range (from_ms)`);
      for (const column of ['buckets', 'count', 'sum', 'squares', 'min', 'max', 'first', 'last', 'increase'])
        await q.query(`alter table ${table} alter column ${column} set storage external`);
    }

    await q.query(`alter table series add column ended_ms bigint`);
    await q.query(`create table store_size (at_ms bigint primary key, bytes bigint not null, samples bigint not null)`);

    // one length for all samples became one for each tier; who never chose gets what the design names
    const limits = `'{"fiveMinutesDays": 90, "hoursDays": 400, "lateMinutes": 60, "pageMegabytes": 32,
      "seriesPerEndpoint": 200000, "seriesPerTeam": 500000, "seriesInAll": 2000000, "spaceGigabytes": 0}'::jsonb`;
    await q.query(`update document set body = body || ${limits} where kind = 'retention'`);
    await q.query(`update document set body = jsonb_set(body, '{samplesDays}', '15')
      where kind = 'retention' and body->>'samplesDays' = '400'`);
  }
  async down(): Promise<void> {
    throw new Error('this upgrade cannot be taken back: restore the backup that was made before it');
  }
}
