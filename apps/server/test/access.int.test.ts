import { existsSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { StandIn } from '@zetopsis/standin';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AccessService } from '../src/asking/access/access.service.ts';
import { connectionTo, PASSWORD, people, type Served, serve, standIn, until, Visitor, withToken } from './harness.ts';

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

const UUID = '00000000-0000-4000-8000-000000000000';

/** A body that is well formed, so that what refuses is the grant and not the schema. */
function bodyFor(route: string, world: StandIn): unknown {
  const { token, ...connection } = connectionTo(world);
  if (route.includes('/connections')) return { ...connection, token };
  if (route.includes('/pods/ports')) return { cluster: 'seaward', namespace: 'tides', pod: 'no-such-pod' };
  if (route.includes('/measures/saved')) return { title: 'Everything', text: 'read everything' };
  const rule = { name: 'Everything', when: { is: 'fewer ready' }, levels: { warning: {} } };
  if (route === 'PUT /api/rules/:key/stricter') return { team: 'no-such-team', warning: 0.5 };
  if (route.includes('/rules/rehearse')) return { document: rule, from: Date.now() - 60_000, to: Date.now() };
  if (route.includes('/rules')) return rule;
  if (route.includes('/channels'))
    return { document: { name: 'Everything', team: 'no-such-team', address: 'http://hooks.test/x' }, secret: 'x' };
  if (route.includes('/hushes')) return { reason: 'Everything', when: { is: 'maintenance' } };
  if (route.includes('/stretches/:key/end')) return {};
  if (route.includes('/stretches'))
    return {
      kind: 'load',
      title: 'Everything',
      from: new Date().toISOString(),
      scope: ['seaward'],
      team: 'no-such-team',
    };
  if (route.includes('/masks')) return { title: 'Everything', pattern: 'x+' };
  if (route.includes('/follows')) return { cluster: 'seaward', namespace: 'manifests' };
  if (route.includes('/alerts/')) return { note: 'I look at it' };
  if (route.includes('/session/password')) return { old: 'not this one', password: 'a long new password' };
  return {};
}

/** Questions that are too long for an address: they change nothing. */
const ASKS: ReadonlySet<string> = new Set(['POST /api/measures/evaluate', 'POST /api/rules/rehearse']);

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

  it('says the same for a wrong password and an unknown name, and ends a session for good', async () => {
    const wrong = await new Visitor(served.base).ask('POST', 'session', { name: 'maren', password: 'wrong' });
    const unknown = await new Visitor(served.base).ask('POST', 'session', { name: 'nobody', password: 'wrong' });
    expect([wrong.status, wrong.body]).toEqual([401, unknown.body]);
    const visitor = await new Visitor(served.base).signIn('tove');
    await visitor.ask('DELETE', 'session');
    expect((await visitor.ask('GET', 'sources')).status).toBe(401);
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

  it('every route answers each kind of asker as it should', async () => {
    interface Layer {
      route?: { path: string; stack: { method?: string }[] };
    }
    await all.administrator.ask('POST', 'connections', connectionTo(world));
    const seaward = (await all.administrator.get('connections'))[0].id;
    const router = (served.app.getHttpAdapter().getInstance() as { router: { stack: Layer[] } }).router;
    const routes = router.stack.flatMap(({ route }) =>
      route ? route.stack.map(({ method }) => ({ method: (method ?? '').toUpperCase(), path: route.path })) : [],
    );
    const unique = [
      ...new Set(routes.filter(({ path }) => path.startsWith('/api/')).map(({ method, path }) => `${method} ${path}`)),
    ].sort();
    expect(unique.length).toBeGreaterThan(40);
    /** For those who have a push key; what is pushed is not written down, and stands in the endpoint's history. */
    const pushed = [
      'POST /api/push/v1/metrics',
      'POST /api/push/v1/logs',
      'POST /api/push/v1/traces',
      'POST /api/push/page/:sender',
    ];
    const open = new Set(['GET /api/session', 'POST /api/session', 'POST /api/first-person', ...pushed]);
    /** Only for the person at the page; asked with nothing that would do harm. */
    const inPerson = new Set([
      'DELETE /api/session',
      'GET /api/live',
      'POST /api/session/password',
      'DELETE /api/session/others',
      'GET /api/tokens',
      'POST /api/tokens',
      'DELETE /api/tokens/:id',
      'GET /api/views',
      'POST /api/views',
      'DELETE /api/views/:id',
    ]);
    const keptOpen = new Set(['DELETE /api/session', 'GET /api/live']);
    /** Not for administrators alone: these ask for a level in one place, or for a team. */
    const inPlace = new Set([
      'DELETE /api/connections/:id',
      'PATCH /api/connections/:id',
      'POST /api/connections/test',
      'POST /api/deliveries/:id/retry',
      'POST /api/imports',
      'POST /api/pods/ports',
      'DELETE /api/imports/:id',
      'POST /api/measures/saved',
      'PUT /api/measures/saved/:key',
      'DELETE /api/measures/saved/:key',
      'POST /api/rules',
      'PUT /api/rules/:key',
      'DELETE /api/rules/:key',
      'POST /api/rules/:key/judge',
      'POST /api/alerts/:id/take',
      'POST /api/channels',
      'PUT /api/channels/:key',
      'DELETE /api/channels/:key',
      'POST /api/channels/:key/test',
      'POST /api/hushes',
      'DELETE /api/hushes/:key',
      'PUT /api/rules/:key/stricter',
      'POST /api/stretches',
      'PUT /api/stretches/:key',
      'POST /api/stretches/:key/end',
      'DELETE /api/stretches/:key',
      'POST /api/masks',
      'POST /api/masks/preview',
      'PUT /api/masks/:key',
      'DELETE /api/masks/:key',
      'POST /api/follows',
      'PUT /api/follows/:key',
      'DELETE /api/follows/:key',
    ]);
    const askers = {
      stranger: all.stranger,
      nobody: all.nobody,
      'other team': all.developer,
      reader: all.reader,
      operator: all.operator,
      'read token': await withToken(served, all.administrator, { level: 'read' }),
      'tides token': await withToken(served, all.administrator, {
        level: 'administer',
        cluster: 'seaward',
        namespace: 'tides',
      }),
    };
    const newestEntry = async () => (await all.administrator.get('admin/audit')).entries[0]?.id ?? 0;
    let newest = await newestEntry();
    const rows = [
      `${'route'.padEnd(44)}${Object.keys(askers)
        .map((name) => name.padEnd(13))
        .join('')}`,
    ];
    for (const route of unique) {
      const [method = '', path = ''] = route.split(' ');
      const id = path.includes('connections')
        ? seaward
        : path.includes('people') || path.includes('tokens')
          ? UUID
          : path.includes('traces')
            ? 'a'.repeat(32)
            : '1';
      const query =
        path === '/api/usage/log'
          ? '?in=seaward/tides&pod=no-such-pod&container=main'
          : path === '/api/measures/labels'
            ? '?of=vital&name=container.cpu.time'
            : path === '/api/map/link'
              ? `?caller=seaward/no-such/deployment:one&answerer=seaward/no-such/deployment:two&from=${Date.now() - 600_000}`
              : path.endsWith('/series')
                ? '?metric=any'
                : /usage|now|records|\/map$/.test(path)
                  ? `?in=seaward&from=${Date.now() - 600_000}`
                  : path === '/api/imports'
                    ? '?cluster=seaward&node=seaward-01&what=samples'
                    : '';
      const target = path.replace('/api/', '').replace(':id', id).replace(':key', 'no-such-key') + query;
      const body = ['GET', 'DELETE'].includes(method) ? undefined : bodyFor(route, world);
      const answers: Record<string, number> = {};
      for (const [name, asker] of Object.entries(askers)) {
        if (keptOpen.has(route) && name !== 'stranger' && !name.includes('token')) continue;
        if (open.has(route) && name !== 'stranger') continue; // the same for everybody, and slowed down
        answers[name] = (await asker.ask(method, target, body)).status;
        // every try that would change something leaves its entry, refused ones too
        // what strangers are refused again and again is summed up later
        if (
          method !== 'GET' &&
          !pushed.includes(route) &&
          !ASKS.has(route) &&
          !(open.has(route) && name === 'stranger')
        ) {
          const before = newest;
          newest = await newestEntry();
          expect([route, name, newest > before]).toEqual([route, name, true]);
        }
      }
      rows.push(
        route.padEnd(44) +
          Object.keys(askers)
            .map((name) => String(answers[name] ?? '–').padEnd(13))
            .join(''),
      );
      if (open.has(route)) continue;
      expect([route, answers['stranger']]).toEqual([route, 401]);
      const known = Object.entries(answers).filter(([name]) => name !== 'stranger');
      for (const [name, status] of known) {
        const token = name.includes('token');
        if (inPerson.has(route)) expect([route, name, status === 403]).toEqual([route, name, token]);
        else if (route.includes('/api/admin/') && method === 'GET')
          // an administrator's token that may read everything reads no administration: that needs administering
          expect([route, name, status]).toEqual([route, name, 403]);
        // what everybody may ask, each within the own grants
        else if (ASKS.has(route)) expect([route, name, [200, 400, 403].includes(status)]).toEqual([route, name, true]);
        else if (method !== 'GET' && !inPlace.has(route)) expect([route, name, status]).toEqual([route, name, 403]);
        else if (route === 'POST /api/alerts/:id/take' && name === 'operator')
          // who operates seaward takes its alerts, where there is one of this number
          expect([route, name, [204, 404, 409].includes(status)]).toEqual([route, name, true]);
        else if (method !== 'GET')
          // what asks for a level in a place: nobody here administers seaward as a whole
          expect([route, name, [403, 404].includes(status)]).toEqual([route, name, true]);
        else expect([route, name, [200, 403, 404].includes(status)]).toEqual([route, name, true]);
      }
    }
    console.log(rows.join('\n'));
  }); // every route, asked by everybody

  it('a developer sees the own namespaces, and of others no name in any answer', async () => {
    const window = `from=${Date.now() - 3_600_000}`;
    await until('everything was listed', async () => {
      const { columns } = await all.reader.get(`usage?in=seaward&${window}`);
      return columns[1]?.rows.some(({ key }: { key: string }) => key === 'tides');
    });
    const usage = await all.developer.get(`usage?in=seaward&${window}`);
    expect(usage.columns[1].rows.map(({ key }: { key: string }) => key).sort()).toEqual([
      'boarding',
      'ticketing',
      '~free',
      '~itself',
      '~others',
      '~unused',
    ]);
    const whole = await all.reader.get(`usage?in=seaward&${window}`);
    const pods = (columns: { rows: { pods: number }[] }[]) => columns[1]!.rows.reduce((sum, row) => sum + row.pods, 0);
    expect(pods(usage.columns)).toBe(pods(whole.columns));
    const seen: string[] = [];
    for (const path of [
      `now?${window}`,
      `usage?in=seaward&${window}`,
      `usage?in=seaward/ticketing/deployment:booking-front&${window}`,
      `usage/object?in=seaward&${window}`,
      `usage/object?in=seaward/ticketing&${window}`,
      `usage/tape?${window}`,
      'rules',
      'sources',
      'connections',
      'session',
    ])
      seen.push(JSON.stringify(await all.developer.get(path)));
    for (const name of ['tides', 'tide-model', 'manifests', 'declaration-checker', 'pier-data', 'berths', 'pilotage'])
      expect([name, seen.findIndex((text) => text.includes(name))]).toEqual([name, -1]);
    const hidden = await all.developer.ask('GET', `usage/object?in=seaward/tides/deployment:tide-model&${window}`);
    const invented = await all.developer.ask('GET', `usage/object?in=seaward/no-such-place/deployment:x&${window}`);
    expect([hidden.status, invented.status]).toEqual([403, 403]);
    expect(hidden.body.text.replace('tides', 'X')).toBe(invented.body.text.replace('no-such-place', 'X'));
    // a node's page speaks of every pod on it
    const { endpoints } = await all.reader.get('sources');
    const node = endpoints.find(({ kind }: { kind: string }) => kind === 'node');
    expect((await all.developer.ask('GET', `endpoints/${node.id}/page`)).status).toBe(403);
  });

  it('a token never reaches further than its bounds, nor than its person', async () => {
    const window = `from=${Date.now() - 3_600_000}`;
    const namespaces = async (visitor: Visitor): Promise<string[]> =>
      (await visitor.get(`usage?in=seaward&${window}`)).columns[1].rows.map(({ key }: { key: string }) => key).sort();
    const narrow = await withToken(served, all.reader, { level: 'administer', cluster: 'seaward', namespace: 'tides' });
    expect(await namespaces(narrow)).toEqual(['tides', '~free', '~itself', '~others', '~unused']);
    const wide = await withToken(served, all.developer, { level: 'administer' });
    expect(await namespaces(wide)).toEqual(['boarding', 'ticketing', '~free', '~itself', '~others', '~unused']);
    const elsewhere = await withToken(served, all.reader, { level: 'read', cluster: 'landward' });
    expect((await elsewhere.get(`usage?${window}`)).columns[0].rows).toEqual([]);
    const [kept] = await all.reader.get('tokens');
    expect(kept.lastUsedAt).toBeGreaterThan(Date.now() - 60_000);
    expect(JSON.stringify(await all.reader.get('tokens'))).not.toContain('zet_');
    await all.reader.ask('DELETE', `tokens/${kept.id}`);
    expect((await elsewhere.ask('GET', `usage?${window}`)).status).toBe(401);
    expect((await new Visitor(served.base, null, 'zet_guess').ask('GET', 'sources')).status).toBe(401);
  });

  it('says what a person can see, and why', async () => {
    const all_ = await all.administrator.get('admin/people');
    const sight = await all.administrator.get(
      `admin/people/${all_.find(({ name }: { name: string }) => name === 'tove').id}/sight`,
    );
    expect(sight).toMatchObject({ person: 'tove', teams: ['Ferries'] });
    expect(sight.clusters[0].namespaces).toEqual([
      { namespace: 'boarding', level: 'operate', why: ['team Ferries owns it by its name'] },
      { namespace: 'ticketing', level: 'operate', why: ['team Ferries owns it by its name'] },
    ]);
    expect(sight.clusters[0].hidden).toBe(10);
    await all.administrator.ask('POST', 'admin/grants', {
      person: 'tove',
      may: 'administer',
      cluster: 'seaward',
      namespace: 'ticketing',
    });
    const again = await all.administrator.get(
      `admin/people/${all_.find(({ name }: { name: string }) => name === 'tove').id}/sight`,
    );
    expect(again.clusters[0].namespaces[1]).toEqual({
      namespace: 'ticketing',
      level: 'administer',
      why: ['grant tove-administer-seaward-ticketing', 'team Ferries owns it by its name'],
    });
  });

  it('keeps the token encrypted with a key outside the database and never answers it', async () => {
    const input = { ...connectionTo(world), name: 'seaward-again' };
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
