import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { backUp, restore } from '../../../scripts/backup.mjs';
import { LeaseService } from '../src/keeping/store/lease.service.ts';
import { NewestReadings } from '../src/keeping/store/newestReadings.ts';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import { StoreWorkers } from '../src/keeping/store/storeWorkers.service.ts';
import { connectionTo, newDatabase, people, type Served, serve, standIn, temporaryFolder, until } from './harness.ts';

const MEMORY = 'container_memory_working_set_bytes';

describe('backup and restore', () => {
  let world: Awaited<ReturnType<typeof standIn>>;
  let served: Served;
  const folder = temporaryFolder();
  beforeAll(async () => {
    world = await standIn();
    served = await serve();
  });
  afterAll(async () => {
    await world.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('into an empty database and an empty folder finds everything: samples, states, configuration, secrets, audit', async () => {
    const { administrator } = await people(served);
    expect((await administrator.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
    const samples = served.app.get(SamplesService, { strict: false });
    await until(
      'some readings',
      () => samples.select(MEMORY).filter((id) => samples.recent(id).times.length > 3).length > 50,
    );
    const [id] = samples.select(MEMORY);
    // some of it packed, some of it not
    const endpoint = samples.endpointOf(id!)!;
    const until_ = Date.now() - 1500;
    const newest = served.app.get(NewestReadings, { strict: false });
    newest.beginPacking(endpoint, until_);
    await served.app.get(StoreWorkers, { strict: false }).do<'pack'>({
      kind: 'pack',
      epoch: served.app.get(LeaseService, { strict: false }).epoch,
      endpoint,
      until: until_,
    });
    newest.packedTo(endpoint, until_, 0);
    newest.endPacking(endpoint);

    // while it goes on reading
    const file = join(folder, 'backup');
    await backUp({ databaseUrl: served.config.databaseUrl, dataDir: served.config.dataDir, file });
    const to = Date.now() - 5000;
    const before = await samples.read({ ids: samples.select(MEMORY), from: 0, to });
    const facts = async (one: Served, visitor: typeof administrator) => ({
      revisions: (await visitor.get('admin/revisions')).revisions.length,
      teams: (await visitor.get('admin/teams')).teams.map(({ name }: { name: string }) => name),
      retention: (await visitor.get('admin/retention')).keep,
      kinds: (await visitor.get('sources')).connections[0].kinds
        .filter(({ kind }: { kind: string }) => kind === 'node' || kind === 'namespace')
        .map(({ count }: { count: number }) => count),
      audit: (await visitor.get('admin/audit')).entries.some(
        ({ action }: { action: string }) => action === 'connect a cluster',
      ),
      series: one.app.get(SamplesService, { strict: false }).select(MEMORY).length > 50,
    });
    const wanted = await facts(served, administrator);
    await served.close();

    const databaseUrl = await newDatabase();
    const dataDir = join(folder, 'data');
    await restore({ databaseUrl, dataDir, file });
    const again = await serve({ ZETOPSIS_DATA_DIR: dataDir }, databaseUrl);
    try {
      const others = await people(again);
      const other = again.app.get(SamplesService, { strict: false });
      // the token of the cluster is readable with the key that was in the backup: reading goes on
      await until(
        'it reads',
        async () => (await others.administrator.get('sources')).connections[0].state === 'reading',
      );
      expect(await facts(again, others.administrator)).toEqual(wanted);
      const after = await other.read({ ids: [...before.keys()], from: 0, to });
      for (const [one, { times, values }] of before) {
        const found = after.get(one)!;
        const count = [...times].filter((at) => at <= to).length;
        expect([...found.times].filter((at) => at <= to)).toEqual([...times].slice(0, count));
        expect([...found.values].slice(0, count)).toEqual([...values].slice(0, count));
      }
    } finally {
      await again.close();
    }
  });

  it('refuses to restore over something, and from something that is no backup', async () => {
    const databaseUrl = await newDatabase();
    const client = new pg.Client(databaseUrl);
    await client.connect();
    await client.query('create table person (id int)');
    await client.end();
    const file = join(folder, 'backup');
    await expect(restore({ databaseUrl, dataDir: join(folder, 'fresh'), file })).rejects.toThrow(/is not empty/);
    const other = join(folder, 'other');
    mkdirSync(other);
    writeFileSync(join(other, 'secret-keys.json'), '{"keys": []}');
    await expect(restore({ databaseUrl: await newDatabase(), dataDir: other, file })).rejects.toThrow(
      /holds the keys of another installation/,
    );
    writeFileSync(join(folder, 'no-backup'), 'nothing');
    await expect(
      restore({ databaseUrl: await newDatabase(), dataDir: join(folder, 'fresh'), file: join(folder, 'no-backup') }),
    ).rejects.toThrow(/is no backup/);
  });
});
