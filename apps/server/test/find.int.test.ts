import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let visitors: Awaited<ReturnType<typeof people>>;
let administrator: Visitor;
const find = async (text: string, visitor = administrator) =>
  (await visitor.get(`find?q=${encodeURIComponent(text)}`)).found as {
    kind: string;
    name: string;
    path: string[];
    goneAt: number | null;
  }[];

beforeAll(async () => {
  world = await standIn();
  served = await serve();
  visitors = await people(served);
  administrator = visitors.administrator;
  await administrator.ask('POST', 'connections', connectionTo(world));
  await until('everything is listed', async () => (await find('booking-front')).length > 4);
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

describe('finding anything', () => {
  it('answers a name with a wrong letter, the workload before its pods, each with the path of its sheet', async () => {
    const [first, ...others] = await find('boking-front');
    expect(first).toMatchObject({ kind: 'deployment', name: 'booking-front', goneAt: null });
    expect(first!.path).toEqual(['seaward', 'ticketing', 'deployment:booking-front']);
    expect(others.some(({ kind }) => kind === 'pod')).toBe(true);
    const [node] = await find('seaward-03');
    expect(node!.path).toEqual(['seaward', 'node:seaward-03']);
    const { status } = await administrator.ask(
      'GET',
      `usage/object?in=${node!.path.map(encodeURIComponent).join('/')}&from=${Date.now() - 60_000}`,
    );
    expect(status).toBe(200);
  });
  it('finds what is gone, with when it went and the workload it was of', async () => {
    const pod = (await find('booking-front')).find(({ kind }) => kind === 'pod')!;
    world.world.removePod(world.world.store.get('pods', 'ticketing', pod.name)!, Date.now());
    const gone = await until('it is gone', async () =>
      (await find(pod.name)).find(({ name, goneAt }) => name === pod.name && goneAt !== null),
    );
    expect(gone.path).toEqual(pod.path);
    expect(Date.now() - gone.goneAt!).toBeLessThan(120_000);
  });
  it('names nothing that one may not see', async () => {
    expect((await find('booking-front', visitors.developer)).length).toBeGreaterThan(0);
    expect(await find('tide-model', visitors.developer)).toEqual([]);
    expect(await find('booking-front', visitors.nobody)).toEqual([]);
  });
  it('keeps views for oneself and for a team, and nobody else’s', async () => {
    const keep = (visitor: Visitor, more: object) =>
      visitor.ask('POST', 'views', { name: 'mine', address: '/usage?in=seaward', ...more });
    expect((await keep(visitors.developer, {})).status).toBe(201);
    expect((await keep(visitors.developer, { name: 'ours', team: 'ferries' })).status).toBe(201);
    expect((await keep(visitors.developer, { team: 'tides' })).status).toBe(400);
    expect((await keep(visitors.developer, { address: 'https://elsewhere.test/usage' })).status).toBe(400);
    const { views } = await visitors.developer.get('views');
    expect(views.map(({ name, team }: { name: string; team: string | null }) => [name, team])).toEqual([
      ['mine', null],
      ['ours', 'ferries'],
    ]);
    expect((await administrator.get('views')).views).toEqual([]);
    expect((await administrator.ask('DELETE', `views/${views[0].id}`)).status).toBe(404);
    expect((await visitors.developer.ask('DELETE', `views/${views[0].id}`)).status).toBe(204);
  });
});

describe('what a sheet asks of the cluster', () => {
  it('the last lines of a container, or the cluster’s reason why not, for those who may see it', async () => {
    const [pod] = (await find('seat-ledger')).filter(({ kind, goneAt }) => kind === 'pod' && goneAt === null);
    const log = (visitor: Visitor, more = '') =>
      visitor.ask('GET', `usage/log?in=seaward/ticketing&pod=${pod!.name}&container=seat-ledger${more}`);
    const { status, body } = await log(visitors.developer);
    expect(status).toBe(200);
    expect(body.lines).toHaveLength(50);
    const before = await log(visitors.developer, '&previous=yes');
    expect([before.status, /previous terminated container/.test(before.body.text)]).toEqual([503, true]);
    const other = await visitors.developer.ask('GET', `usage/log?in=seaward/tides&pod=x&container=y`);
    expect([403, 404]).toContain(other.status);
  });
  it('every state of an object that is kept, and what changed', async () => {
    const { versions } = await administrator.get(
      `usage/versions?in=seaward/ticketing/deployment:seat-ledger&from=${Date.now() - 60_000}`,
    );
    expect(versions.at(-1)).toMatchObject({ words: 'the oldest that is kept' });
    expect(versions.at(-1).lines.some(({ text }: { text: string }) => text.includes('name: seat-ledger'))).toBe(true);
    const { status } = await administrator.ask('GET', `usage/versions?in=seaward&from=${Date.now() - 60_000}`);
    expect(status).toBe(404);
  });
  it('a table of any level has every row of it once, with the sums of the level above', async () => {
    const table = async (level: string, path = 'seaward') =>
      (await administrator.get(`usage/table?in=${path}&level=${level}&from=${Date.now() - 60_000}`)).rows as {
        path: string[];
        pods: number;
      }[];
    const [pods, workloads, namespaces] = [await table('pod'), await table('workload'), await table('namespace')];
    expect(new Set(pods.map(({ path }) => path.join('/'))).size).toBe(pods.length);
    const sum = (rows: { pods: number }[]) => rows.reduce((all, { pods: own }) => all + own, 0);
    expect(sum(workloads)).toBe(sum(namespaces));
    expect(sum(pods)).toBe(sum(namespaces));
    const inOne = await table('pod', 'seaward/ticketing');
    expect(inOne.every(({ path }) => path[1] === 'ticketing')).toBe(true);
    expect(inOne.length).toBe(pods.filter(({ path }) => path[1] === 'ticketing').length);
    const theirs = (await visitors.developer.get(`usage/table?in=seaward&level=pod&from=${Date.now() - 60_000}`)).rows;
    expect(theirs.every(({ path }: { path: string[] }) => ['ticketing', 'boarding'].includes(path[1]!))).toBe(true);
  });
});
