import { readdirSync, readFileSync } from 'node:fs';
import { createServer, type Server } from 'node:https';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Secrets } from '../src/ground/platform/secrets.ts';
import { connectionTo, people, type Served, serve, standIn, temporaryFolder, until, type Visitor } from './harness.ts';

/** Whatever way a cluster's address is changed, its token goes nowhere else. */
describe('the token of a cluster', () => {
  let world: Awaited<ReturnType<typeof standIn>>;
  let served: Served;
  let administrator: Visitor;
  let id: string;
  /** Answers at another address, vouched for by the same authority, and writes down what it is sent. */
  let elsewhere: Server;
  let address: string;
  const heard: (string | undefined)[] = [];
  const data = temporaryFolder();

  beforeAll(async () => {
    const folder = temporaryFolder();
    world = await standIn({ folder });
    const { authority } = connectionTo(world);
    const { certificate, key } = readdirSync(folder, { recursive: true })
      .map(String)
      .filter((name) => name.endsWith('credentials.json'))
      .map((name) => JSON.parse(readFileSync(join(folder, name), 'utf8')))
      .find((own) => own.authority === authority); // the stand-in keeps it there
    elsewhere = createServer({ cert: certificate, key }, (request, response) => {
      heard.push(request.headers.authorization);
      response.end('{"gitVersion":"v1.31.0"}');
    });
    await new Promise<void>((done) => {
      elsewhere.listen(0, '127.0.0.1', done);
    });
    address = `https://127.0.0.1:${(elsewhere.address() as AddressInfo).port}`;
    served = await serve({ ZETOPSIS_DATA_DIR: data });
    ({ administrator } = await people(served));
    ({
      body: { id },
    } = await administrator.ask('POST', 'connections', connectionTo(world, 1)));
    await reads();
  });
  afterAll(async () => {
    await served.close();
    await world.close();
    elsewhere.close();
  });

  const answer = () => administrator.get(`connections`).then(([one]) => one);
  const reads = () => until('the cluster is read', async () => (await answer()).state === 'reading');
  const told = () =>
    until('it is asked without the token', async () => heard.length > 2 && (await answer()).reason !== null);
  /** It was asked, and nothing it was sent says who asks. */
  const nothingSent = () => {
    expect(heard.filter((sent) => sent !== undefined && sent.trim() !== 'Bearer')).toEqual([]);
    heard.length = 0;
  };
  const file = async () => (await administrator.get('admin/configuration?as=yaml')).text as string;
  const readFile = (text: string) => administrator.ask('POST', 'admin/configuration', { text, tryOnly: false });
  const changed = (more: object) => {
    const { name: _name, ...input } = connectionTo(world, 1);
    return administrator.ask('PATCH', `connections/${id}`, { ...input, token: '', ...more });
  };

  it('is asked for again when its address or authority changes, and nothing changes until then', async () => {
    const { authority } = connectionTo(world);
    for (const more of [{ address }, { authority: '' }, { authority: `${authority}\n${authority}` }]) {
      const refused = await changed(more);
      expect(refused.status).toBe(400);
      expect(refused.body.fields).toEqual([{ path: 'token', text: 'enter it for the new address' }]);
      const tried = await administrator.ask('POST', 'connections/test', {
        ...connectionTo(world),
        ...more,
        token: '',
        connectionId: id,
      });
      expect(tried.body.text).toMatch(/only sent to the address and authority it was given for/);
    }
    expect(await answer()).toMatchObject({ address: connectionTo(world).address, state: 'reading' });
    expect((await changed({ region: 'inner harbour' })).status).toBe(200); // not where it is
    await reads();
    expect(heard).toEqual([]);
  });
  it('is not sent to an address that a file says, and is there again when that is undone', async () => {
    const text = await file();
    const { body } = await readFile(text.replaceAll(connectionTo(world).address, address));
    expect(body.problems).toEqual([]);
    await told();
    nothingSent();
    expect(await answer()).toMatchObject({ reason: expect.stringMatching(/for another address or authority/) });
    await administrator.ask('POST', `admin/revisions/${body.revision}`, { act: 'undo', tryOnly: false });
    await reads();
  });
  it('of a new address is not sent to the old one that an undo brings back', async () => {
    await administrator.ask('PATCH', `connections/${id}`, { ...connectionTo(world, 1), address, token: 'new-secret' });
    await until('it was sent', () => heard.includes('Bearer new-secret'));
    heard.length = 0;
    const { revisions } = await administrator.get('admin/revisions');
    await administrator.ask('POST', `admin/revisions/${revisions[0].id}`, { act: 'undo', tryOnly: false });
    expect(await answer()).toMatchObject({ reason: expect.stringMatching(/for another address or authority/) });
    expect((await changed({ token: connectionTo(world).token })).status).toBe(200);
    await reads();
  });
  it('that a version before kept without a place is bound to the address of now', async () => {
    await served.close();
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    await client.query(`update connection set token_encrypted = $1`, [
      new Secrets(served.config.dataDir).encrypt(connectionTo(world).token),
    ]);
    served = await serve({ ZETOPSIS_DATA_DIR: data }, served.config.databaseUrl);
    ({ administrator } = await people(served));
    await reads();
    const { rows } = await client.query(`select token_encrypted from connection`);
    await client.end();
    expect(new Secrets(served.config.dataDir).decrypt(rows[0].token_encrypted)).toMatch(
      new RegExp(`^${connectionTo(world).address} \\S+\\n`),
    );
    heard.length = 0;
    expect((await changed({ address })).status).toBe(400);
    expect(heard).toEqual([]);
  });
});
