import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

/** Two clusters that do the same work: one serves its vitals as we call them, the other in words and units of its own. */
describe('a cluster with names, labels and units of its own', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let administrator: Visitor;
  const window = () => `from=${Date.now() - 60_000}`;
  const usage = async () => {
    const { columns } = await administrator.get(`usage?in=slipway&${window()}`);
    return columns[0].rows.find(({ name }: { name: string }) => name === 'slipway').usage;
  };

  beforeAll(async () => {
    world = await standIn({ clusters: ['seaward', 'slipway'] });
    served = await serve();
    ({ administrator } = await people(served));
    await world.control('/dialect?cluster=slipway&speaks=other');
    for (const name of ['seaward', 'slipway'])
      expect((await administrator.ask('POST', 'connections', connectionTo(world, 1, name))).status).toBe(201);
    await until('the pages are read', async () => {
      const { endpoints } = await administrator.get('sources');
      const own = endpoints.filter(({ kind }: { kind: string }) => kind === 'node');
      return own.length > 15 && own.every(({ state }: { state: string }) => state === 'read');
    });
  });
  afterAll(async () => {
    await served?.close();
    await world?.close();
  });

  it('stands in coverage as one gap with the step that mends it', async () => {
    // a cluster that answers late at first is a gap of its own until it is tried again
    const rows = await until('only the vitals are missing', async () => {
      const { rows: all } = await administrator.get('coverage?cluster=slipway');
      return all.length === 1 && all[0].step.does === 'vitals' ? all : null;
    });
    expect(rows[0]).toMatchObject({ kind: 'cluster', state: 'never', step: { does: 'vitals', to: 'slipway' } });
    expect(rows[0].reason).toContain('container.cpu.time and container.memory.working_set');
    expect((await usage()).cpu.use).toBeNull();
  });

  it('gets every vital proposed from what it serves; tried, they are found for every object', async () => {
    const { proposals, vitals } = await administrator.get('vitals/slipway');
    expect(vitals.every(({ series }: { series: number }) => series === 0)).toBe(true);
    const proposed = proposals.map(({ vital, mapping }: { vital: string; mapping: object }) => [vital, mapping]);
    expect(Object.fromEntries(proposed)).toEqual(
      Object.fromEntries(
        [
          [
            'container.cpu.time',
            {
              metric: 'box_cpu_usage_nanoseconds_total',
              factor: 1e-9,
              where: {},
              labels: { namespace: 'space', pod: 'box_group', container: 'box' },
            },
          ],
          [
            'container.cpu.throttled',
            expect.objectContaining({ metric: 'box_cpu_throttled_milliseconds_total', factor: 1e-3 }),
          ],
          ['container.memory.working_set', expect.objectContaining({ metric: 'box_mem_working_kib', factor: 1024 })],
          ['container.filesystem.usage', expect.objectContaining({ metric: 'box_disk_used_kib', factor: 1024 })],
          [
            'pod.network.io',
            expect.objectContaining({
              metric: 'group_net_octets_total',
              factor: 1,
              labels: { namespace: 'space', pod: 'box_group', direction: 'way' },
            }),
          ],
          ['volume.usage', expect.objectContaining({ metric: 'group_volume_used_kib' })],
          ['volume.capacity', expect.objectContaining({ metric: 'group_volume_capacity_kib' })],
          [
            'node.network.io',
            expect.objectContaining({
              metric: 'machine_net_octets_total',
              labels: { node: 'machine', direction: 'way' },
            }),
          ],
          ['node.filesystem.usage', expect.objectContaining({ metric: 'machine_disk_used_kib' })],
          ['node.filesystem.capacity', expect.objectContaining({ metric: 'machine_disk_capacity_kib' })],
          [
            'node.cpu.time',
            expect.objectContaining({ metric: 'machine_cpu_usage_nanoseconds_total', labels: { node: 'machine' } }),
          ],
          ['node.memory.working_set', expect.objectContaining({ metric: 'machine_mem_working_kib' })],
          ['node.network.errors', expect.objectContaining({ metric: 'machine_net_errors_total', factor: 1 })],
          ['node.device.errors', expect.objectContaining({ metric: 'machine_disk_errors_total', factor: 1 })],
          ['node.uptime', expect.objectContaining({ metric: 'machine_running_for_milliseconds', factor: 1e-3 })],
          ['node.inodes.used', expect.objectContaining({ metric: 'machine_disk_inodes_used', factor: 1 })],
          ['node.inodes.count', expect.objectContaining({ metric: 'machine_disk_inodes_max', factor: 1 })],
          ['volume.inodes.used', expect.objectContaining({ metric: 'group_volume_inodes_used' })],
          ['volume.inodes.count', expect.objectContaining({ metric: 'group_volume_inodes_max' })],
        ].filter(([vital]) => proposals.some((one: { vital: string }) => one.vital === vital)),
      ),
    );
    expect(proposals.length).toBeGreaterThanOrEqual(9);
    const document = {
      vitals: Object.fromEntries(
        proposals.map(({ vital, mapping }: { vital: string; mapping: object }) => [vital, mapping]),
      ),
    };
    const { body } = await administrator.ask('POST', 'vitals/slipway/try', document);
    const memory = body.vitals.find(({ vital }: { vital: string }) => vital === 'container.memory.working_set');
    expect([memory.objects, memory.example.value > 1e6]).toEqual([memory.ofObjects, true]);
    // nothing counts before it is saved
    expect((await usage()).cpu.use).toBeNull();
    expect((await administrator.ask('PUT', 'vitals/slipway', document)).status).toBe(200);
    await until('it is used', async () => (await usage()).cpu.use !== null);
    await until(
      'nothing is missing',
      async () => (await administrator.get('coverage?cluster=slipway')).rows.length === 0,
    );
  });

  it('is used as its own page says, in our units', async () => {
    const page = async () => {
      const { endpoints } = await administrator.get('sources');
      const own = endpoints.filter(
        ({ kind, connection }: { kind: string; connection: string }) => kind === 'node' && connection === 'slipway',
      );
      const texts = await Promise.all(
        own.map(async ({ id }: { id: number }) => (await administrator.get(`endpoints/${id}/page`)).text as string),
      );
      let kib = 0;
      for (const [, value] of texts.join('\n').matchAll(/^box_mem_working_kib\{[^}]*\} (\S+)/gm)) kib += Number(value);
      return kib * 1024;
    };
    const close = await until('both were read at about the same time', async () => {
      const [shown, said] = [(await usage()).memory.use, await page()];
      return Math.abs(shown - said) / said < 0.02 ? { shown, said } : null;
    });
    expect(close.said).toBeGreaterThan(1e8);
    // the drill goes down to the container, and its own sheet has its lines
    const { columns } = await administrator.get(`usage?in=slipway/boarding&${window()}`);
    expect(columns[2].rows[0].usage.memory.use).toBeGreaterThan(0);
    // seaward is read as before
    const seaward = await administrator.get(`usage?in=seaward&${window()}`);
    expect(
      seaward.columns[0].rows.find(({ name }: { name: string }) => name === 'seaward').usage.cpu.use,
    ).toBeGreaterThan(0);
  });

  it('refuses a mapping that leaves out what series are told apart by, and is undone as any configuration is', async () => {
    const half = {
      vitals: { 'container.cpu.time': { metric: 'box_cpu_usage_nanoseconds_total', labels: { container: 'box' } } },
    };
    const refused = await administrator.ask('PUT', 'vitals/slipway', half);
    expect([refused.status, refused.body.text]).toEqual([409, 'a pod is named by its uid, or by namespace and name']);
    const unknown = await administrator.ask('PUT', 'vitals/slipway', { vitals: { 'boat.speed': { metric: 'x' } } });
    expect(unknown.body.text).toMatch(/no vital boat\.speed/);
    expect((await administrator.ask('PUT', 'vitals/slipway', { vitals: {} })).status).toBe(200);
    await until('it is blind again', async () => (await usage()).cpu.use === null);
    const { revisions } = await administrator.get('admin/revisions');
    expect(revisions[0]).toMatchObject({
      what: 'mapped the vitals of slipway',
      changes: [{ kind: 'vitals', key: 'slipway', was: 'removed' }],
    });
  });
});
