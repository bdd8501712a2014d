import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PASSWORD, people, type Served, serve, until, Visitor } from './harness.ts';

interface Entry {
  who: string;
  by: string;
  action: string;
  on: string;
  outcome: string;
  detail: string;
}

describe('people', () => {
  let served: Served;
  let all: Awaited<ReturnType<typeof people>>;
  const list = async (): Promise<{ id: string; name: string; role: string; lastSignInAt: number | null }[]> =>
    all.administrator.get('admin/people');
  const idOf = async (name: string) => (await list()).find((person) => person.name === name)!.id;
  const entries = async (query = ''): Promise<Entry[]> => (await all.administrator.get(`admin/audit${query}`)).entries;

  beforeAll(async () => {
    served = await serve();
    all = await people(served);
  });
  afterAll(() => served.close());

  it('are added, sign in, and are listed with when they last did', async () => {
    const made = await all.administrator.ask('POST', 'admin/people', {
      name: 'Astrid',
      role: 'member',
      password: PASSWORD,
    });
    expect(made).toMatchObject({ status: 201, body: { name: 'astrid', role: 'member', lastSignInAt: null } });
    expect(JSON.stringify(made.body)).not.toContain('argon');
    await new Visitor(served.base).signIn('astrid');
    expect((await list()).find(({ name }) => name === 'astrid')?.lastSignInAt).toBeGreaterThan(Date.now() - 60_000);
    expect(
      await all.administrator.ask('POST', 'admin/people', { name: 'astrid', role: 'member', password: PASSWORD }),
    ).toMatchObject({ status: 409, body: { fields: [{ path: 'name' }] } });
    expect(
      (await all.administrator.ask('POST', 'admin/people', { name: 'x', role: 'king', password: 'short' })).body.fields,
    ).toHaveLength(3);
  });

  it('change their own password only with the old one', async () => {
    const astrid = await new Visitor(served.base).signIn('astrid');
    expect(await astrid.ask('POST', 'session/password', { old: 'wrong', password: 'another long one' })).toMatchObject({
      status: 400,
      body: { fields: [{ path: 'old' }] },
    });
    expect((await astrid.ask('POST', 'session/password', { old: PASSWORD, password: 'another long one' })).status).toBe(
      204,
    );
    expect((await new Visitor(served.base).ask('POST', 'session', { name: 'astrid', password: PASSWORD })).status).toBe(
      401,
    );
    expect(
      (await new Visitor(served.base).ask('POST', 'session', { name: 'astrid', password: 'another long one' })).status,
    ).toBe(200);
  });

  it('a new password or a removal ends their sessions at once', async () => {
    const astrid = new Visitor(served.base);
    await astrid.ask('POST', 'session', { name: 'astrid', password: 'another long one' });
    await all.administrator.ask('PATCH', `admin/people/${await idOf('astrid')}`, { password: PASSWORD });
    expect((await astrid.ask('GET', 'sources')).status).toBe(401);
    await astrid.signIn('astrid');
    expect((await astrid.ask('GET', 'sources')).status).toBe(200);
    expect((await all.administrator.ask('DELETE', `admin/people/${await idOf('astrid')}`)).status).toBe(204);
    expect((await astrid.ask('GET', 'sources')).status).toBe(401);
  });

  it('nobody shuts themselves out, and an administrator always remains', async () => {
    const maren = await idOf('maren');
    expect((await all.administrator.ask('DELETE', `admin/people/${maren}`)).body.text).toMatch(
      /cannot remove yourself/,
    );
    expect((await all.administrator.ask('PATCH', `admin/people/${maren}`, { role: 'member' })).body.text).toMatch(
      /your own administrator/,
    );
    const idris = await idOf('idris');
    expect((await all.administrator.ask('PATCH', `admin/people/${idris}`, { role: 'administrator' })).body.role).toBe(
      'administrator',
    );
    // the role counts from the next request on
    expect((await all.reader.ask('GET', 'admin/people')).status).toBe(200);
    expect((await all.reader.ask('PATCH', `admin/people/${maren}`, { role: 'member' })).status).toBe(200);
    expect((await all.administrator.ask('GET', 'admin/people')).status).toBe(403);
    expect((await all.reader.ask('PATCH', `admin/people/${maren}`, { role: 'administrator' })).status).toBe(200);
    expect((await all.administrator.ask('PATCH', `admin/people/${idris}`, { role: 'member' })).status).toBe(200);
  });

  it('the audit log tells all of it: who, what, on what, with which outcome, and no secret', async () => {
    const told = await entries();
    expect(told).toContainEqual(
      expect.objectContaining({ who: 'maren', by: 'person', action: 'add a person', on: 'Astrid', outcome: 'done' }),
    );
    expect(told).toContainEqual(
      expect.objectContaining({
        who: 'maren',
        action: 'add a person',
        outcome: 'refused',
        detail: expect.stringContaining('already'),
      }),
    );
    expect(told).toContainEqual(
      expect.objectContaining({ who: 'astrid', action: 'sign in', on: 'astrid', outcome: 'done' }),
    );
    expect(told).toContainEqual(
      expect.objectContaining({ by: 'stranger', action: 'sign in', on: 'astrid', outcome: 'refused' }),
    );
    expect(told).toContainEqual(
      expect.objectContaining({ who: 'astrid', action: 'change the own password', outcome: 'done' }),
    );
    await new Visitor(served.base).ask('POST', 'session', { name: 'my-secret-typed-wrong', password: 'x' });
    const text = JSON.stringify(await entries());
    for (const secret of [PASSWORD, 'another long one', 'my-secret-typed-wrong']) expect(text).not.toContain(secret);
  });

  it('is searched, and parted into what people and what Zetopsis did', async () => {
    expect((await entries('?text=ADD%20a%20p')).every(({ action }) => action === 'add a person')).toBe(true);
    expect(await entries('?text=100%25_nothing')).toEqual([]);
    await all.administrator.ask('POST', 'connections', { name: 'dark', address: 'https://127.0.0.1:9', token: 't' });
    const own = await until('Zetopsis’ own entry', async () =>
      (await entries('?by=zetopsis')).find(({ on }) => on === 'dark'),
    );
    expect(own).toMatchObject({
      who: 'Zetopsis',
      action: 'cluster turned blind',
      outcome: 'failed',
      detail: expect.stringContaining('Nothing listens'),
    });
    expect((await entries('?by=people')).some(({ by }) => by === 'zetopsis')).toBe(false);
    const first = await all.administrator.get('admin/audit');
    const older = await all.administrator.get(`admin/audit?before=${first.entries.at(-1).id}`);
    expect(older.entries).toEqual([]);
  });

  it('refuses to be changed, even by the database’s owner', async () => {
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    for (const statement of [`update audit set who = 'nobody'`, 'delete from audit', 'truncate audit'])
      await expect(client.query(statement)).rejects.toThrow('append-only');
    await client.end();
    expect((await entries()).length).toBeGreaterThan(10);
  });
});
