import pg from 'pg';
import { DataSource } from 'typeorm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { RetentionService } from '../src/keeping/retention/retention.service.ts';
import { dataSourceOptions, migrate } from '../src/keeping/tables/database.ts';
import {
  connectionTo,
  newDatabase,
  owned,
  people,
  type Served,
  serve,
  standIn,
  until,
  type Visitor,
} from './harness.ts';

describe('the configuration', () => {
  let served: Served;
  let administrator: Visitor;
  let world: Awaited<ReturnType<typeof standIn>>;
  const revisions = async () => (await administrator.get('admin/revisions')).revisions;
  const newest = async () => (await revisions())[0];
  const file = async (as = 'yaml'): Promise<string> => (await administrator.get(`admin/configuration?as=${as}`)).text;
  const read = (text: string, tryOnly: boolean) => administrator.ask('POST', 'admin/configuration', { text, tryOnly });
  const teams = async () => (await administrator.get('admin/teams')).teams;

  beforeAll(async () => {
    world = await standIn();
    served = await serve();
    ({ administrator } = await people(served));
    await administrator.ask('POST', 'connections', connectionTo(world, 1));
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  it('keeps every change as a revision: who, when, what', async () => {
    expect(await newest()).toMatchObject({
      by: 'maren',
      what: 'connected seaward',
      changes: [{ kind: 'cluster', key: 'seaward', was: 'added' }],
    });
    await administrator.ask('POST', 'admin/teams', {
      name: 'Süd Tides',
      email: 'tides@skerrivale.test',
      owns: [owned('tides')],
    });
    const { id } = await newest();
    expect((await administrator.get(`admin/revisions/${id}`)).differences[0]).toMatchObject({
      key: 'sud-tides',
      was: 'added',
      lines: expect.arrayContaining([{ is: 'added', text: 'email: tides@skerrivale.test' }]),
    });
    const ids = (await revisions()).map((revision: { id: number }) => revision.id);
    expect((await administrator.get(`admin/revisions?before=${ids[0]}`)).revisions[0].id).toBe(ids[1]);
    expect((await administrator.ask('GET', 'admin/revisions/999999')).status).toBe(404);
  });

  it('is written out, changed, tried, read back and undone; the audit tells it all', async () => {
    const before = await file();
    expect(before).not.toContain(connectionTo(world).token);
    const changed = before
      .replace('tides@skerrivale.test', 'ebb@skerrivale.test')
      .replace('intervalSeconds: 1', 'intervalSeconds: 2');
    const tried = await read(changed, true);
    expect(tried.body).toMatchObject({ problems: [], revision: null });
    expect(tried.body.differences.map(({ kind, key, was }: Record<string, string>) => [kind, key, was])).toEqual([
      ['cluster', 'seaward', 'changed'],
      ['team', 'sud-tides', 'changed'],
    ]);
    expect(await file()).toBe(before);
    const done = await read(changed, false);
    expect(done.body.revision).toBe((await newest()).id);
    expect((await administrator.get('connections'))[0].nodePage.intervalSeconds).toBe(2);
    expect(await file()).toBe(changed);
    expect((await read(changed, false)).body).toEqual({ problems: [], differences: [], revision: null, along: [] });
    const turned = await administrator.ask('POST', `admin/revisions/${done.body.revision}`, {
      act: 'undo',
      tryOnly: false,
    });
    expect(turned.body.revision).toBe(done.body.revision + 1);
    expect(await file()).toBe(before);
    expect((await administrator.get('connections'))[0].nodePage.intervalSeconds).toBe(1);
    const told = (await administrator.get('admin/audit')).entries.slice(0, 4);
    expect(told.map(({ action, on }: Record<string, string>) => [action, on])).toEqual([
      ['turn the configuration back', `undo revision ${done.body.revision}`],
      ['read a configuration file', ''],
      ['read a configuration file', ''],
      ['read a configuration file', 'a try only'],
    ]);
    // JSON is read as well as YAML
    expect((await read(await file('json'), true)).body).toEqual({
      problems: [],
      differences: [],
      revision: null,
      along: [],
    });
  });

  it('says how much hangs on what, by hand and by file; what is wrong is refused and changes nothing', async () => {
    const place = (namespace: string, workload: string | null, is: string) => ({ namespace, workload, is });
    const document = {
      label: 'weight',
      places: [place('ticketing', null, 'critical'), place('nowhere', null, 'trial')],
    };
    expect(await administrator.get('criticality/seaward')).toEqual({
      cluster: 'seaward',
      label: 'criticality',
      places: [],
    });
    const { status, body } = await administrator.ask('PUT', 'criticality/seaward', document);
    expect(status).toBe(200);
    expect(body.places).toEqual([
      { ...document.places[0], because: 'a person says so', gone: false, byPerson: true },
      { ...document.places[1], because: 'a person says so', gone: true, byPerson: true },
    ]);
    expect(await file()).toMatch(/criticality:\n {2}seaward:\n {4}label: weight\n/);
    const rows = await administrator.get(`usage/object?in=seaward/ticketing&from=${Date.now() - 60_000}`);
    expect(rows.facts).toContainEqual({ name: 'criticality', text: 'critical, as was said of it' });
    for (const wrong of [
      { label: 'weight', places: [place('ticketing', null, 'grave')] },
      { label: 'weight', places: [place('ticketing', null, 'trial'), place('ticketing', null, 'critical')] },
      { label: 'weight', places: [place('ticketing', 'web', 'trial')] },
      { label: '', places: [] },
    ])
      expect((await administrator.ask('PUT', 'criticality/seaward', wrong)).status).toBe(400);
    expect((await administrator.ask('PUT', 'criticality/nowhere', { places: [] })).status).toBe(404);
    const unknown = (await file()).replace('criticality:\n  seaward:', 'criticality:\n  nowhere:');
    expect((await read(unknown, true)).body.problems[0].text).toMatch(/no cluster called nowhere/);
    expect((await administrator.ask('PUT', 'criticality/seaward', { places: [] })).status).toBe(200);
    expect(await newest()).toMatchObject({ changes: [{ kind: 'criticality', key: 'seaward', was: 'removed' }] });
  });
  it('a file with problems changes nothing and says on which lines they are', async () => {
    const text = (await file()).replace('namespace: tides', 'namespace: ticketing');
    const { body } = await read(text, false);
    expect(body.revision).toBeNull();
    expect(body.problems).toEqual([
      expect.objectContaining({ text: 'ticketing belongs to Ferries. Remove it there first.' }),
    ]);
    const lines = text.split('\n');
    const team = lines.findIndex((line) => line.includes('sud-tides:'));
    // lines count from 1, and the problem is with what the team owns
    expect(lines.slice(team, team + 8)).toContain(lines[body.problems[0].line - 1]);
    const grants = await read('zetopsis: 1\nteams: {}\n', true);
    expect(grants.body.problems).toEqual([]); // no grant speaks of a team here
    await administrator.ask('POST', 'admin/grants', { team: 'ferries', may: 'read', cluster: 'seaward' });
    expect((await read('zetopsis: 1\nteams: {}\n', true)).body.problems[0].text).toMatch(/given to team ferries/);
    // rules may all go, and others come
    expect((await read('zetopsis: 1\nrules: {}\n', true)).body.differences).toHaveLength(2);
    expect((await read('zetopsis: 1\nretention: {}\n', true)).body.problems[0].text).toMatch(/needs an entry/);
    expect((await administrator.ask('POST', 'admin/grants', { person: 'nobody-at-all', may: 'read' })).status).toBe(
      409,
    );
  });

  it('undoes only what was not changed again, and returns to any revision', async () => {
    const put = (email: string) =>
      administrator.ask('PUT', 'admin/teams/sud-tides', { name: 'Süd Tides', email, owns: [owned('tides')] });
    await put('one@skerrivale.test');
    const first = (await newest()).id;
    await put('two@skerrivale.test');
    const refused = await administrator.ask('POST', `admin/revisions/${first}`, { act: 'undo', tryOnly: false });
    expect(refused).toMatchObject({ status: 409, body: { text: expect.stringContaining(`in revision ${first + 1}`) } });
    const tried = await administrator.ask('POST', `admin/revisions/${first}`, { act: 'return', tryOnly: true });
    expect(tried.body.differences).toHaveLength(1);
    await administrator.ask('POST', `admin/revisions/${first}`, { act: 'return', tryOnly: false });
    expect((await teams()).find(({ key }: { key: string }) => key === 'sud-tides').email).toBe('one@skerrivale.test');
    expect((await newest()).what).toBe(`returned to revision ${first}`);
  });

  it('takes later revisions of the same documents along, and what those changed besides', async () => {
    const team = (key: string, email: string) =>
      administrator.ask('PUT', `admin/teams/${key}`, { name: key, email, owns: [] });
    const made = (key: string, email: string) =>
      administrator.ask('POST', 'admin/teams', { name: key, email, owns: [] });
    await made('along-one', 'along@skerrivale.test');
    const first = (await newest()).id;
    await made('apart', 'apart@skerrivale.test');
    const { text } = await administrator.get('admin/configuration?as=yaml');
    // one revision that changes both
    const both = text.replace('along@skerrivale.test', 'more@skerrivale.test').replace('apart@', 'further@');
    const file = await administrator.ask('POST', 'admin/configuration', { text: both, tryOnly: false });
    expect([file.body.problems, file.body.differences.length]).toEqual([[], 2]);
    await team('apart', 'furthest@skerrivale.test');
    const undo = (body: object) => administrator.ask('POST', `admin/revisions/${first}`, { act: 'undo', ...body });
    expect((await undo({ tryOnly: false })).status).toBe(409);
    const tried = await undo({ tryOnly: true });
    expect(tried.body.along.map(({ id }: { id: number }) => id)).toEqual([first + 3, first + 2]);
    const done = await undo({ along: true, tryOnly: false });
    expect(done.body.differences.map(({ key, was }: { key: string; was: string }) => `${key} ${was}`)).toEqual([
      'apart changed',
      'along-one removed',
    ]);
    const left = await teams();
    expect(left.find(({ key }: { key: string }) => key === 'apart').email).toBe('apart@skerrivale.test');
    expect(left.some(({ key }: { key: string }) => key === 'along-one')).toBe(false);
    expect((await newest()).what).toBe(`took revisions ${first}, ${first + 2}, ${first + 3} back`);
    // taken back itself, everything is as it was
    await administrator.ask('POST', `admin/revisions/${(await newest()).id}`, { act: 'undo', tryOnly: false });
    expect((await teams()).find(({ key }: { key: string }) => key === 'apart').email).toBe('furthest@skerrivale.test');
  });

  it('a cluster that comes back by an undo is blind until somebody enters its token', async () => {
    const [{ id }] = await administrator.get('connections');
    await administrator.ask('DELETE', `connections/${id}`);
    expect(await administrator.get('connections')).toEqual([]);
    await administrator.ask('POST', `admin/revisions/${(await newest()).id}`, { act: 'undo', tryOnly: false });
    const [back] = await administrator.get('connections');
    expect(back.id).not.toBe(id);
    expect(back.reason).toMatch(/No token is kept/);
    const { name: _, ...settings } = connectionTo(world);
    await administrator.ask('PATCH', `connections/${back.id}`, settings);
    await until('it reads again', async () => (await administrator.get('connections'))[0].state === 'reading');
  });

  it('a person who goes leaves no grant and no membership behind', async () => {
    await administrator.ask('PUT', 'admin/teams/ferries', {
      name: 'Ferries',
      email: 'ferries@skerrivale.test',
      members: ['tove', 'nore'],
      owns: [],
    });
    const all = await administrator.get('admin/people');
    await administrator.ask('DELETE', `admin/people/${all.find(({ name }: { name: string }) => name === 'nore').id}`);
    expect((await teams()).find(({ key }: { key: string }) => key === 'ferries').members).toEqual(['tove']);
    expect(JSON.stringify(await administrator.get('admin/grants'))).not.toContain('nore');
  });

  it('keeps data for as long as is configured', async () => {
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    const old = Date.now() - 40 * 86_400_000;
    const [{ id }] = await administrator.get('connections');
    await client.query(
      `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, to_ms, to_earliest_ms, kind, name, object)
       values ($1, 'old', $2, $2, $3, $3, 'node', 'old', '{}'), ($1, 'still', $2, $2, null, null, 'node', 'still', '{}')`,
      [id, old, old + 1000],
    );
    const keep = { samplesDays: 30, versionsDays: 30, eventsDays: 30, alertsDays: 30 };
    expect((await administrator.ask('PUT', 'admin/retention', { ...keep, eventsDays: 0 })).status).toBe(400);
    expect((await administrator.ask('PUT', 'admin/retention', keep)).status).toBe(204);
    await served.app.get(RetentionService, { strict: false }).clean();
    const { rows } = await client.query(`select uid from object_version where uid in ('old', 'still')`);
    await client.end();
    expect(rows).toEqual([{ uid: 'still' }]);
    const answer = await administrator.get('admin/retention');
    expect(answer.keep).toMatchObject(keep);
    expect(answer.held.find(({ what }: { what: string }) => what === 'states of objects').bytes).toBeGreaterThan(0);
    expect((await administrator.get('admin/audit?by=zetopsis')).entries[0]).toMatchObject({
      action: 'removed what is past its time',
      on: 'states of objects',
    });
  });
});

describe('an upgrade', () => {
  it('turns what was configured before into the first revision, and readers into grants', async () => {
    const url = await newDatabase();
    const source = await new DataSource({
      ...dataSourceOptions(url),
      migrations: (dataSourceOptions(url).migrations as unknown[]).slice(0, 2) as never,
    }).initialize(); // the first two, by their order
    await source.runMigrations({ transaction: 'each' });
    await source.query(
      `insert into person (name, password_hash, role) values ('lund', 'x', 'reader'), ('maren', 'x', 'administrator')`,
    );
    await source.query(`insert into team (name, email) values ('Tides', 'tides@skerrivale.test')`);
    await source.query(`insert into team_namespace select 'tides', id from team`);
    await source.query(`insert into connection (name, address, token_encrypted, authority, node_page_path, interval_seconds)
      values ('seaward', 'https://127.0.0.1:9', 'k.x.y.z', '', '/metrics', 15)`);
    await source.destroy();
    await migrate(url);
    const client = new pg.Client(url);
    await client.connect();
    const { rows } = await client.query(`select kind, key, body from document order by kind, key`);
    const { rows: roles } = await client.query(`select name, role from person order by name`);
    const { rows: first } = await client.query(`select by, jsonb_array_length(changes) as changes from revision`);
    await client.end();
    expect(rows.map(({ kind, key }) => `${kind} ${key}`)).toEqual([
      'cluster seaward',
      'grant lund-read-every-cluster',
      'retention kept',
      'rule containerMemory',
      'rule readyPods',
      'team team-1',
    ]);
    expect(rows.at(-1).body.owns).toEqual([{ by: 'name', cluster: null, namespace: 'tides' }]);
    expect(roles).toEqual([
      { name: 'lund', role: 'member' },
      { name: 'maren', role: 'administrator' },
    ]);
    expect(first).toEqual([{ by: 'Zetopsis', changes: 6 }]);
  });
});
