import type { FollowsAnswer, LinesAnswer } from '@zetopsis/contract';
import { Entries, givenLine } from '@zetopsis/core/lines';
import { Agent, request } from 'undici';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  connectionTo,
  newDatabase,
  people,
  type Served,
  serve,
  standIn,
  temporaryFolder,
  until,
  type Visitor,
} from './harness.ts';

let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let administrator: Visitor;
let developer: Visitor;
let databaseUrl: string;
const dataDir = temporaryFolder();
async function start(): Promise<void> {
  served = await serve({ ZETOPSIS_DATA_DIR: dataDir }, databaseUrl);
  ({ administrator, developer } = await people(served));
}
beforeAll(async () => {
  databaseUrl = await newDatabase();
  world = await standIn({ clusters: ['seaward'] });
  await start();
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 15))).status).toBe(201);
  await until('the inventory', async () => (await administrator.get(`find?q=archive`)).found.length > 0);
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

const ARCHIVE = 'seaward/pier-data/stateful-set:archive';
const QUEUE = 'seaward/pier-data/stateful-set:queue';
const state = async (): Promise<FollowsAnswer> => administrator.get('follows');
const lines = async (path: string, from: number, to: number): Promise<LinesAnswer> =>
  administrator.get(`records/lines?${new URLSearchParams({ in: path, from: String(from), to: String(to) })}`);

/** What the container truly wrote, entry by entry, between two moments. */
async function written(from: number, to: number): Promise<string[]> {
  const { address, token, authority } = connectionTo(world);
  const path = '/api/v1/namespaces/pier-data/pods/archive-0/log?container=archive&timestamps=true';
  const { body } = await request(`${address}${path}`, {
    dispatcher: new Agent({ connect: { ca: authority } }),
    headers: { authorization: `Bearer ${token}` },
  });
  const entries = new Entries();
  const all = (await body.text()).split('\n').flatMap((line) => {
    const given = givenLine(line);
    return given === null ? [] : (entries.push(given) ?? []);
  });
  return [...all, ...[entries.end()].flatMap((one) => one ?? [])].flatMap(({ at, text }) =>
    at >= from && at < to ? [text.replaceAll(/operator\d@skerrivale\.example/g, '‹mail›')] : [],
  );
}
/** Oldest first, as they are kept. */
const kept = async (from: number, to: number) =>
  (await lines(ARCHIVE, from, to)).lines.map(({ text }) => text).reverse();

describe('log lines that are read from the cluster', () => {
  let key: string;
  const began = Date.now();
  it('are let be read by whoever owns the namespace, in a cluster that is there', async () => {
    const document = { cluster: 'seaward', namespace: 'pier-data', workloads: ['archive'], note: '' };
    expect((await developer.ask('POST', 'follows', document)).status).toBeGreaterThanOrEqual(403);
    expect((await administrator.ask('POST', 'follows', { ...document, cluster: 'leeward' })).status).toBe(409);
    const { status, body } = await administrator.ask('POST', 'follows', document);
    expect(status).toBe(201);
    key = body.key;
    const { namespaces } = await state();
    expect(namespaces.find(({ namespace }) => namespace === 'pier-data')?.workloads).toContain('archive');
    expect(((await developer.get('follows')) as FollowsAnswer).follows).toEqual([]);
  });
  it('are there once each, in their order, as entries, masked, with what was written shortly before', async () => {
    await until('lines', async () => (await state()).follows[0]!.state.lines > 20);
    const from = began - 8 * 60_000;
    const to = Date.now() - 5000;
    await until('what was written', async () => {
      const [is, was] = [await kept(from, to), await written(from, to)];
      return is.length === Math.min(100, was.length);
    });
    const truly = await written(from, to);
    expect(await kept(from, to)).toEqual(truly.slice(-100));
    expect(truly.some((text) => text.includes('\n') && text.endsWith('check sum differs'))).toBe(true);
    expect(truly.some((text) => text.includes('‹mail›'))).toBe(true);
    const one = (await lines(ARCHIVE, from, to)).lines[0]!;
    expect(one).toMatchObject({ pod: 'archive-0', container: 'archive' });
    const [{ state: own }] = (await state()).follows as [FollowsAnswer['follows'][number]];
    expect(own).toMatchObject({ open: 1, waiting: [], tooMany: 0 });
    expect(own.masked).toBeGreaterThan(0);
  });
  it('go on where they were left, over a restart of Zetopsis and a break of the cluster’s streams', async () => {
    const from = Date.now() - 60_000;
    await served.app.close();
    await start();
    await until('the stream', async () => {
      const [own] = (await state()).follows;
      if (own?.state.open !== 1) throw new Error(JSON.stringify(own));
      return true;
    });
    await world.control('/cut?cluster=seaward');
    await until('lines after it', async () => (await state()).follows[0]!.state.lines > 5);
    const to = Date.now() - 3000;
    await until('all of them', async () => (await kept(from, to)).length >= (await written(from, to)).length);
    expect(await kept(from, to)).toEqual(await written(from, to));
    expect((await state()).follows[0]!.gaps).toEqual([]);
  });
  it('end with the document that lets them be read', async () => {
    expect((await administrator.ask('DELETE', `follows/${key}`)).status).toBe(204);
    await until('none', async () => (await state()).follows.length === 0);
    const begun = Date.now();
    const other = { cluster: 'seaward', namespace: 'pier-data', workloads: ['queue'], note: '' };
    expect((await administrator.ask('POST', 'follows', other)).status).toBe(201);
    // others that are followed instead go on meanwhile
    await until('lines of another', async () => (await lines(QUEUE, begun, Date.now())).lines.length > 3);
    // streams that were open end, sooner or later: then nothing more of theirs is kept, while there is something
    await until('nothing of those that are followed no more', async () => {
      const at = Date.now();
      await until('more of the others', async () => (await lines(QUEUE, at, Date.now())).lines.length > 3);
      return (await written(at, Date.now())).length > 0 && (await kept(at, Date.now())).length === 0;
    });
  });
});
