import { Reach } from '@zetopsis/core/access';
import { readPage, samplesOf } from '@zetopsis/core/exposition';
import pg from 'pg';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { ImportsService } from '../src/inflow/imports/imports.service.ts';
import { EndpointAnswersService } from '../src/inflow/scraping/endpointAnswers.service.ts';
import { EndpointsService } from '../src/inflow/scraping/endpoints.service.ts';
import { JournalQueue } from '../src/keeping/store/journalQueue.ts';
import { LeaseService } from '../src/keeping/store/lease.service.ts';
import { NewestReadings } from '../src/keeping/store/newestReadings.ts';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import { StoreWorkers } from '../src/keeping/store/storeWorkers.service.ts';
import { connectionTo, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

const MEMORY = 'container_memory_working_set_bytes';
const CPU = 'container_cpu_time_seconds_total';

describe('reading endpoints', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let administrator: Visitor;
  let id: string;
  const samples = () => served.app.get(SamplesService, { strict: false });
  const endpoints = () => served.app.get(EndpointAnswersService, { strict: false });
  const pages = () =>
    endpoints()
      .list(Reach.ofZetopsis())
      .filter(({ kind }) => kind === 'node');
  const endpoint = async (node: string) =>
    (await administrator.get('sources')).endpoints.find((one: { name: string }) => one.name === node);

  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    ({ administrator } = await people(served));
    id = (await administrator.ask('POST', 'connections', connectionTo(world))).body.id;
    await until(
      'every page read twice',
      () =>
        pages().length === 14 &&
        samples()
          .select(MEMORY)
          .every((one) => samples().recent(one).times.length >= 2) &&
        samples().select(MEMORY).length > 100,
    );
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  // a test that fails leaves no broken page behind
  afterEach(() => world.control('/break?node=seaward-02'));

  it('follows no clock that is ahead, and says so; once it is set right, nothing seems to have started anew', async () => {
    const node = async () => {
      const { columns } = await administrator.get(`usage?in=seaward&by=node&from=${Date.now() - 60_000}`);
      return columns[1].rows.find(({ name }: { name: string }) => name === 'seaward-04');
    };
    await world.control('/skew?node=seaward-04&seconds=90');
    await until('the clock is found', async () => /clock is \d\d s ahead/.test((await node()).finding ?? ''));
    // what it says meanwhile is read all the same
    await until('it is read meanwhile', async () => (await node()).usage.cpu.use !== null);
    await world.control('/skew?node=seaward-04&seconds=0');
    await until('it is right again', async () => (await node()).finding === null);
    const { cpu } = (await node()).usage;
    expect(cpu.use).toBeLessThan(cpu.limit);
    expect(cpu.peak).toBeLessThan(cpu.limit);
  });

  it('stores what the page said at that moment', async () => {
    let compared = 0;
    for (const one of samples().select(MEMORY)) {
      const { times, values } = samples().recent(one);
      const node = samples().label(one, 'k8s_node_name');
      const page = readPage(
        new TextEncoder().encode((await world.look(`/page?node=${node}&at=${times[1] ?? 0}`)) as string),
        { form: 'openmetrics' },
      );
      const said = samplesOf(page).find(
        ({ name, labels }) =>
          name === MEMORY && labels.every(([label, value]) => samples().label(one, label) === value),
      );
      if (times.length < 2 || Number.isNaN(values[1])) continue; // a run that ended between two readings
      // the scheduled time stands for the true one, at most 1 % of the interval apart
      expect(Math.abs(values[1]! / said!.value - 1)).toBeLessThan(0.001);
      if (++compared >= 40) break;
    }
    expect(compared).toBe(40);
  });

  it('reads again and again, each endpoint at its own place in the interval, and never the same moment twice', async () => {
    const [one] = samples().select(CPU);
    await until('six readings', () => samples().recent(one!).times.length >= 6);
    const { times } = samples().recent(one!);
    const gaps = Array.from(times)
      .slice(1)
      .map((time, i) => time - times[i]!);
    expect(gaps.every((gap) => gap > 0)).toBe(true);
    const phases = new Set(pages().map(({ nextDueAt }) => nextDueAt! % 1000));
    expect(phases.size).toBe(14);
  });

  it.each([
    ['refuse', /program itself failed \(503\)/],
    ['torn', /cut off/],
    ['notMetrics', /not a metrics page: it is of type text\/html/],
    ['hang', /No answer within/],
  ])('a page that does “%s” is a gap with its reason, and recovers', async (how, words) => {
    await world.control(`/break?node=seaward-02&how=${how}`);
    const failing = await until('failing', async () => {
      const now = await endpoint('seaward-02');
      return now.state === 'failing' && words.test(now.lastError) ? now : null;
    });
    expect(failing.lastErrorAt).toBeGreaterThan(failing.lastReadingAt);
    // its neighbour goes on, however busy the machine is
    await until('the neighbour', async () => (await endpoint('seaward-03')).state === 'read');
    const tape = await administrator.get(`usage/tape?in=seaward&from=${Date.now() - 60_000}`);
    expect(tape.gaps.some(({ reason }: { reason: string }) => words.test(reason))).toBe(true);
    await world.control('/break?node=seaward-02');
    await until('read again', async () => (await endpoint('seaward-02')).state === 'read');
  });

  it('shows the raw page beside what was understood', async () => {
    const { id: number } = await endpoint('seaward-01');
    const page = await administrator.get(`endpoints/${number}/page`);
    expect(page.text).toMatch(/^# TYPE container_cpu_time_seconds counter\n/);
    expect(page).toMatchObject({ problemCount: 0, cut: false });
    expect(page.families).toContainEqual({
      name: 'container_memory_working_set_bytes',
      type: 'gauge',
      unit: 'bytes',
      samples: expect.any(Number),
    });
    expect((await administrator.ask('GET', 'endpoints/99999/page')).status).toBe(404);
  });

  it('answers the same from chunks as from memory, and after a restart', async () => {
    const ids = samples().select(CPU).slice(0, 30);
    const to = Date.now();
    const before = await samples().read({ ids, from: 0, to });
    const plain = (read: typeof before) =>
      ids.map((one) => ({
        times: Array.from(read.get(one)!.times).filter((at) => at <= to - 3000),
        values: Array.from(read.get(one)!.values),
      }));
    const cut = (rows: ReturnType<typeof plain>) =>
      rows.map(({ times, values }) => ({ times, values: values.slice(0, times.length) }));
    const until = to - 2000;
    for (const { id: number } of pages()) {
      expect(served.app.get(JournalQueue, { strict: false }).awaits(number, until)).toBe(false);
      const newest = served.app.get(NewestReadings, { strict: false });
      newest.beginPacking(number, until);
      const lease = served.app.get(LeaseService, { strict: false });
      const workers = served.app.get(StoreWorkers, { strict: false });
      await workers.do<'pack'>({ kind: 'pack', epoch: lease.epoch, endpoint: number, until });
      // nothing is kept in memory of what is packed
      newest.packedTo(number, until, 0);
      newest.endPacking(number);
    }
    expect(cut(plain(await samples().read({ ids, from: 0, to })))).toEqual(cut(plain(before)));
    const again = await serve({ ZETOPSIS_DATA_DIR: served.config.dataDir }, served.config.databaseUrl);
    try {
      const other = again.app.get(SamplesService, { strict: false });
      expect(cut(plain(await other.read({ ids, from: 0, to })))).toEqual(cut(plain(before)));
      expect(other.select(CPU).length).toBe(samples().select(CPU).length);
    } finally {
      await again.app.close();
    }
  });

  it('takes a timed page into the past, without a seam and without doubling', async () => {
    const [plan] = served.app.get(EndpointsService, { strict: false }).plansOf(id);
    const now = Date.now();
    const lines = (count: number) =>
      Array.from(
        { length: count },
        (_, i) =>
          `${MEMORY}{k8s_pod_uid="old",k8s_container_name="c",k8s_node_name="${plan!.name}"} ${1000 + i} ${(now - 600_000 + i * 10_000) / 1000}`,
      );
    const page = new TextEncoder().encode(`# TYPE ${MEMORY} gauge\n${lines(50).join('\n')}\n# EOF\n`);
    const imports = served.app.get(ImportsService, { strict: false });
    const bring = async () => {
      const { answer, done } = await imports.takeParts({ cluster: 'seaward', about: plan!.name, by: 'maren' }, [
        { endpointId: plan!.id, page: async () => page },
      ]);
      await done;
      return (await imports.list(Reach.ofZetopsis())).find((run) => run.id === answer.id);
    };
    expect(await bring()).toMatchObject({ state: 'done', added: 50, same: 0, other: 0, leftOut: 0 });
    expect(await bring()).toMatchObject({ state: 'done', added: 0, same: 50, other: 0, leftOut: 0 });
    const [one] = samples().select(MEMORY, [{ label: 'k8s_pod_uid', is: 'old' }]);
    const read = (await samples().read({ ids: [one!], from: 0, to: now })).get(one!)!;
    expect(Array.from(read.values)).toEqual(Array.from({ length: 50 }, (_, i) => 1000 + i));
    expect(Array.from(read.times)).toEqual(Array.from({ length: 50 }, (_, i) => now - 600_000 + i * 10_000));
  });

  it('a pod that goes ends its series at once; a new one is found', async () => {
    const before = samples().select(MEMORY, [{ label: 'k8s_container_name', is: 'quay-board' }]);
    await world.control('/scale?namespace=berths&name=quay-board&replicas=0');
    await until('ended', () => before.every((one) => Number.isNaN(samples().recent(one).values.at(-1)!)));
    await world.control('/scale?namespace=berths&name=quay-board&replicas=1');
    const after = await until('new series', () => {
      const all = samples().select(MEMORY, [{ label: 'k8s_container_name', is: 'quay-board' }]);
      return all.length === before.length + 1 ? all : null;
    });
    expect(new Set(after).size).toBe(after.length);
  });

  it('use, request and limit of every level equal a recomputation from the objects and pages', async () => {
    const answer = await administrator.get(
      `usage?in=seaward/ticketing/deployment:seat-ledger&from=${Date.now() - 60_000}`,
    );
    const [clusters, namespaces, workloads, pods] = answer.columns;
    const ledger = workloads.rows.find(({ key }: { key: string }) => key === 'deployment:seat-ledger');
    expect(ledger.usage.cpu).toMatchObject({ request: 1.6, limit: 3.2 });
    expect(ledger.usage.memory).toMatchObject({ request: 4 * 512 * 2 ** 20, limit: 4 * 2 ** 30 });
    expect(pods.rows).toHaveLength(4);
    const sum = (rows: { usage: { memory: { use: number | null } } }[]) =>
      rows.reduce((total, row) => total + (row.usage.memory.use ?? 0), 0);
    expect(sum(pods.rows)).toBe(ledger.usage.memory.use);
    // what nobody uses stands behind those who do, and is no part of the sum
    const spare = ({ kind }: { kind: string | null }) => kind === 'free' || kind === 'unused' || kind === 'itself';
    expect(sum(namespaces.rows.filter((row: { kind: string | null }) => !spare(row)))).toBe(
      clusters.rows[0].usage.memory.use,
    );
    const free = namespaces.rows.find((row: { kind: string | null }) => row.kind === 'free').usage.memory;
    const itself = namespaces.rows.find((row: { kind: string | null }) => row.kind === 'itself').usage.memory;
    const { use, request, limit } = clusters.rows[0].usage.memory;
    expect(itself.use).toBeGreaterThan(0);
    expect(free.use).toBeCloseTo(limit - Math.max(use + itself.use, request), 0);
    expect(clusters.rows[0].usage.cpu.limit).toBeCloseTo(12 * 7.75 + 2 * 15.5, 6);
    const { nodes } = await administrator.get(`usage/object?in=seaward&from=${Date.now() - 60_000}`);
    expect(nodes).toHaveLength(14);
    const node = nodes.find(({ name }: { name: string }) => name === 'seaward-05');
    expect(node.usage.cpu).toMatchObject({ limit: 15.5, limitIs: 'allocatable' });
    expect(node.usage.memory.use).toBeGreaterThan(1.4e9);
    const asked = nodes.reduce(
      (total: number, row: { usage: { cpu: { request: number } } }) => total + row.usage.cpu.request,
      0,
    );
    expect(asked).toBeCloseTo(clusters.rows[0].usage.cpu.request, 6);
    // 0.52 cores each, give or take their waves
    expect(ledger.usage.cpu.use / 4 / 0.52).toBeGreaterThan(0.6);
    expect(ledger.usage.cpu.use / 4 / 0.52).toBeLessThan(1.4);
  });

  it('tells open pages what changed', async () => {
    const controller = new AbortController();
    const response = await fetch(`${served.base}/api/live`, {
      headers: { cookie: administrator.session },
      signal: controller.signal,
    });
    expect(response.headers.get('content-type')).toContain('text/event-stream');
    let text = '';
    for await (const piece of response.body!) {
      text += Buffer.from(piece).toString();
      if (/"samples"/.test(text)) break;
    }
    expect(text).toMatch(/data: \{"topics":\[/);
    controller.abort();
  });

  it('a removed cluster leaves nothing behind', async () => {
    expect((await administrator.ask('DELETE', `connections/${id}`)).status).toBe(204);
    await until('no endpoint', () => pages().filter(({ state }) => state !== 'retired').length === 0);
    expect((await administrator.get('sources')).connections).toEqual([]);
    expect(samples().select(CPU)).toEqual([]);
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    // what Zetopsis reads of itself stays
    const left = async (table: string, where = 'where endpoint_id not in (select id from endpoint where own)') =>
      Number((await client.query(`select count(*) from ${table} ${where}`)).rows[0].count);
    await until(
      'no rows',
      async () =>
        (await left('journal')) +
          (await left('chunk')) +
          (await left('series')) +
          (await left('object_version', '')) ===
        0,
    );
    await client.end();
    expect((await administrator.ask('GET', `usage/object?in=seaward&from=${Date.now() - 1000}`)).status).toBe(404);
  });
});
