import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { request } from 'node:https';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type StandIn, startStandIn } from '../standIn.ts';
import type { ApiObject } from '../world/objects.ts';
import { fieldSelector, labelSelector } from './selectors.ts';

const folder = mkdtempSync(join(tmpdir(), 'zetopsis-api-'));
let standIn: StandIn;
let cluster: StandIn['card']['clusters'][number];
beforeAll(async () => {
  standIn = await startStandIn({ folder, seed: 'api', start: Date.now(), pace: 1, basePort: 0, heartbeat: 60_000 });
  cluster = standIn.card.clusters[0]!;
});
afterAll(async () => {
  await standIn.close();
  rmSync(folder, { recursive: true, force: true });
});

interface Got {
  status: number;
  // biome-ignore lint/suspicious/noExplicitAny: open JSON
  body: any;
}
function get(path: string, token = cluster.token, method = 'GET', accept = 'application/json'): Promise<Got> {
  return new Promise((done, fail) => {
    const asked = request(
      `${cluster.address}${path}`,
      { ca: cluster.authority, method, headers: { authorization: `Bearer ${token}`, accept } },
      (response) => {
        let text = '';
        response.on('data', (piece: Buffer) => {
          text += piece.toString();
        });
        response.on('end', () =>
          done({ status: response.statusCode ?? 0, body: text.startsWith('{') ? JSON.parse(text) : text }),
        );
      },
    );
    asked.on('error', fail);
    asked.end();
  });
}

/** Lines of a watch until `enough`; then the connection is dropped. */
async function watch(path: string, enough: (lines: { type: string; object: ApiObject }[]) => boolean) {
  const asked = request(`${cluster.address}${path}`, {
    ca: cluster.authority,
    headers: { authorization: `Bearer ${cluster.token}` },
  });
  asked.end();
  const [response] = await once(asked, 'response');
  const lines: { type: string; object: ApiObject }[] = [];
  let rest = '';
  for await (const piece of response) {
    rest += String(piece);
    const parts = rest.split('\n');
    rest = parts.pop() ?? '';
    lines.push(...parts.map((line) => JSON.parse(line)));
    if (enough(lines)) break;
  }
  asked.destroy();
  return lines;
}

describe('lists', () => {
  it('give the usual shapes, in a namespace or everywhere', async () => {
    const all = await get('/api/v1/pods');
    expect(all.body).toMatchObject({ kind: 'PodList', apiVersion: 'v1' });
    const some = await get('/api/v1/namespaces/tides/pods');
    expect(some.body.items.every(({ metadata }: ApiObject) => metadata.namespace === 'tides')).toBe(true);
    expect(some.body.items.length).toBe(7);
  });
  it('page with continue tokens over one consistent list, and refuse an unknown token with 410', async () => {
    const names: string[] = [];
    let path = '/api/v1/pods?limit=40';
    let versions = new Set<string>();
    for (let page = 0; page < 10; page++) {
      const { body } = await get(path);
      names.push(...body.items.map(({ metadata }: ApiObject) => `${metadata.namespace}/${metadata.name}`));
      versions = versions.add(body.metadata.resourceVersion);
      // a change in between does not disturb the list that is being paged
      if (page === 0) standIn.world.rollouts.scale('berths', 'quay-board', 3, Date.now());
      if (!body.metadata.continue) break;
      path = `/api/v1/pods?limit=40&continue=${body.metadata.continue}`;
    }
    standIn.world.rollouts.scale('berths', 'quay-board', 2, Date.now());
    expect(new Set(names).size).toBe(names.length);
    expect(names).toEqual([...names].sort());
    expect(versions.size).toBe(1);
    expect(await get('/api/v1/pods?limit=40&continue=OTk5OjQw')).toMatchObject({
      status: 410,
      body: { reason: 'Expired' },
    });
  });
  it('refuse strangers, what a narrow token may not see, writing, and what is not there', async () => {
    expect(await get('/api/v1/pods', 'wrong')).toMatchObject({
      status: 401,
      body: { kind: 'Status', reason: 'Unauthorized' },
    });
    expect(await get('/api/v1/events', cluster.narrowToken)).toMatchObject({
      status: 403,
      body: { reason: 'Forbidden' },
    });
    expect((await get('/api/v1/pods', cluster.narrowToken)).status).toBe(200);
    expect((await get('/api/v1/pods', undefined, 'DELETE')).status).toBe(405);
    // single objects are not asked for, so the account may not get them
    expect((await get('/api/v1/nodes/seaward-01')).status).toBe(403);
    for (const path of ['/api/v1/ferries', '/apis/apps/v1/pods', '/api/v1/namespaces/tides/nodes'])
      expect([path, (await get(path)).status]).toEqual([path, 404]);
  });
  it('answer metadata only to whoever asks for no more', async () => {
    const accept = 'application/json;as=PartialObjectMetadataList;g=meta.k8s.io;v=v1';
    const { body } = await get('/api/v1/secrets', undefined, 'GET', accept);
    expect(body.kind).toBe('PartialObjectMetadataList');
    expect(body.items.length).toBeGreaterThan(1);
    expect(body.items.every((item: ApiObject) => item['data'] === undefined && item.metadata.resourceVersion)).toBe(
      true,
    );
    expect((await get('/api/v1/secrets')).body.items[0].data.key).toBeDefined();
  });
  it('tell what they serve', async () => {
    expect((await get('/apis')).body.groups[0].name).toBe('apps');
    const names = async (path: string) => (await get(path)).body.resources.map(({ name }: { name: string }) => name);
    expect((await names('/api/v1')).slice(0, 5)).toEqual(['nodes', 'namespaces', 'pods', 'events', 'services']);
    expect(await names('/apis/batch/v1')).toEqual(['jobs', 'cronjobs']);
    expect((await get('/apis/autoscaling')).body.preferredVersion.version).toBe('v2');
    expect((await get('/apis/autoscaling/v1/horizontalpodautoscalers')).status).toBe(404);
    expect((await get('/apis/autoscaling/v2/horizontalpodautoscalers')).body.items.length).toBeGreaterThan(0);
    expect((await get('/api/v1/persistentvolumes')).body.items[0].spec.claimRef.kind).toBe('PersistentVolumeClaim');
    expect((await get('/readyz', '')).body).toBe('ok');
  });
});

describe('watch', () => {
  it('repeats what was missed after a version, follows, and sends bookmarks', async () => {
    const { body } = await get('/api/v1/namespaces/pilotage/pods');
    standIn.world.rollouts.scale('pilotage', 'pilot-roster', 3, Date.now());
    const lines = await watch(
      `/api/v1/namespaces/pilotage/pods?watch=1&allowWatchBookmarks=true&resourceVersion=${body.metadata.resourceVersion}`,
      (seen) => seen.some(({ type }) => type === 'BOOKMARK'),
    );
    expect(lines[0]).toMatchObject({ type: 'ADDED', object: { kind: 'Pod', metadata: { namespace: 'pilotage' } } });
    expect(lines.filter(({ type }) => type === 'MODIFIED')).toHaveLength(1); // it became ready
    const versions = lines.map(({ object }) => Number(object.metadata.resourceVersion));
    expect(versions).toEqual([...versions].sort((a, b) => a - b));
    standIn.world.rollouts.scale('pilotage', 'pilot-roster', 2, Date.now());
  });
  it('writes nothing after its time-out, however much changes then and however slowly it is read', async () => {
    const { store } = standIn.world;
    const [node] = store.list('nodes');
    const asked = request(`${cluster.address}/api/v1/nodes?watch=true&timeoutSeconds=1`, {
      ca: cluster.authority,
      headers: { authorization: `Bearer ${cluster.token}` },
    });
    asked.end();
    await once(asked, 'response'); // and nothing of it is read
    const until = Date.now() + 1500;
    await new Promise<void>((done) => {
      const change = () => {
        for (let i = 0; i < 20; i++)
          store.put({ kind: 'nodes', object: structuredClone(node!), at: Date.now(), heartbeat: true });
        if (Date.now() < until) setImmediate(change);
        else done();
      };
      change();
    });
    asked.destroy();
    // a write after the end would have ended the whole world
    expect((await get('/api/v1/nodes')).status).toBe(200);
  });
  it('starts with what is there when no version is given', async () => {
    const lines = await watch('/api/v1/nodes?watch=true', (seen) => seen.length >= 14);
    expect(lines.every(({ type }) => type === 'ADDED')).toBe(true);
  });
  it('answers 410 in the stream when the version is too old', async () => {
    const lines = await watch('/api/v1/nodes?watch=true&resourceVersion=1', () => true);
    expect(lines).toMatchObject([{ type: 'ERROR', object: { code: 410, reason: 'Expired' } }]);
  });
});

it('selectors choose by labels and fields', () => {
  const pod: ApiObject = {
    metadata: { name: 'p', uid: 'u', resourceVersion: '', creationTimestamp: '', labels: { app: 'a', tier: 'front' } },
    status: { phase: 'Running' },
  };
  for (const [text, fits] of [
    ['app=a', true],
    ['app==b', false],
    ['app!=b', true],
    ['app in (a, b),tier', true],
    ['app notin (a)', false],
    ['!season', true],
    ['season', false],
  ] as const) {
    expect([text, labelSelector(text)(pod)]).toEqual([text, fits]);
  }
  for (const [text, fits] of [
    ['status.phase=Running', true],
    ['status.phase!=Running', false],
    ['metadata.name=p,status.phase=Running', true],
    ['spec.nodeName=x', false],
  ] as const) {
    expect([text, fieldSelector(text)(pod)]).toEqual([text, fits]);
  }
  expect(labelSelector(null)(pod) && fieldSelector('')(pod)).toBe(true);
});
