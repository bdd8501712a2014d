import type { FlowLines, SheetAnswer, UsageAnswer, UsageRow } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, nodePages, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

const WINDOW = 60_000;

let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let visitors: Awaited<ReturnType<typeof people>>;
let administrator: Visitor;

/** Both ends of a window that stands still, so that every answer tells of the same. */
const still = () => ({ from: Date.now() - WINDOW, to: Date.now() - 2000 });
/** The same up to when every page was read: on a busy machine some are late. */
async function readSoFar(): Promise<{ from: number; to: number }> {
  const { endpoints } = await administrator.get('sources');
  const ends = (endpoints as { state: string; lastReadingAt: number | null }[]).flatMap(({ state, lastReadingAt }) =>
    state === 'read' && lastReadingAt !== null ? [lastReadingAt] : [],
  );
  const to = Math.min(Date.now() - 2000, ...ends);
  return { from: to - WINDOW, to };
}
const usage = (
  path: string,
  of: string,
  { from, to } = still(),
  visitor = administrator,
  more = '',
): Promise<UsageAnswer> => visitor.get(`usage?in=${path}&of=${of}&from=${from}&to=${to}${more}`);
const sheet = (path: string, visitor = administrator) =>
  visitor.ask('GET', `usage/object?in=${path}&from=${Date.now() - WINDOW}`);
const bodyOf = async (path: string): Promise<SheetAnswer> => (await sheet(path)).body;
const columnOf = (answer: UsageAnswer, level: string) => answer.columns.find((column) => column.level === level)!.rows;
const use = (row: UsageRow | undefined): number => row?.other?.use ?? Number.NaN;
const own = ({ kind }: UsageRow) => kind !== 'free' && kind !== 'unused' && kind !== 'itself';
const total = (rows: readonly UsageRow[]) => rows.filter(own).reduce((sum, row) => sum + (row.other?.use ?? 0), 0);

beforeAll(async () => {
  world = await standIn();
  served = await serve();
  visitors = await people(served);
  administrator = visitors.administrator;
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 1))).status).toBe(201);
  const scout = { route: 'through the cluster', ports: ['pages'], intervalSeconds: 1 };
  expect((await administrator.ask('PUT', 'scouts/pages', { document: scout })).status).toBe(200);
  await until('twelve readings of every node, and every pod that serves a page', async () => {
    const endpoints = await nodePages(administrator);
    const tape = await administrator.get(`usage/tape?from=${Date.now() - WINDOW}`);
    const requests = (await bodyOf('seaward/ticketing/deployment:booking-front')).requests[0];
    return (
      endpoints.length === 14 &&
      endpoints.every(({ state }) => state === 'read') &&
      (requests?.lines[0]?.values.filter((value) => value !== null).length ?? 0) >= 10 &&
      tape.load.filter((value: number | null) => value !== null).length >= 12
    );
  });
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

describe('columns of other resources', () => {
  it('network: every level equals what the pods’ own counters grew by, and others’ is one share', async () => {
    const window = still();
    const { readings } = world.world;
    // the two samples that a rate at the window's end lies between are at most an interval away
    const truth = (namespace: string) =>
      world.world.store
        .list('pods')
        .filter((pod) => pod.metadata.namespace === namespace && pod['status'].phase === 'Running')
        .reduce(
          (sum, pod) =>
            sum +
            (readings.networkBytes(pod, 'receive', window.to) -
              readings.networkBytes(pod, 'receive', window.to - 4000)) /
              4,
          0,
        );
    const all = await usage('seaward/ticketing', 'received', window);
    expect(all.of).toBe('received');
    const namespaces = columnOf(all, 'namespace').filter((row) => own(row) && row.other !== null);
    expect(namespaces.length).toBeGreaterThan(8);
    for (const row of namespaces) expect(Math.abs(use(row) / truth(row.name) - 1), row.name).toBeLessThan(0.15);
    const ticketing = namespaces.find(({ name }) => name === 'ticketing');
    expect(total(columnOf(all, 'workload')) / use(ticketing)).toBeCloseTo(1, 6);
    const pods = await usage('seaward/ticketing/deployment:booking-front', 'received', window);
    expect(total(columnOf(pods, 'pod'))).toBeCloseTo(
      use(columnOf(all, 'workload').find(({ name }) => name === 'booking-front')),
      3,
    );
    const seen = await usage('seaward', 'received', window, visitors.developer);
    const shown = columnOf(seen, 'namespace').filter(own);
    expect(shown.map(({ name }) => name).sort()).toEqual(['boarding', 'others', 'ticketing']);
    expect(total(shown) / total(namespaces)).toBeCloseTo(1, 6);
  });
  it('a node’s network is its own, its others a share; what it sends is told apart', async () => {
    const window = still();
    const [received, sent] = await Promise.all(
      ['received', 'sent'].map((of) => usage('seaward/node:seaward-03', of, window)),
    );
    const node = (answer: UsageAnswer) => use(columnOf(answer, 'node').find(({ name }) => name === 'seaward-03'));
    const grown = (way: 'receive' | 'transmit') =>
      (world.world.readings.nodeNetworkBytes('seaward-03', way, window.to) -
        world.world.readings.nodeNetworkBytes('seaward-03', way, window.to - 4000)) /
      4;
    expect(Math.abs(node(received!) / grown('receive') - 1)).toBeLessThan(0.1);
    expect(Math.abs(node(sent!) / grown('transmit') - 1)).toBeLessThan(0.1);
    const own = await usage('seaward/node:seaward-03', 'received', window, visitors.developer);
    const others = columnOf(own, 'pod').find(({ kind }) => kind === 'others');
    const hidden = columnOf(received!, 'pod').filter(({ key }) => !/^(ticketing|boarding):|^~/.test(key));
    expect(use(others)).toBeCloseTo(total(hidden), 3);
  });
  it('file systems: of nodes against their size, of pods what their containers wrote', async () => {
    const answer = await usage('seaward/ticketing/deployment:seat-ledger', 'files');
    const [cluster] = columnOf(answer, 'cluster');
    const { readings, options } = world.world;
    const sizes = options.plan.nodes.reduce((sum, { name }) => sum + readings.nodeFiles(name, Date.now()).size, 0);
    expect(cluster!.other).toMatchObject({ limitIs: 'size', limit: sizes });
    const [pod] = world.world.podsOf('ticketing', 'seat-ledger');
    const written = readings.containersOf(pod!).reduce((sum, one) => sum + readings.fileBytes(one, Date.now()), 0);
    expect(
      Math.abs(use(columnOf(answer, 'pod').find(({ name }) => name === pod!.metadata.name)) / written - 1),
    ).toBeLessThan(0.02);
    const deeper = await usage(
      `seaward/ticketing/deployment:booking-front/${world.world.podsOf('ticketing', 'booking-front')[0]!.metadata.name}`,
      'files',
    );
    const containers = columnOf(deeper, 'container');
    expect(containers).toHaveLength(2);
    expect(containers.every(({ other }) => other !== null && other.limit === null)).toBe(true);
  });
  it('volumes against their size, at every level; what has none says nothing', async () => {
    const answer = await usage('seaward/pier-data/stateful-set:archive', 'volumes');
    const archive = columnOf(answer, 'workload').find(({ name }) => name === 'archive')!;
    expect(archive.other).toMatchObject({ limitIs: 'size', limit: 200 * 2 ** 30 });
    const [volume] = world.world.readings.volumesOf(world.world.podsOf('pier-data', 'archive')[0]!, Date.now());
    expect(Math.abs(use(archive) / volume!.used - 1)).toBeLessThan(0.02);
    expect(columnOf(answer, 'namespace').find(({ name }) => name === 'ticketing')!.other).toBeNull();
    const inAll = world.world.store.list('pods').flatMap((pod) => world.world.readings.volumesOf(pod, Date.now()));
    expect(columnOf(answer, 'cluster')[0]!.other!.limit).toBe(inAll.reduce((sum, { size }) => sum + size, 0));
    // a cluster's total is the same for who may see only a part of it, the rest one share
    const seen = await usage('seaward', 'volumes', still(), visitors.developer);
    expect(columnOf(seen, 'cluster')[0]!.other!.limit).toBe(columnOf(answer, 'cluster')[0]!.other!.limit);
    const others = columnOf(seen, 'namespace').find(({ kind }) => kind === 'others')!;
    expect(others.other!.limit).toBe(columnOf(seen, 'cluster')[0]!.other!.limit);
    // the table has them, too
    const table = await administrator.get(
      `usage/table?in=seaward&level=workload&find=archive&from=${Date.now() - WINDOW}`,
    );
    expect(table.rows[0]).toMatchObject({ name: 'archive', volumeSize: 200 * 2 ** 30 });
  });
  it('pod slots against what nodes have room for, and against a quota', async () => {
    const answer = await usage('seaward/ticketing', 'pods');
    const [cluster] = columnOf(answer, 'cluster');
    expect(cluster!.other).toMatchObject({ use: cluster!.pods, limit: 14 * 110, limitIs: 'allocatable' });
    const ticketing = columnOf(answer, 'namespace').find(({ name }) => name === 'ticketing')!;
    expect(ticketing.other).toMatchObject({ use: ticketing.pods, limit: 40, limitIs: 'quota' });
    const free = columnOf(answer, 'namespace').find(({ kind }) => kind === 'free')!;
    expect(use(free)).toBe(14 * 110 - cluster!.pods);
  });
  it('restarts, out-of-memory ends and throttling are counted at every level, and compared', async () => {
    // ends are told to the second
    const begun = Date.now() - 1500;
    await world.control('/restarts?namespace=pilotage&name=vessel-tracker&times=2');
    const path = 'seaward/pilotage/deployment:vessel-tracker';
    const rows = await until('two restarts', async () => {
      const answer = await usage(path, 'restarts', { from: begun, to: Date.now() });
      return total(columnOf(answer, 'pod')) === 2 ? answer : null;
    });
    for (const level of ['workload', 'namespace', 'cluster'])
      expect(total(columnOf(rows, level).filter(({ key }) => /vessel-tracker|pilotage|seaward/.test(key))), level).toBe(
        2,
      );
    const pod = columnOf(rows, 'pod').find((row) => use(row) > 0)!;
    const containers = columnOf(
      await usage(`${path}/${pod.key}`, 'restarts', { from: begun, to: Date.now() }),
      'container',
    );
    expect(total(containers)).toBe(use(pod));
    const ended = Date.now();
    const against = await usage(path, 'restarts', { from: begun, to: ended }, administrator, `&shift=${ended - begun}`);
    const workload = columnOf(against, 'workload').find(({ name }) => name === 'vessel-tracker')!;
    expect([workload.other!.use, workload.against!.other!.use]).toEqual([2, 0]);
    expect(total(columnOf(await usage(path, 'memoryEnds', { from: begun, to: ended }), 'workload'))).toBe(0);
    const throttled = await usage('seaward/ticketing', 'throttled');
    const front = columnOf(throttled, 'workload').find(({ name }) => name === 'booking-front')!;
    expect(front.other).toMatchObject({ use: front.throttled, limit: 1, limitIs: 'time' });
    expect(front.throttled).toBeGreaterThan(0.2);
  });
  it('what is not known is refused, and nothing is told where nothing was asked', async () => {
    expect((await administrator.ask('GET', `usage?of=wind&from=${Date.now() - WINDOW}`)).status).toBe(400);
    const plain: UsageAnswer = await administrator.get(`usage?in=seaward&from=${Date.now() - WINDOW}`);
    expect(plain.of).toBeNull();
    expect(plain.columns.every(({ rows }) => rows.every(({ other }) => other === null))).toBe(true);
  });
});

describe('requests', () => {
  const byTitle = (flows: readonly FlowLines[]) =>
    Object.fromEntries(
      flows.map((flow) => [flow.title.split(',')[0]!, flow.lines.map(({ values }) => values.at(-1) ?? null)]),
    );
  /** Requests that all pods of a workload answered in these seconds. */
  const truth = (name: string, to: number) =>
    world.world
      .podsOf('ticketing', name)
      .flatMap((pod) => world.world.readings.containersOf(pod))
      .map((container) => [to, to - 8000].map((at) => world.world.readings.requests(container, at)))
      .reduce(
        (sum, [late, early]) => ({
          calm: sum.calm + (late!.calm - early!.calm) / 8,
          strained: sum.strained + (late!.strained - early!.strained) / 8,
        }),
        { calm: 0, strained: 0 },
      );
  it.each(['booking-front', 'seat-ledger'])(
    'of %s, failures and latency are those of its pods together',
    async (name) => {
      // a rate wants two readings of every pod
      for (const pod of world.world.podsOf('ticketing', name))
        await until(`a rate of ${pod.metadata.name}`, async () => {
          const { requests } = await bodyOf(`seaward/ticketing/deployment:${name}/${pod.metadata.name}`);
          return (requests[0]?.lines[0]?.values.at(-1) ?? null) !== null;
        });
      const body = await bodyOf(`seaward/ticketing/deployment:${name}`);
      const told = byTitle(body.requests);
      const answered = truth(name, Date.now() - 1000);
      const all = answered.calm + answered.strained;
      expect(Math.abs(told['Requests answered']![0]! / all - 1)).toBeLessThan(0.15);
      const failing = (answered.calm / 250 + answered.strained / 22) / all;
      // whole counts: few failures a second are told roughly
      expect(Math.abs(told['Failures']![0]! - failing)).toBeLessThan(0.03);
      const [half, nearlyAll] = told['Latency']!;
      expect(half).toBeLessThan(nearlyAll!);
      // booking-front is in its rush: half of its answers take longer than seat-ledger's usual
      if (name === 'booking-front') expect(half).toBeGreaterThan(0.1);
      else expect(half).toBeLessThan(0.05);
      // what a service answers is what its pods answer
      const service = await bodyOf(`seaward/ticketing/service:${name}`);
      expect(service.requests.map(({ title }) => title)).toEqual(body.requests.map(({ title }) => title));
      const [pod] = world.world.podsOf('ticketing', name);
      const one = byTitle((await bodyOf(`seaward/ticketing/deployment:${name}/${pod!.metadata.name}`)).requests);
      expect(one['Requests answered']![0]).toBeLessThan(told['Requests answered']![0]!);
    },
  );
  it('are told from the window compared with as well', async () => {
    const { from, to } = still();
    const path = 'usage/object?in=seaward/ticketing/deployment:booking-front';
    const middle = to - 10_000;
    const compared: SheetAnswer = await administrator.get(`${path}&from=${middle}&to=${to}&shift=10000`);
    const alone: SheetAnswer = await administrator.get(`${path}&from=${middle - 10_000}&to=${to - 10_000}`);
    expect(compared.requests[0]!.lines[0]!.against).toEqual(alone.requests[0]!.lines[0]!.values);
    expect(from).toBeLessThan(middle);
  });
  it('are not told of what serves none, nor to those who may not look', async () => {
    expect((await bodyOf('seaward/ticketing/deployment:fare-tables')).requests).toEqual([]);
    expect((await sheet('seaward/ticketing/deployment:booking-front', visitors.developer)).body.requests).toHaveLength(
      3,
    );
    expect((await sheet('seaward/ticketing/service:booking-front', visitors.nobody)).status).not.toBe(200);
  });
});

describe('one figure is the same wherever it stands', () => {
  const LEVELS = ['cluster', 'namespace', 'workload', 'pod', 'node'] as const;
  const PATHS = {
    cluster: 'seaward',
    namespace: 'seaward/ticketing',
    workload: 'seaward/ticketing/deployment:seat-ledger',
    pod: 'seaward/ticketing/deployment:seat-ledger/POD',
    node: 'seaward/node:seaward-03',
  } as const;
  it.each(LEVELS)(
    'in the column, the table and the sheet of a %s: use, limit, tightness, network, files',
    async (level) => {
      const window = await readSoFar();
      const [pod] = world.world.podsOf('ticketing', 'seat-ledger');
      const path = PATHS[level].replace('POD', pod!.metadata.name);
      const key = path.split('/').at(-1)!;
      // a column stands beside what is chosen in the one before it
      const above = level === 'cluster' ? 'seaward' : path.slice(0, path.lastIndexOf('/'));
      const by = level === 'node' ? '&by=node' : '';
      const at = `from=${window.from}&to=${window.to}`;
      const table = await administrator.get(`usage/table?in=${level === 'cluster' ? '' : above}&level=${level}&${at}`);
      const row = table.rows.find(({ path: own }: { path: string[] }) => own.join('/') === path);
      const body: SheetAnswer = await administrator.get(`usage/object?in=${path}&${at}`);
      const inSheet = {
        received: body.flows.find(({ title }) => title === 'Network')!.lines[0]!.values.at(-1),
        sent: body.flows.find(({ title }) => title === 'Network')!.lines[1]!.values.at(-1),
        files: body.flows.find(({ title }) => title.startsWith('File system'))!.lines[0]!.values.at(-1),
      };
      for (const of of ['received', 'sent', 'files'] as const) {
        const answer = await usage(above, of, window, administrator, by);
        const shown = columnOf(answer, level).find((one) => one.key === key || one.name === key)!;
        expect(shown.usage).toEqual(row.usage);
        expect(body.usage).toEqual(row.usage);
        expect(shown.other!.use).not.toBeNull();
        expect(row[of], `${of}, table`).toBeCloseTo(shown.other!.use!, 3);
        expect(inSheet[of], `${of}, sheet`).toBeCloseTo(shown.other!.use!, 3);
      }
    },
  );
});

describe('sheets go further down', () => {
  it('what is worst in a whole stands first', async () => {
    for (const path of ['seaward', 'seaward/manifests']) {
      const severities = (await bodyOf(path)).findings.map(({ severity }) => severity);
      expect(severities.length).toBeGreaterThan(0);
      expect(severities).toEqual([...severities].sort()); // "critical" before "warning"
    }
  });
  const processes = (body: SheetAnswer) => body.tables.find(({ title }) => title.startsWith('Processes'));
  it('processes of a node and of a pod, where something tells of them', async () => {
    const node = processes(await bodyOf('seaward/node:seaward-03'))!;
    expect(node.rows.map(([name]) => name)).toEqual([
      expect.stringMatching(/^node-agent \(\d+\)$/),
      expect.stringMatching(/^container-runner/),
      expect.stringMatching(/^time-keeper/),
    ]);
    const [pod] = world.world.podsOf('ticketing', 'seat-ledger');
    const path = `seaward/ticketing/deployment:seat-ledger/${pod!.metadata.name}`;
    const [row] = processes(await bodyOf(path))!.rows;
    expect(row).toEqual(['ledger (1)', expect.stringMatching(/^0\.\d\d$/), '584 MiB', '24', '71']);
    expect(processes(await bodyOf('seaward/ticketing/deployment:fare-tables'))).toBeUndefined();
  });
  it('a pod’s node, with its disk, on the pod’s axis', async () => {
    const [pod] = world.world.podsOf('ticketing', 'seat-ledger');
    const node = pod!['spec'].nodeName as string;
    const body = await bodyOf(`seaward/ticketing/deployment:seat-ledger/${pod!.metadata.name}`);
    const disk = body.flows.find(({ title }) => title === `Its node ${node}: file system`)!;
    const { size } = world.world.readings.nodeFiles(node, Date.now());
    expect(disk.limit!.at(-1)).toBe(size);
    expect(disk.lines[0]!.values.at(-1)).toBeGreaterThan(0.3 * size);
  });
  it('file entries run out while there is space: the claim, its volume and its namespace say so', async () => {
    await world.control('/fill?namespace=pier-data&claim=data-queue-0&minutes=0.05&what=entries');
    const path = 'seaward/pier-data/volume-claim:data-queue-0';
    // it is filled in steps: a warning comes first
    const body = await until('the finding at its worst', async () => {
      const own = await bodyOf(path);
      return own.findings.some(({ code, severity }) => code === 'volumeEntries' && severity === 'critical')
        ? own
        : null;
    });
    expect(body.findings.map(({ code }) => code)).toEqual(['volumeEntries']);
    expect(body.findings[0]).toMatchObject({ reason: expect.stringMatching(/inodes/) });
    expect(body.flows.map(({ title }) => title)).toContain('File entries (inodes)');
    expect((await bodyOf('seaward/pier-data')).findings.map(({ code }) => code)).toContain('volumeEntries');
    // a node tells of its own
    expect((await bodyOf('seaward/node:seaward-03')).flows.map(({ title }) => title)).toContain(
      'File entries (inodes) of the node',
    );
  });
});
