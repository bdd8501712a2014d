import { rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import { join } from 'node:path';
import { startDemo } from '../scripts/demo.mjs';
import { STATE, type TestState } from './state.ts';

/**
 * One product for all browser tests, on an empty database, read every two seconds, with stories 600 times as fast: a round of
 * the leak takes 54 s. A small helper on loopback lets a test stop and start the stand-in world.
 */
export default async function setup() {
  const folder = join(process.cwd(), '.zetopsis', 'browser-tests');
  rmSync(folder, { recursive: true, force: true });
  const database = { name: 'browser-postgres', port: 25_650, durable: false };
  await emptyDatabase(database);
  const demo = await startDemo({
    folder,
    database,
    port: 8584,
    standInPort: 26_400,
    pace: 600,
    intervalSeconds: 2,
    historyHours: 0,
  });
  const helper = createServer((request, response) => {
    const act =
      request.url === '/stop'
        ? demo.stopStandIn()
        : request.url === '/start'
          ? demo.startStandIn()
          : Promise.reject(new Error('unknown'));
    act.then(
      () => response.end('done'),
      (error: unknown) => response.writeHead(500).end(String(error)),
    );
  });
  await new Promise<void>((done) => helper.listen(0, '127.0.0.1', done));
  const address = helper.address();
  if (typeof address !== 'object' || address === null) throw new Error('no port');
  const state: TestState = {
    address: demo.address,
    password: demo.password,
    world: demo.world,
    helper: `http://127.0.0.1:${address.port}`,
  };
  writeFileSync(STATE, JSON.stringify(state), { mode: 0o600 });
  return async () => {
    helper.close();
    await demo.stop();
  };
}

async function emptyDatabase(database: { name: string; port: number; durable: boolean }): Promise<void> {
  const { startPostgres } = await import('../scripts/postgres.mjs');
  const postgres = await startPostgres(database);
  const { default: pg } = await import('pg');
  const client = new pg.Client(postgres.url);
  await client.connect();
  await client.query('drop schema public cascade; create schema public');
  await client.end();
}
