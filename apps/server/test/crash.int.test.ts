import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { decodeFrame } from '@zetopsis/core/samples';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort, type RunningPostgres, startPostgres } from '../../../scripts/postgres.mjs';
import { connectionTo, PASSWORD, standIn, temporaryFolder, until, Visitor } from './harness.ts';

const MAIN = fileURLToPath(new URL('../dist/main.js', import.meta.url));

/** The product as its own process, to be killed; against a PostgreSQL that keeps its promises (fsync on). */
describe('kill -9', () => {
  let postgres: RunningPostgres;
  let world: Awaited<ReturnType<typeof standIn>>;
  let port: number;
  let server: ChildProcess;
  const dataDir = temporaryFolder();
  /** Newest reading of each endpoint that the product said it has: endpoint → times. */
  const said = new Map<number, Set<number>>();

  const start = async () => {
    server = spawn(process.execPath, [MAIN], {
      env: {
        ...process.env,
        ZETOPSIS_DATABASE_URL: postgres.url,
        ZETOPSIS_DATA_DIR: dataDir,
        ZETOPSIS_PORT: String(port),
        ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
        ZETOPSIS_LOG_LEVEL: 'error',
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let printed = '';
    server.stdout?.on('data', (text: Buffer) => (printed += text.toString()));
    await until('the server', async () => (await fetch(`http://127.0.0.1:${port}/api/session`)).ok, 30_000);
    return () => printed;
  };
  const kill = async () => {
    const gone = once(server, 'exit');
    server.kill('SIGKILL');
    await gone;
  };
  const listen = async (visitor: Visitor) => {
    for (const { id, lastReadingAt } of (await visitor.get('sources')).endpoints) {
      if (lastReadingAt === null) continue;
      if (!said.has(id)) said.set(id, new Set());
      said.get(id)?.add(lastReadingAt);
    }
    return [...said.values()].reduce((sum, times) => sum + times.size, 0);
  };

  beforeAll(async () => {
    postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
    const client = new pg.Client(postgres.url);
    await client.connect();
    await client.query('drop schema public cascade; create schema public');
    await client.end();
    world = await standIn();
    port = await freePort(25_900);
  });
  afterAll(async () => {
    server?.kill('SIGKILL');
    await world.close();
    postgres.stop();
    rmSync(dataDir, { recursive: true, force: true });
  });

  it('of the server in mid-reading, and of PostgreSQL, loses no reading that was said to be taken, and doubles none', async () => {
    const printed = await start();
    const code = await until('the one-time code', () => /one-time code: (\S+)/.exec(printed())?.[1]);
    const visitor = new Visitor(`http://127.0.0.1:${port}`);
    expect((await visitor.ask('POST', 'first-person', { code, name: 'maren', password: PASSWORD })).status).toBe(201);
    expect((await visitor.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
    for (let round = 1; round <= 3; round++) {
      const before = await listen(visitor);
      await until(`thirty more readings in round ${round}`, async () => (await listen(visitor)) >= before + 30, 30_000);
      await kill();
      if (round === 2) {
        postgres.crash();
        postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
      }
      await start();
    }
    const before = await listen(visitor);
    await until('reading goes on', async () => (await listen(visitor)) > before + 14, 30_000);

    const client = new pg.Client(postgres.url);
    await client.connect();
    const { rows } = await client.query(
      'select j.endpoint_id, j.at_ms::float8 as at, j.payload, l.series_ids, e.node from journal j join layout l on l.id = j.layout_id join endpoint e on e.id = j.endpoint_id',
    );
    await client.end();
    const stored = new Map(rows.map((row) => [`${row.endpoint_id} ${row.at}`, row]));
    expect(stored.size).toBe(rows.length);
    let checked = 0;
    for (const [endpoint, times] of said) {
      for (const at of times) {
        const row = stored.get(`${endpoint} ${at}`);
        expect([endpoint, at, row !== undefined]).toEqual([endpoint, at, true]);
        expect(decodeFrame(row.payload).values).toHaveLength(row.series_ids.length);
        checked++;
      }
    }
    expect(checked).toBeGreaterThan(90);
    // and what is stored is what the page held then
    const row = rows.at(-1)!;
    const page = (await world.look(`/page?node=${row.node}&at=${row.at}`)) as string;
    expect(decodeFrame(row.payload).values).toHaveLength(
      page.split('\n').filter((line) => line !== '' && !line.startsWith('#')).length,
    );
    console.log(
      `${checked} readings said to be taken, all ${checked} found after three kills of the server and one of PostgreSQL`,
    );
  }, 180_000);
});
