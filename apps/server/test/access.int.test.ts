import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { type StandIn } from '@zetopsis/standin';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AccessService } from '../src/access/access.service.ts';
import { connectionTo, PASSWORD, people, type Served, serve, standIn, Visitor } from './harness.ts';

describe('the first start', () => {
  let served: Served;
  beforeAll(async () => {
    served = await serve();
  });
  afterAll(() => served.close());

  it('makes the administrator with the printed code, once, and nobody without it', async () => {
    const visitor = new Visitor(served.base);
    expect(await visitor.get('session')).toMatchObject({ person: null, firstStart: true, demo: null });
    const input = { name: 'maren', password: PASSWORD };
    const wrong = await visitor.ask('POST', 'first-person', { ...input, code: 'guess' });
    expect(wrong.status).toBe(400);
    expect(wrong.body.fields[0].path).toBe('code');
    const code = await served.app.get(AccessService, { strict: false }).firstStartCode();
    expect(
      (await visitor.ask('POST', 'first-person', { ...input, code, password: 'short' })).body.fields[0],
    ).toMatchObject({ path: 'password' });
    const made = await visitor.ask('POST', 'first-person', { ...input, code });
    expect(made.body).toMatchObject({ name: 'maren', role: 'administrator' });
    expect(made.headers.get('set-cookie')).toMatch(/HttpOnly.*SameSite=Lax/);
    expect(await visitor.get('session')).toMatchObject({ person: { name: 'maren' }, firstStart: false });
    expect((await visitor.ask('POST', 'first-person', { ...input, name: 'other', code })).status).toBe(410);
  });
});

describe('who may do what', () => {
  let served: Served;
  let world: StandIn;
  let all: Awaited<ReturnType<typeof people>>;
  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    all = await people(served);
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  it('every route refuses strangers, and readers where only administrators may', async () => {
    interface Layer {
      route?: { path: string; stack: { method?: string }[] };
    }
    const router = (served.app.getHttpAdapter().getInstance() as { router: { stack: Layer[] } }).router;
    const routes = router.stack.flatMap(({ route }) =>
      route ? route.stack.map(({ method }) => ({ method: (method ?? '').toUpperCase(), path: route.path })) : [],
    );
    const unique = [
      ...new Set(routes.filter(({ path }) => path.startsWith('/api/')).map(({ method, path }) => `${method} ${path}`)),
    ].sort();
    const open = new Set(['GET /api/session', 'POST /api/session', 'POST /api/first-person']);
    const forReaders = new Set(['DELETE /api/session', 'GET /api/live', 'POST /api/session/password']);
    const audited = async () =>
      ((await all.administrator.get('admin/audit')) as { entries: { id: number }[] }).entries[0]?.id ?? 0;
    expect(unique.length).toBeGreaterThan(18);
    const rows: string[] = [];
    let entry = await audited();
    for (const route of unique) {
      const [method = '', path = ''] = route.split(' ');
      const target = path
        .replace('/api/', '')
        .replace(':id', method === 'GET' ? '1' : '00000000-0000-4000-8000-000000000000');
      const stranger = await all.stranger.ask(method, target, method === 'GET' || method === 'DELETE' ? undefined : {});
      if (!open.has(route)) expect([route, stranger.status]).toEqual([route, 401]);
      // every route that changes something leaves its entry, refused ones too
      const before = entry;
      entry = await audited();
      expect([route, entry > before]).toEqual([route, method !== 'GET']);
      let reader: number | string = '–';
      if (!forReaders.has(route) && !open.has(route)) {
        reader = (await all.reader.ask(method, target, method === 'GET' || method === 'DELETE' ? undefined : {}))
          .status;
        if (method !== 'GET') expect([route, reader]).toEqual([route, 403]);
        else if (route.startsWith('GET /api/admin/')) expect([route, reader]).toEqual([route, 403]);
        else expect([route, [200, 400, 404].includes(Number(reader))]).toEqual([route, true]);
        entry = await audited();
      }
      rows.push(`${route.padEnd(34)} stranger ${stranger.status}  reader ${reader}`);
    }
    console.log(rows.join('\n'));
  });

  it('refuses requests that another site’s page sends, cookie or not', async () => {
    const other = await new Visitor(served.base, 'https://elsewhere.test').ask('POST', 'session', {
      name: 'maren',
      password: PASSWORD,
    });
    expect(other.status).toBe(403);
    expect(
      (
        await new Visitor(served.base, 'http://zetopsis.test').ask('POST', 'session', {
          name: 'maren',
          password: PASSWORD,
        })
      ).status,
    ).toBe(200);
  });

  it('says the same for a wrong password and an unknown name, and ends a session for good', async () => {
    const wrong = await new Visitor(served.base).ask('POST', 'session', { name: 'maren', password: 'wrong' });
    const unknown = await new Visitor(served.base).ask('POST', 'session', { name: 'nobody', password: 'wrong' });
    expect([wrong.status, wrong.body]).toEqual([401, unknown.body]);
    const visitor = await new Visitor(served.base).signIn('tove');
    await visitor.ask('DELETE', 'session');
    expect((await visitor.ask('GET', 'sources')).status).toBe(401);
  });

  it('keeps the token encrypted with a key outside the database and never answers it', async () => {
    const input = connectionTo(world);
    const added = await all.administrator.ask('POST', 'connections', input);
    expect(added.status).toBe(201);
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    const { rows } = await client.query('select * from connection');
    await client.end();
    expect(JSON.stringify(rows)).not.toContain(input.token);
    expect(JSON.stringify([added.body, await all.administrator.get('sources')])).not.toContain(input.token);
    const key = join(served.config.dataDir, 'secret-keys.json');
    expect(existsSync(key) && statSync(key).mode & 0o777).toBe(0o600);
    expect(readFileSync(key, 'utf8')).not.toContain(input.token);
  });

  it('answers bad input with the field and what is wrong', async () => {
    const bad = await all.administrator.ask('POST', 'connections', {
      name: 'BAD NAME',
      address: 'ftp://x',
      token: '',
      authority: 'nonsense',
    });
    expect(bad.status).toBe(400);
    expect(bad.body.fields.map(({ path }: { path: string }) => path).sort()).toEqual([
      'address',
      'authority',
      'name',
      'token',
    ]);
    expect((await all.administrator.ask('GET', 'usage?from=5&to=1')).status).toBe(400);
    expect((await all.administrator.ask('GET', 'nothing-here')).status).toBe(404);
  });

  it('slows down guessing', async () => {
    const tries = await Promise.all(
      Array.from({ length: 30 }, () =>
        new Visitor(served.base).ask('POST', 'session', { name: 'maren', password: 'guess' }),
      ),
    );
    expect(tries.some(({ status }) => status === 429)).toBe(true);
  });
});
