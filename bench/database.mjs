// A PostgreSQL of the benchmarks' own, durable as the product's, and a fresh database in it.
import pg from 'pg';
import { startPostgres } from '../scripts/postgres.mjs';

export async function benchDatabase() {
  const postgres = await startPostgres({ name: 'bench-postgres', port: 25_700 });
  const admin = new pg.Client(postgres.url);
  await admin.connect();
  await admin.query('drop database if exists bench with (force)');
  await admin.query('create database bench');
  await admin.end();
  const url = postgres.url.replace(/\/[^/]*$/, '/bench');
  const { migrate } = await import('../apps/server/dist/keeping/tables/database.js');
  await migrate(url);
  const client = new pg.Client(url);
  await client.connect();
  await client.query(`set timezone = 'UTC'`);
  return {
    url,
    client,
    async end() {
      await client.end();
      postgres.stop();
    },
  };
}
/** Bytes of a table with its partitions and indexes. */
export async function sizeOf(client, ...tables) {
  let bytes = 0;
  for (const table of tables) {
    const { rows } = await client.query(
      `select sum(pg_total_relation_size(oid))::float8 as bytes from pg_class
        where oid in (select $1::regclass union all select inhrelid from pg_inherits where inhparent = $1::regclass)`,
      [table],
    );
    bytes += rows[0].bytes;
  }
  return bytes;
}
