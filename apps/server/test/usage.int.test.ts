import type { UsageAnswer, UsageRow } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, nodePages, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';
import { amount, requestOf, type RawPod as Specified } from './truth.ts';

const CLUSTERS = ['seaward', 'landward', 'slipway'];
const WINDOW = 60_000;

let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let visitors: Awaited<ReturnType<typeof people>>;
let administrator: Visitor;

const usage = (path: string, more = ''): Promise<UsageAnswer> =>
  administrator.get(`usage?in=${path}&from=${Date.now() - WINDOW}${more}`);
const sheet = (path: string, visitor = administrator, more = '') =>
  visitor.ask('GET', `usage/object?in=${path}&from=${Date.now() - WINDOW}${more}`);
const named = (rows: readonly UsageRow[], name: string) => rows.find((row) => row.name === name)!;

beforeAll(async () => {
  world = await standIn({ clusters: CLUSTERS });
  served = await serve();
  visitors = await people(served);
  administrator = visitors.administrator;
  for (const name of CLUSTERS)
    expect((await administrator.ask('POST', 'connections', connectionTo(world, 1, name))).status).toBe(201);
  await until('twelve readings of every node', async () => {
    const endpoints = await nodePages(administrator);
    const tape = await administrator.get(`usage/tape?from=${Date.now() - WINDOW}`);
    return (
      endpoints.length === 28 &&
      endpoints.every(({ state }) => state === 'read') &&
      tape.load.filter((value: number | null) => value !== null).length >= 12
    );
  });
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

// ---- an independent recomputation: from the world's raw objects and pages, by arithmetic of its own ----------------

interface RawPod extends Specified {
  metadata: { namespace: string; name: string; uid: string };
  spec: Specified['spec'] & { nodeName?: string };
  status: { phase: string };
}
interface RawQuota {
  metadata: { namespace: string; name: string };
  spec: { hard: Record<string, string> };
}
async function ledger(cluster: string, at: number) {
  const objects = (await world.look(`/ledger?cluster=${cluster}&at=${at}`)) as { kind: string; object: unknown }[];
  const of = <T>(kind: string) => objects.filter((one) => one.kind === kind).map(({ object }) => object as T);
  const pods = of<RawPod>('pods').filter(({ status }) => status.phase !== 'Succeeded' && status.phase !== 'Failed');
  return { pods, quotas: of<RawQuota>('resourcequotas'), nodes: of<{ metadata: { name: string } }>('nodes') };
}
/** Value of each series of a family on every node's page, summed by namespace. */
async function byNamespace(cluster: string, nodes: readonly string[], family: string, at: number) {
  const sums = new Map<string, number>();
  for (const node of nodes) {
    const page = (await world.look(`/page?cluster=${cluster}&node=${node}&at=${at}`)) as string;
    for (const line of page.split('\n')) {
      if (!line.startsWith(`${family}{`)) continue;
      const namespace = /k8s_namespace_name="([^"]*)"/.exec(line)?.[1] ?? '';
      const value = Number(
        line
          .slice(line.lastIndexOf('}') + 1)
          .trim()
          .split(' ')[0],
      );
      sums.set(namespace, (sums.get(namespace) ?? 0) + value);
    }
  }
  return sums;
}

describe('usage, requests and quotas of three clusters', () => {
  it.each(CLUSTERS)('of %s equal an independent recomputation', async (cluster) => {
    // where a reading came late, there is a gap, which is told as one
    const answer = await until('a window whose end has no gap', async () => {
      const one = await usage(cluster, `&to=${Date.now() - 500}`);
      const { from, to } = one.window;
      const whole = await administrator.get(`usage/object?in=${cluster}&from=${from}&to=${to}`);
      return whole.memory.use.at(-1) !== null && whole.cpu.use.at(-1) !== null ? one : null;
    });
    const at = answer.window.to;
    const rows = answer.columns[1]!.rows.filter(({ pods }) => pods > 0);
    const { pods, quotas, nodes } = await ledger(cluster, at);
    const names = nodes.map(({ metadata }) => metadata.name);
    const memory = await byNamespace(cluster, names, 'container_memory_working_set_bytes', at - 1000);
    const [later, earlier] = [at - 1000, at - 9000];
    const cpuLater = await byNamespace(cluster, names, 'container_cpu_time_seconds_total', later);
    const cpuEarlier = await byNamespace(cluster, names, 'container_cpu_time_seconds_total', earlier);
    let compared = 0;
    for (const row of rows) {
      const own = pods.filter(({ metadata }) => metadata.namespace === row.name);
      for (const resource of ['cpu', 'memory'] as const) {
        const asked = own.reduce((sum, pod) => sum + requestOf(pod, resource), 0);
        expect(row.usage[resource].request, `${row.name} asks for ${resource}`).toBeCloseTo(asked, 6);
      }
      expect(row.pods).toBe(own.length);
      // readings of a node are at most an interval old: the world moves a little meanwhile
      const used = memory.get(row.name) ?? 0;
      if (used > 0) expect(Math.abs(row.usage.memory.use! / used - 1), `${row.name} uses memory`).toBeLessThan(0.03);
      const cores = ((cpuLater.get(row.name) ?? 0) - (cpuEarlier.get(row.name) ?? 0)) / ((later - earlier) / 1000);
      if (cores > 0.05 && row.usage.cpu.use !== null)
        expect(Math.abs(row.usage.cpu.use / cores - 1), `${row.name} uses CPU`).toBeLessThan(0.2);
      compared++;
    }
    expect(compared).toBe(new Set(pods.map(({ metadata }) => metadata.namespace)).size);
    for (const quota of quotas) {
      const { namespace, name } = quota.metadata;
      const { body } = await sheet(`${cluster}/${namespace}/quota:${name}`);
      const [line] = body.quotas;
      const own = pods.filter(({ metadata }) => metadata.namespace === namespace);
      const spent = own.reduce((sum, pod) => sum + requestOf(pod, 'cpu'), 0);
      const row = (resource: string) => line.rows.find((one: { resource: string }) => one.resource === resource);
      expect(row('requests.cpu').hard).toBe(amount(quota.spec.hard['requests.cpu']));
      expect(row('requests.cpu').used, `${cluster}/${namespace} has spent`).toBeCloseTo(spent, 6);
      const limits = amount(quota.spec.hard['limits.cpu'] ?? quota.spec.hard['requests.cpu']);
      expect(named(rows, namespace).usage.cpu).toMatchObject({ limitIs: 'quota', limit: limits });
    }
    process.stdout.write(`${cluster}: ${compared} namespaces and ${quotas.length} quotas equal their recomputation\n`);
  });
});

describe('the second path', () => {
  it('a node’s pods are those placed on it, and with the others’ share they are all of it', async () => {
    // a window that stands still, so that both look at the same
    const [from, to] = [Date.now() - WINDOW, Date.now() - 2000];
    const all: UsageAnswer = await administrator.get(`usage?in=seaward/node:seaward-03&from=${from}&to=${to}`);
    expect(all.columns.map(({ level }) => level)).toEqual(['cluster', 'node', 'pod']);
    const { pods } = await ledger('seaward', all.window.to);
    const placed = pods.filter(({ spec }) => spec.nodeName === 'seaward-03').map(({ metadata }) => metadata.name);
    const rows = all.columns[2]!.rows.filter(
      ({ present, kind }) => present && kind !== 'free' && kind !== 'unused' && kind !== 'itself',
    );
    expect(rows.map(({ name }) => name).sort()).toEqual(placed.sort());
    const own: UsageAnswer = await visitors.developer.get(`usage?in=seaward/node:seaward-03&from=${from}&to=${to}`);
    const seen = own.columns[2]!.rows.filter(({ kind }) => kind !== 'free' && kind !== 'unused' && kind !== 'itself');
    const others = seen.at(-1)!;
    expect(others).toMatchObject({ kind: 'others', key: '~others', name: 'others' });
    expect(seen.slice(0, -1).every(({ key }) => /^(ticketing|boarding):/.test(key))).toBe(true);
    const sum = (list: readonly UsageRow[], of: 'request' | 'use') =>
      list.reduce((total, row) => total + (row.usage.memory[of] ?? 0), 0);
    expect(sum(seen, 'request')).toBeCloseTo(sum(rows, 'request'), 0);
    expect(sum(seen, 'use') / sum(rows, 'use')).toBeCloseTo(1, 6);
  });
  it('goes on to containers, and its sheets say what is there', async () => {
    const { columns } = await usage('seaward/node:seaward-03');
    const pod = columns[2]!.rows.find(({ present }) => present)!;
    const deeper = await usage(`seaward/node:seaward-03/${pod.key}`);
    expect(deeper.columns[3]).toMatchObject({
      level: 'container',
      summary: expect.stringMatching(/^\d runs?.* · on seaward-03$/),
    });
    expect(deeper.columns[3]!.rows.length).toBeGreaterThan(0);
    const node = (await sheet('seaward/node:seaward-03')).body;
    expect(node).toMatchObject({ level: 'node', kind: 'node', name: 'seaward-03', owner: null });
    expect(node.flows.map(({ title, empty }: { title: string; empty: string | null }) => [title, empty])).toEqual([
      ['Network', null],
      ['File system of the nodes', null],
      ['File entries (inodes) of the node', null],
      ['Errors of the node', null],
      ['Containers by state', null],
    ]);
    // what a shared node says may name others' pods
    const shared = (await sheet('seaward/node:seaward-03', visitors.developer)).body;
    expect(shared.events).toEqual([]);
    expect(shared.eventsMissing).toContain('may speak of others');
    expect((await sheet(`seaward/node:seaward-03/${pod.key}`)).body).toMatchObject({ level: 'pod', name: pod.name });
    expect((await usage('seaward', '&by=node')).columns[1]!.rows).toHaveLength(14);
  });
});

describe('against another window', () => {
  const shift = 20_000;
  it('what is compared is what that window alone would show; pods by the average pod of their workload', async () => {
    const path = 'seaward/ticketing/deployment:seat-ledger';
    const ask = (from: number, end: number, more = ''): Promise<UsageAnswer> =>
      administrator.get(`usage?in=${path}&from=${from}&to=${end}${more}`);
    // where a reading came late, there is a gap, which is told as one
    const { to, compared } = await until('a window whose end has no gap', async () => {
      const end = Date.now() - 1000;
      const answer = await ask(end - 15_000, end, `&shift=${shift}`);
      return answer.columns[3]!.rows.every(({ against }) => against !== null && against.memory.use !== null)
        ? { to: end, compared: answer }
        : null;
    });
    const then = await ask(to - 15_000 - shift, to - shift);
    expect(compared.against).toMatchObject({ from: to - 15_000 - shift, to: to - shift });
    for (const level of [0, 1, 2])
      for (const row of compared.columns[level]!.rows.filter(({ pods }) => pods > 0)) {
        const other = then.columns[level]!.rows.find(({ key }) => key === row.key)!;
        expect(row.pairing, `${row.key} at level ${level}`).toBe('both');
        for (const resource of ['cpu', 'memory'] as const) {
          const { use, mean, peak } = other.usage[resource];
          expect(row.against![resource]).toEqual({ use, mean, peak });
        }
      }
    const ledgerThen = named(then.columns[2]!.rows, 'seat-ledger').usage.memory;
    for (const pod of compared.columns[3]!.rows) {
      expect(pod.pairing).toBe('both');
      expect(pod.against!.memory.use! * 4).toBeCloseTo(ledgerThen.use!, 0);
    }
    const lines = await administrator.get(`usage/object?in=${path}&from=${to - 15_000}&to=${to}&shift=${shift}`);
    const alone = await administrator.get(`usage/object?in=${path}&from=${to - 15_000 - shift}&to=${to - shift}`);
    expect(lines.memory.against).toEqual(alone.memory.use);
    expect(lines.flows[0].lines[0].against).toEqual(alone.flows[0].lines[0].values);
  });
  it('both windows are drawn on one grid, also while the first moves on', async () => {
    const path = 'seaward/ticketing/deployment:seat-ledger';
    for (const length of [12_000, 12_003, 12_480]) {
      const { grid, cpu, flows } = await administrator.get(
        `usage/object?in=${path}&from=${Date.now() - length}&shift=15000`,
      );
      expect([cpu.use.length, cpu.against.length]).toEqual([grid.count, grid.count]);
      for (const { lines } of flows)
        for (const { values, against } of lines) if (against !== null) expect(against).toHaveLength(values.length);
    }
  });
  it('tells what is gone and, the other way round, what is new', async () => {
    const slipway = world.worlds.get('slipway')!; // asked for at the start
    const at = Date.now();
    const trial = (kind: 'deployments' | 'replicasets') =>
      slipway.store.list(kind).filter(({ metadata }) => metadata.name.startsWith('declaration-trial'));
    for (const pod of slipway.podsOf('manifests', 'declaration-trial')) slipway.removePod(pod, at);
    for (const kind of ['deployments', 'replicasets'] as const)
      for (const object of trial(kind)) slipway.store.remove(kind, object, at);
    const rowIn = async (from: number, to: number, shift: number) => {
      const answer: UsageAnswer = await administrator.get(
        `usage?in=slipway/manifests&from=${from}&to=${to}&shift=${shift}`,
      );
      return named(answer.columns[2]!.rows, 'declaration-trial');
    };
    await until('a window without it', () => Date.now() > at + 5000);
    const gone = await rowIn(at + 1500, at + 4500, 10_000);
    expect(gone).toMatchObject({ key: 'deployment:declaration-trial', present: false, pairing: 'gone' });
    expect(gone.usage.cpu).toMatchObject({ use: null, mean: null });
    expect(gone.against!.memory.mean).toBeGreaterThan(1e8);
    const fresh = await rowIn(at - 8500, at - 5500, -10_000);
    expect(fresh).toMatchObject({ pairing: 'new', against: null });
    expect(fresh.usage.memory.mean).toBeCloseTo(gone.against!.memory.mean!, 0);
  });
  it('cannot reach into the future, nor compare a window with itself', async () => {
    const refused = await administrator.ask('GET', `usage?from=${Date.now() - WINDOW}&shift=-86400000`);
    expect([refused.status, refused.body.text]).toEqual([
      400,
      'The window compared with reaches into the future. Choose an earlier one.',
    ]);
    expect((await administrator.ask('GET', `usage?from=${Date.now() - WINDOW}&shift=0`)).status).toBe(400);
  });
});

describe('sheets of every kind', () => {
  const facts = (body: { facts: { name: string; text: string }[] }) =>
    Object.fromEntries(body.facts.map(({ name, text }) => [name, text]));
  it('a namespace leads to everything in it, each with a sheet of its own', async () => {
    const kinds = new Map<string, string>();
    for (const namespace of ['seaward/ticketing', 'seaward/manifests', 'seaward/pier-data', 'landward/crew-rota'])
      for (const { kind, path } of (await sheet(namespace)).body.related) kinds.set(kind, path.join('/'));
    expect([...kinds.keys()].sort()).toEqual([
      'autoscaler',
      'config map',
      'disruption budget',
      'limit range',
      'secret',
      'service',
      'volume claim',
    ]);
    for (const [kind, path] of kinds) {
      const { status, body } = await sheet(path);
      expect([status, body.level, body.kind, body.usage], path).toEqual([200, 'object', kind, null]);
    }
  });
  it('a service tells its ports and whose pods answer for it', async () => {
    const { body } = await sheet('seaward/ticketing/service:booking-front');
    const tables = Object.fromEntries(
      body.tables.map((table: { title: string; rows: string[][] }) => [table.title, table.rows]),
    );
    expect(tables['Ports'].length).toBeGreaterThan(0);
    expect(tables['Endpoints'].every(([pod]: string[]) => pod!.startsWith('booking-front-'))).toBe(true);
    expect(facts(body)['endpoints']).toMatch(/^(\d+) of \1 ready$/);
  });
  it('a claim and its volume tell use against size, and lead to each other and to the pod', async () => {
    const { body } = await sheet('seaward/pier-data/volume-claim:data-archive-0');
    expect(body.volumes[0].figures).toMatchObject({ limitIs: 'size', limit: 200 * 2 ** 30 });
    expect(body.flows[0].lines[0].values.some((value: number | null) => value !== null)).toBe(true);
    const volume = body.related.find(({ kind }: { kind: string }) => kind === 'persistent volume');
    const pod = body.related.find(({ kind }: { kind: string }) => kind === 'pod');
    expect(pod.path).toEqual(['seaward', 'pier-data', 'stateful-set:archive', 'archive-0']);
    const { body: other } = await sheet(volume.path.join('/'));
    expect(other.volumes[0].figures.use).toBeGreaterThan(0);
    expect(other.related[0].path).toEqual(['seaward', 'pier-data', 'volume-claim:data-archive-0']);
    // a volume tells of a namespace: who may not see that one does not see this one
    expect((await sheet(volume.path.join('/'), visitors.developer)).status).toBe(404);
  });
  it('an autoscaler leads to what it scales, a budget to the pods it guards', async () => {
    const { related } = (await sheet('seaward/ticketing')).body;
    const first = (kind: string) => related.find((line: { kind: string }) => line.kind === kind).path.join('/');
    const scaler = (await sheet(first('autoscaler'))).body;
    // how many pods there were against the most it may have, and what it scales on
    const [pods, share] = scaler.flows;
    expect([pods.title, share.title]).toEqual(['Pods', 'CPU, use of what is asked for']);
    const scaled = (await sheet(scaler.related[0].path.join('/'))).body;
    expect(pods.lines[0].values.at(-1)).toBe(scaled.facts[0].text.split(' of ').map(Number)[1]);
    const { use, request } = scaled.usage.cpu;
    expect(share.lines[0].values.at(-1)).toBeCloseTo(use / request, 1);
    // its own finding is told of what it scales as well
    for (const { code } of scaler.findings)
      expect(scaled.findings.map((one: { code: string }) => one.code)).toContain(code);
    expect(scaler.related.map(({ path }: { path: string[] }) => path)).toEqual([
      ['seaward', 'ticketing', 'deployment:booking-front'],
    ]);
    const budget = (await sheet(first('disruption budget'))).body;
    expect(budget.related.length).toBeGreaterThan(0);
    expect(budget.related.every(({ kind }: { kind: string }) => kind === 'pod')).toBe(true);
  });
  it('a cron job tells its runs and when the next is due', async () => {
    const { body } = await administrator.ask(
      'GET',
      `usage/object?in=seaward/berths-batch/cron-job:replan-night&from=${Date.now() - 86_400_000}`,
    );
    expect(body).toMatchObject({ level: 'workload', kind: 'cron job' });
    expect(body.runs[0]).toMatchObject({ outcome: 'failed', end: 'replan-night ended with code 3' });
    expect(body.nextDueAt).toBeGreaterThan(body.grid.start);
    const due = new Date(body.nextDueAt);
    expect([due.getUTCHours(), due.getUTCMinutes()]).toEqual([2, 0]);
    expect(facts(body)['schedule']).toBe('0 2 * * *');
  });
  it('a config map tells its keys, never a value; a secret nothing but that it is there', async () => {
    const { body } = await sheet('seaward/manifests/config-map:declaration-checker-settings');
    expect(body.tables[0].rows.flat()).toContain('pool-size');
    expect(body.related[0].path).toEqual(['seaward', 'manifests', 'deployment:declaration-checker']);
    const { related } = (await sheet('seaward/ticketing')).body;
    const secret = related.find(({ kind }: { kind: string }) => kind === 'secret');
    const text = JSON.stringify((await sheet(secret.path.join('/'))).body);
    expect(text).toContain('is never read');
    expect(text).not.toMatch(/"data"|stringData/);
  });
  it('of other teams’ namespaces are not for a developer', async () => {
    for (const path of [
      'seaward/manifests',
      'seaward/manifests/config-map:declaration-checker-settings',
      'seaward/pier-data/quota:compute',
      'seaward/node:seaward-03/manifests:anything',
    ])
      expect((await sheet(path, visitors.developer)).status, path).toBe(403);
    expect((await sheet('seaward/ticketing/service:booking-front', visitors.developer)).status).toBe(200);
    expect((await sheet('seaward/ticketing/service:nothing')).status).toBe(404);
  });
});

describe('clusters by what they are', () => {
  it('are looked at together by a trait, and only those', async () => {
    const { connections } = await administrator.get('sources');
    const landward = connections.find(({ name }: { name: string }) => name === 'landward');
    const { token: _, name: __, ...same } = connectionTo(world, 1, 'landward');
    const change = { ...same, token: '', environment: 'rehearsal' };
    expect((await administrator.ask('PATCH', `connections/${landward.id}`, change)).status).toBe(200);
    const names = async (trait: string) =>
      (await administrator.get(`usage?clusters=${trait}&from=${Date.now() - WINDOW}`)).columns[0].rows
        .map(({ name }: UsageRow) => name)
        .sort();
    expect(await names('environment:rehearsal')).toEqual(['landward']);
    expect(await names('environment:production')).toEqual(['seaward', 'slipway']);
    const now = await administrator.get(`now?clusters=environment:rehearsal&from=${Date.now() - WINDOW}`);
    expect(now.failing.every(({ path }: { path: string[] }) => path[0] === 'landward')).toBe(true);
    expect((await administrator.ask('GET', `usage?clusters=owner:me&from=${Date.now() - WINDOW}`)).status).toBe(400);
  });
  it('where a developer owns nothing, a cluster is not shown at all', async () => {
    const { columns } = (await visitors.developer.get(`usage?from=${Date.now() - WINDOW}`)) as UsageAnswer;
    expect(columns[0]!.rows.map(({ name }) => name).sort()).toEqual(['seaward', 'slipway']);
  });
});

describe('what happened', () => {
  it('names changes of settings, of what is used and of what is configured, to whom it concerns', async () => {
    await world.control('/bad-release?namespace=manifests&name=declaration-checker');
    const marks = async (path: string, visitor = administrator) =>
      (await visitor.get(`usage/tape?in=${path}&from=${Date.now() - 600_000}`)).marks as {
        kind: string;
        title: string;
        path: string[];
      }[];
    const change = await until('the change of its config map', async () =>
      (await marks('seaward/manifests/deployment:declaration-checker')).find(({ kind }) => kind === 'config change'),
    );
    expect(change.title).toMatch(/^config map declaration-checker-settings: key .* changed/);
    expect(change.path).toEqual(['seaward', 'manifests', 'config-map:declaration-checker-settings']);
    expect((await marks('')).some(({ kind }) => kind === 'revision')).toBe(true);
    const seen = await marks('', visitors.developer);
    expect(seen.some(({ kind }) => kind === 'revision')).toBe(false);
    expect(JSON.stringify(seen)).not.toContain('manifest');
  });
});
