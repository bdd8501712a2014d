import { existsSync, readdirSync } from 'node:fs';
import { connect } from 'node:net';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { AccessService } from '../src/asking/access/access.service.ts';
import { Turns } from '../src/ground/platform/turns.ts';
import { connectionTo, PASSWORD, people, type Served, serve, standIn, until, Visitor, withToken } from './harness.ts';

let served: Served;
let all: Awaited<ReturnType<typeof people>>;
let database: pg.Client;
beforeAll(async () => {
  served = await serve();
  all = await people(served);
  database = new pg.Client(served.config.databaseUrl);
  await database.connect();
});
afterAll(async () => {
  await database.end();
  await served.close();
});
const idOf = async (name: string): Promise<string> =>
  (await all.administrator.get('admin/people')).find((one: { name: string }) => one.name === name).id;
const statuses = async (asks: Promise<{ status: number }>[]) =>
  (await Promise.all(asks)).map(({ status }) => status).sort((a, b) => a - b);

describe('two at the same moment', () => {
  it('administrators who demote each other leave one', async () => {
    for (let round = 0; round < 4; round++) {
      await all.administrator.ask('PATCH', `admin/people/${await idOf('idris')}`, { role: 'administrator' });
      const other = await new Visitor(served.base).signIn('idris');
      const [maren, idris] = [await idOf('maren'), await idOf('idris')];
      const ends = await statuses([
        all.administrator.ask('PATCH', `admin/people/${idris}`, { role: 'member' }),
        other.ask('PATCH', `admin/people/${maren}`, { role: 'member' }),
      ]);
      expect(ends[0]).toBe(200);
      expect([403, 409]).toContain(ends[1]);
      const { rows } = await database.query(`select name from person where role = 'administrator'`);
      expect(rows).toHaveLength(1);
      // whoever is left gives it back
      if (rows[0].name === 'idris') {
        expect((await other.ask('PATCH', `admin/people/${maren}`, { role: 'administrator' })).status).toBe(200);
        await all.administrator.ask('PATCH', `admin/people/${idris}`, { role: 'member' });
      }
    }
  });
  it('of the same name are one, and the others are told so', async () => {
    const person = { name: 'solveig', role: 'member', password: PASSWORD };
    const team = { name: 'Lamps', email: 'lamps@skerrivale.test', members: [], owns: [] };
    const grant = { person: 'jonas', may: 'read', cluster: 'nowhere' };
    const world = await standIn();
    try {
      for (const [path, body] of [
        ['admin/people', person],
        ['admin/teams', team],
        ['admin/grants', grant],
        ['connections', connectionTo(world)],
        ['views', { name: 'the same', address: '/usage' }],
      ] as const) {
        const ends = await statuses(Array.from({ length: 6 }, () => all.administrator.ask('POST', path, body)));
        expect([path, ends.filter((status) => status >= 500)]).toEqual([path, []]);
        if (path !== 'views') expect([path, ends.filter((status) => status < 300).length]).toEqual([path, 1]);
      }
    } finally {
      for (const { id } of await all.administrator.get('connections'))
        await all.administrator.ask('DELETE', `connections/${id}`);
      await world.close();
    }
  });
  it('first administrators are one', async () => {
    const fresh = await serve();
    try {
      const code = await fresh.app.get(AccessService, { strict: false }).firstStartCode();
      const ends = await statuses(
        ['one', 'two', 'three', 'four'].map((name) =>
          new Visitor(fresh.base).ask('POST', 'first-person', { code, name, password: PASSWORD }),
        ),
      );
      expect(ends).toEqual([201, 410, 410, 410]);
    } finally {
      await fresh.close();
    }
  });
});

describe('sessions and tokens', () => {
  const alive = async (visitor: Visitor) => (await visitor.ask('GET', 'sources')).status === 200;
  it('other sessions end with the password, one’s own goes on', async () => {
    const [here, there] = [
      await new Visitor(served.base).signIn('nore'),
      await new Visitor(served.base).signIn('nore'),
    ];
    const password = 'another long password';
    expect((await here.ask('POST', 'session/password', { old: PASSWORD, password })).status).toBe(204);
    expect([await alive(here), await alive(there)]).toEqual([true, false]);
    const reset = await all.administrator.ask('PATCH', `admin/people/${await idOf('nore')}`, { password: PASSWORD });
    expect(reset.status).toBe(200);
    expect(await alive(here)).toBe(false);
  });
  it('are ended by their person and by an administrator', async () => {
    const [here, there] = [
      await new Visitor(served.base).signIn('nore'),
      await new Visitor(served.base).signIn('nore'),
    ];
    expect((await here.ask('DELETE', 'session/others')).status).toBe(204);
    expect([await alive(here), await alive(there)]).toEqual([true, false]);
    const id = await idOf('nore');
    expect((await all.developer.ask('DELETE', `admin/people/${id}/sessions`)).status).toBe(403);
    expect((await all.administrator.ask('DELETE', `admin/people/${id}/sessions`)).status).toBe(204);
    expect(await alive(here)).toBe(false);
  });
  it('tokens are seen and revoked by an administrator, and end with their person', async () => {
    await all.administrator.ask('POST', 'admin/people', { name: 'signe', role: 'member', password: PASSWORD });
    const id = await idOf('signe');
    const signe = await new Visitor(served.base).signIn('signe');
    const [one, two] = [
      await withToken(served, signe, { level: 'read' }),
      await withToken(served, signe, { level: 'read' }),
    ];
    const listed = await all.administrator.get(`admin/people/${id}/tokens`);
    expect(listed).toHaveLength(2);
    expect(JSON.stringify(listed)).not.toContain('zet_');
    expect((await all.developer.ask('GET', `admin/people/${id}/tokens`)).status).toBe(403);
    // the newest stands first
    expect((await all.administrator.ask('DELETE', `admin/people/${id}/tokens/${listed[0].id}`)).status).toBe(204);
    expect([await alive(one), await alive(two)]).toEqual([true, false]);
    await all.administrator.ask('DELETE', `admin/people/${id}`);
    expect([await alive(one), await alive(signe)]).toEqual([false, false]);
  });
});

describe('a stranger', () => {
  /** What the server says to a request whose body is begun and never finished. */
  const unfinished = (path: string, headers: string[], sent: string) =>
    new Promise<{ text: string; closed: boolean }>((done) => {
      const { hostname, port } = new URL(served.base);
      const socket = connect({ host: hostname, port: Number(port) });
      let text = '';
      const end = (closed: boolean) => {
        socket.destroy();
        done({ text, closed });
      };
      socket.on('error', () => undefined);
      socket.on('data', (data: Buffer) => {
        text += data.toString();
      });
      socket.on('close', () => end(true));
      setTimeout(() => end(false), 5000);
      socket.write(
        [`POST ${path} HTTP/1.1`, `Host: ${hostname}`, 'Content-Length: 8000000', ...headers, '', sent].join('\r\n'),
      );
    });
  it('is refused before anything of a push is kept', async () => {
    const piece = 'a'.repeat(500_000);
    const before = process.memoryUsage().rss;
    const answers = await Promise.all(
      Array.from({ length: 30 }, () =>
        unfinished(
          '/api/push/v1/metrics',
          ['Content-Type: application/x-protobuf', 'Authorization: Bearer zp_x'],
          piece,
        ),
      ),
    );
    for (const { text, closed } of answers) {
      expect(text).toMatch(/^HTTP\/1.1 401/);
      expect(closed).toBe(true);
    }
    expect(process.memoryUsage().rss - before).toBeLessThan(60 * 2 ** 20);
  });
  it('sends no more than it takes to sign in', async () => {
    const large = { name: 'maren', password: 'x'.repeat(20_000) };
    expect((await all.stranger.ask('POST', 'session', large)).status).toBe(413);
    expect((await all.stranger.ask('POST', 'admin/configuration', { text: 'x'.repeat(20_000) })).status).toBe(413);
    expect(
      (await all.administrator.ask('POST', 'admin/configuration', { text: `# ${'x'.repeat(20_000)}` })).status,
    ).toBe(400);
  });
  it('that fills the audit log fills two rows of it', async () => {
    const count = async () =>
      (await database.query(`select count(*)::int as n from audit where by = 'stranger' and action = 'make a token'`))
        .rows[0].n;
    const before = await count();
    for (let i = 0; i < 40; i++) await all.stranger.ask('POST', 'tokens', {});
    expect(await count()).toBe(before + 1);
    const other = await serve({}, served.config.databaseUrl);
    for (let i = 0; i < 5; i++) await new Visitor(other.base).ask('POST', 'tokens', {});
    await other.close();
    const { rows } = await database.query(
      `select detail from audit where by = 'stranger' and action = 'make a token' order by id desc limit 1`,
    );
    expect(rows[0].detail).toMatch(/^4 more within 10 min, from .*: Sign in first/);
  });
  it('guesses more and more slowly, and keeps nobody out who has been here before', async () => {
    const maren = await new Visitor(served.base).signIn('maren');
    const guess = () => new Visitor(served.base).ask('POST', 'session', { name: 'maren', password: 'guess' });
    let waits = 0;
    for (let i = 0; i < 7; i++) {
      const { status, body, headers } = await guess();
      if (status !== 429) continue;
      waits++;
      expect(body.text).toMatch(/too many wrong passwords for this name: try again in \d+ s|Too many tries/);
      expect(Number(headers.get('retry-after'))).toBeGreaterThan(0);
    }
    expect(waits).toBeGreaterThan(0);
    const again = await maren.ask('POST', 'session', { name: 'maren', password: PASSWORD });
    expect(again.status).toBe(200);
  });
});

describe('answers', () => {
  it('are kept by nobody on the way', async () => {
    for (const path of ['session', 'sources', 'nothing-here'])
      expect((await all.administrator.ask('GET', path)).headers.get('cache-control')).toBe('no-store');
  });
  it('to NUL and to numbers past all are refusals, never failures', async () => {
    const from = `from=${Date.now() - 60_000}`;
    for (const path of [
      'admin/audit?text=%00',
      'find?q=%00',
      `usage?in=%00&${from}`,
      `usage/table?in=seaward&${from}&level=pod&find=%00`,
      'endpoints/99999999999/page',
      'endpoints/2147483648/history',
      'admin/revisions/99999999999',
      'admin/revisions?before=99999999999',
      'admin/audit?before=2147483648',
      'usage?from=-1e300',
      'usage?from=1e300',
    ])
      expect([path, (await all.administrator.ask('GET', path)).status < 500]).toEqual([path, true]);
    for (const [method, path, body] of [
      ['DELETE', 'views/99999999999', undefined],
      ['PATCH', 'rules/2147483648', { enabled: true }],
      ['POST', 'deliveries/99999999999/retry', {}],
      ['DELETE', 'imports/99999999999', undefined],
      ['POST', 'admin/people', { name: 'nul\u0000', role: 'member', password: PASSWORD }],
      ['POST', 'tokens', { name: 'nul\u0000', days: 1, bound: { level: 'read' } }],
      ['POST', 'views', { name: 'nul\u0000', address: '/usage' }],
    ] as const)
      expect([path, (await all.administrator.ask(method, path, body)).status < 500]).toEqual([path, true]);
  });
});

describe('an import that is cancelled', () => {
  it('leaves no file, whether it had begun or not', async () => {
    const world = await standIn();
    try {
      const { body: connection } = await all.administrator.ask('POST', 'connections', {
        ...connectionTo(world),
        name: 'imported',
      });
      expect(connection.id).toBeDefined();
      const folder = join(served.config.dataDir, 'imports');
      const files = () => (existsSync(folder) ? readdirSync(folder) : []);
      const send = () =>
        fetch(`${served.base}/api/imports?cluster=imported&what=states%20of%20objects`, {
          method: 'POST',
          headers: { 'content-type': 'text/plain', cookie: all.administrator.session },
          body: `${'{"not":"a state"}\n'.repeat(200_000)}`,
        }).then((response) => response.json() as Promise<{ id: number }>);
      const [first, second] = [await send(), await send()];
      expect(files().length).toBeGreaterThan(0);
      await all.administrator.ask('DELETE', `imports/${second.id}`);
      await all.administrator.ask('DELETE', `imports/${first.id}`);
      await until('both are over', async () =>
        (await all.administrator.get('imports')).imports.every(
          ({ endedAt }: { endedAt: number | null }) => endedAt !== null,
        ),
      );
      await until('no file is left', () => files().length === 0);
      await all.administrator.ask('DELETE', `connections/${connection.id}`);
    } finally {
      await world.close();
    }
  });
});

describe('a question', () => {
  it('about more pods than are worked out at once is refused with how to narrow it, and holds up nobody', async () => {
    const world = await standIn();
    const { body: connection } = await all.administrator.ask('POST', 'connections', {
      ...connectionTo(world),
      name: 'crowded',
    });
    try {
      const usage = (days: number) => `usage/table?in=crowded&level=container&from=${Date.now() - days * 86_400_000}`;
      await until('its pods are known', async () => (await all.administrator.get(usage(0.01))).rows.length > 50);
      const day = Date.now() - 10 * 86_400_000;
      await database.query(
        `insert into object_version (connection_id, uid, from_ms, from_earliest_ms, to_ms, to_earliest_ms, kind, namespace, name, object)
         select connection_id, 'past-' || n, $2::bigint, $2::bigint, $2::bigint + 60000, $2::bigint + 60000, kind, namespace, 'past-' || n,
                object || jsonb_build_object('uid', 'past-' || n, 'name', 'past-' || n, 'createdAt', $2::bigint)
           from (select * from object_version where connection_id = $1 and kind = 'pod' limit 1) pod, generate_series(1, 36001) n`,
        [connection.id, day],
      );
      const large = all.administrator.ask('GET', usage(20));
      const small: number[] = [];
      let answered = false;
      void large.then(() => {
        answered = true;
      });
      while (!answered) small.push((await all.developer.ask('GET', 'session')).status);
      const { status, body } = await large;
      expect([status, body.code]).toEqual([413, 'tooLarge']);
      expect(body.text).toMatch(/3\d,?\d{3} pods of crowded, more than the 36,?000 pods .* Choose a shorter window/);
      expect(new Set(small)).toEqual(new Set([200]));
      expect(small.length).toBeGreaterThan(3);
      // a shorter window is answered
      expect((await all.administrator.ask('GET', usage(1))).status).toBe(200);
    } finally {
      await all.administrator.ask('DELETE', `connections/${connection.id}`);
      await world.close();
    }
  });
  it('of somebody who left is not worked on any more', async () => {
    const turns = served.app.get(Turns, { strict: false });
    const leave = new AbortController();
    const from = Date.now() - 3_600_000;
    const asked = Array.from({ length: 30 }, (_, i) =>
      fetch(`${served.base}/api/usage?in=&from=${from - i}`, {
        headers: { cookie: all.reader.session },
        signal: leave.signal,
      }).catch(() => null),
    );
    leave.abort();
    await Promise.all(asked);
    await until('nothing is worked on', () => turns.busy === 0);
    expect((await all.reader.ask('GET', 'session')).status).toBe(200);
  });
});

describe('the end', () => {
  it('is not held up by who listens, nor by a request that is never finished', async () => {
    const own = await serve();
    const { administrator } = await people(own);
    const news = await fetch(`${own.base}/api/live`, { headers: { cookie: administrator.session } });
    const { hostname, port } = new URL(own.base);
    const socket = connect({ host: hostname, port: Number(port) });
    socket.on('error', () => undefined);
    socket.write(
      `POST /api/views HTTP/1.1\r\nHost: z\r\nCookie: ${administrator.session}\r\nContent-Type: application/json\r\nContent-Length: 900\r\n\r\n{`,
    );
    await news.body?.getReader().read();
    await own.close();
    socket.destroy();
  });
});
