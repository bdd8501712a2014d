import { readFileSync } from 'node:fs';
import { MeasureAnswer } from '@zetopsis/contract';
import { EXAMPLES, INVENTORY_VITALS } from '@zetopsis/core/measures';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, people, type Served, serve, standIn, until, type Visitor, withToken } from './harness.ts';

const choice = <T>(...list: readonly T[]) => fc.constantFrom(...list);
const rest = fc
  .tuple(
    choice('', 'add labels workload, kind', 'add labels pod, node, team'),
    choice('', 'highest over 20s', 'average over 15s', 'count over 20s'),
    choice('', 'total overall', 'count overall', 'highest for each k8s_namespace_name', 'percentile 50 for each pod'),
    choice('', 'top 3', 'keep above 0'),
  )
  .map((steps) => steps.filter((step) => step !== '').join(' '));
const read = fc.oneof(
  fc.tuple(
    choice(
      'vital container.memory.working_set',
      'vital container.memory.limit',
      'vital workload.desired',
      'vital volume.usage',
      'container_memory_working_set_bytes',
    ),
    rest,
  ),
  fc
    .tuple(choice('vital container.cpu.time', 'vital container.cpu.throttled'), choice('growth', 'per second'), rest)
    .map(([source, step, more]) => [source, `${step} over 15s ${more}`] as const),
);
/** Any question; BEGIN stands for what comes first of every read. */
const askedBody = fc.oneof(
  read.map(([source, more]) => `read ${source} BEGIN ${more}`),
  fc
    .tuple(read, read)
    .map(
      ([[one, more], [other, most]]) =>
        `a = read ${one} BEGIN ${more} total overall\nb = read ${other} BEGIN ${most} count overall\nshow a * b`,
    ),
);
/** The order of a sum may differ: numbers to nine digits. */
const near = (value: number | null) => (value === null ? null : Number(value.toPrecision(9)));

/** Own questions, asked of a server that reads the stand-in. */
describe('measures', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let all: Awaited<ReturnType<typeof people>>;
  let administrator: Visitor;
  const NAMESPACE = 'k8s_namespace_name';
  const ask = (who: Visitor, text: string, more: object = {}) =>
    who.ask('POST', 'measures/evaluate', { text, at: Date.now(), ...more });
  type Series = MeasureAnswer['series'][number];
  const lines = async (who: Visitor, text: string, more: object = {}): Promise<Series[]> => {
    const { status, body } = await ask(who, text, more);
    expect([status, body.fields]).toEqual([200, undefined]);
    return MeasureAnswer.parse(body).series;
  };

  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    all = await people(served);
    ({ administrator } = all);
    expect((await administrator.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
    await until('its pages are read a few times', async () => {
      const [line] = await lines(administrator, 'read vital container.cpu.time per second over 15s total overall');
      return line !== undefined && line.points[0]![1] !== null && line.points[0]![2] === undefined;
    });
  });
  afterAll(async () => {
    await served?.close();
    await world?.close();
  });

  it('equal what Usage shows at that moment', async () => {
    const to = Date.now() - 3000;
    const { columns } = await administrator.get(`usage?in=seaward&from=${to - 60_000}&to=${to}`);
    const rows = columns[1].rows.filter(
      ({ kind, usage }: { kind: string | null; usage: { memory: { use: number | null } } }) =>
        kind === null && usage.memory.use !== null,
    );
    const told = await lines(administrator, `read vital container.memory.working_set total for each ${NAMESPACE}`, {
      at: to,
    });
    const byName = new Map(told.map(({ labels, points }) => [labels[NAMESPACE], points[0]![1]]));
    expect(rows.length).toBeGreaterThan(5);
    for (const { name, usage } of rows)
      expect([name, Math.abs(byName.get(name)! / usage.memory.use - 1) < 0.02]).toEqual([name, true]);
    expect(told[0]!.unit).toBe('bytes');
  });
  it('answer over a window, by text or by tree, with every binding when it is asked for', async () => {
    const text =
      'use = read vital container.cpu.time per second over 10s total overall\nhalf = from use / 2\nshow half * 2 as cores\n';
    const to = Date.now() - 2000;
    const window = { at: undefined, from: to - 20_000, to, step: 2000 };
    const { body } = await ask(administrator, text, { ...window, explain: true });
    expect(body.series[0].points).toHaveLength(11);
    expect(body.series[0].unit).toBe('cores');
    expect(body.shownAs).toBe('cores');
    const steps: MeasureAnswer['steps'] = MeasureAnswer.parse(body).steps;
    expect(steps.map(({ binding, text: own }) => [binding, own])).toEqual([
      ['use', 'read vital container.cpu.time'],
      ['use', 'per second over 10s'],
      ['use', 'total overall'],
      ['half', 'from use / 2'],
      [null, 'show half * 2 as cores'],
    ]);
    const [read, , total] = steps;
    expect(read!.read).toEqual({ series: body.read.series, samples: body.read.samples });
    expect(read!.lines).toBeGreaterThan(20);
    expect(total!.points.there + total!.points.none).toBe(11);
    expect(total!.series[0]!.points.at(-1)![1]).toBeCloseTo(body.series[0].points.at(-1)[1], 9);
    expect(body.read.series).toBeGreaterThan(20);
    const tree = {
      bindings: [],
      result: {
        is: 'chain',
        chain: {
          source: { is: 'vital', name: 'container.cpu.time' },
          steps: [
            { step: 'per second', stretch: { over: { value: 10, unit: 's' } } },
            { step: 'across', what: 'total', across: { overall: true } },
          ],
        },
      },
    };
    const answer = await administrator.ask('POST', 'measures/evaluate', { tree, from: to - 20_000, to, step: 2000 });
    expect(answer.body.series[0].points).toEqual(total!.series[0]!.points);
    expect(answer.body.text).toBe('read vital container.cpu.time\n  per second over 10s\n  total overall\n');
  });
  it('are sent as far as one can look at them, or all of it, piece by piece', async () => {
    const to = Date.now() - 2000;
    const window = { at: undefined, from: to - 990_000, to, step: 1000 };
    const told = async (more: object): Promise<MeasureAnswer> => {
      const { status, body } = await ask(administrator, 'read vital container.memory.working_set', {
        ...window,
        ...more,
      });
      expect(status).toBe(200);
      return MeasureAnswer.parse(body);
    };
    const [some, all] = [await told({}), await told({ all: true })];
    expect(some.series.length * 991).toBeLessThanOrEqual(100_000);
    expect(some.left).toBeGreaterThan(0);
    expect([all.left, all.series.length]).toEqual([0, some.series.length + some.left]);
    expect(all.series.slice(0, some.series.length)).toEqual(some.series);
  });
  it('that sheets name ask for what the sheets show, object by object', async () => {
    const to = Date.now() - 3000;
    const from = to - 60_000;
    const objects = [
      'seaward',
      'seaward/node:seaward-01',
      'seaward/ticketing',
      'seaward/ticketing/deployment:booking-front',
      'seaward/tides/deployment:gauge-reader',
      'seaward/team:ferries',
    ];
    const { columns } = await administrator.get(`usage?in=seaward/tides/deployment:gauge-reader&from=${from}&to=${to}`);
    const [pod] = columns.at(-1).rows;
    objects.push(`seaward/tides/deployment:gauge-reader/${pod.name}`);
    let compared = 0;
    for (const path of objects) {
      const sheet = await administrator.get(`usage/object?in=${encodeURIComponent(path)}&from=${from}&to=${to}`);
      const { start, step, count } = sheet.grid;
      const end = start + (count - 1) * step;
      const figures: [string, string | undefined, (number | null)[][]][] = [
        ['cpu', sheet.measures.cpu, [sheet.cpu.use]],
        ['memory', sheet.measures.memory, [sheet.memory.use]],
        ...[...sheet.requests, ...sheet.flows].map(
          ({
            title,
            measure,
            lines: own,
          }: {
            title: string;
            measure?: string;
            lines: { values: (number | null)[] }[];
          }) =>
            [title, measure, title === 'Latency' ? [own.at(-1)!.values] : own.map(({ values }) => values)] as [
              string,
              string | undefined,
              (number | null)[][],
            ],
        ),
      ];
      for (const [figure, text, shown] of figures) {
        if (text === undefined || shown.every((values) => values.every((value) => value === null))) continue;
        const told = await lines(administrator, text, { at: undefined, from: start, to: end, step });
        shown.forEach((values, n) => {
          const line = told[n];
          const both = values.flatMap((value, i) => {
            const [, own, flags] = line?.points[i] ?? [0, null];
            return value === null || own === null || flags?.includes('partial') ? [] : [[value, own] as const];
          });
          compared += both.length;
          const far = both.filter(([a, b]) => Math.abs(a - b) > 0.03 * Math.max(Math.abs(a), Math.abs(b)) + 1e-9);
          // a reading that came between the two questions moves a point or two
          expect([path, figure, n, far.length <= 2 ? [] : far.slice(0, 3), line !== undefined]).toEqual([
            path,
            figure,
            n,
            [],
            true,
          ]);
        });
      }
    }
    expect(compared).toBeGreaterThan(50);
    const path = encodeURIComponent('seaward/ticketing/deployment:booking-front');
    const { measures, usage } = await administrator.get(`usage/object?in=${path}&from=${from}&to=${to}`);
    const at = async (text: string) => (await lines(administrator, text, { at: to }))[0]?.points[0]?.[1];
    expect(await at(measures.memoryShare)).toBeCloseTo(usage.memory.use / usage.memory.limit, 2);
    expect(await at(measures.ready)).toBe(1);
    expect(await at(measures.restarts)).toBeGreaterThanOrEqual(0);
    expect((await ask(administrator, measures.memoryRunningOut)).status).toBe(200);
    expect((await ask(administrator, measures.throttled)).status).toBe(200);
  });
  it('add the workload and the team that a series belongs to, as Usage has them', async () => {
    const to = Date.now() - 3000;
    const told = await lines(
      administrator,
      'read vital container.memory.working_set add labels workload, kind, team, node total for each k8s_namespace_name, workload, kind, team',
      { at: to },
    );
    const { columns } = await administrator.get(`usage?in=seaward/ticketing&from=${to - 60_000}&to=${to}`);
    const rows = columns[2].rows.filter(
      ({ usage }: { usage: { memory: { use: number | null } } }) => usage.memory.use !== null,
    );
    expect(rows.length).toBeGreaterThan(2);
    for (const { name, usage } of rows) {
      const line = told.find(
        ({ labels }) => labels[NAMESPACE] === 'ticketing' && labels['workload'] === name.replace(/^.*:/, ''),
      );
      expect([name, Math.abs((line?.points[0]?.[1] ?? 0) / usage.memory.use - 1) < 0.02]).toEqual([name, true]);
    }
    expect(told.some(({ labels }) => (labels['team'] ?? '') !== '')).toBe(true);
  });
  const TRACE = '0af7651916cd43dd8448eb211c80319c';
  it('take the buckets of a histogram together, by its own name, with examples that lead to traces', async () => {
    const made = await administrator.ask('PUT', 'push-keys/boats', {
      team: null,
      namespace: null,
      cluster: null,
      labels: {},
      use: 'on',
    });
    const page = [
      '# TYPE boats_wait_seconds histogram',
      ...[
        ['0.5', 10],
        ['1', 30],
        ['+Inf', 40],
      ].map(
        ([bound, count]) =>
          `boats_wait_seconds_bucket{quay="north",le="${bound}"} ${count} # {trace_id="${TRACE}"} ${Number(bound) / 2 || 7} ${Date.now() / 1000}`,
      ),
      'boats_wait_seconds_count{quay="north"} 40',
      'boats_wait_seconds_sum{quay="north"} 31',
      '# EOF\n',
    ].join('\n');
    const pushed = await fetch(`${served.base}/api/push/page/quays`, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${made.body.made.token}`,
        'content-type': 'application/openmetrics-text; version=1.0.0',
      },
      body: page,
    });
    expect(pushed.status).toBe(200);
    const counted = await until('it is listed', async () => {
      const { metrics } = await administrator.get('measures/metrics?find=boats_wait_seconds_count');
      return metrics[0];
    });
    expect([counted.type, counted.unit, counted.series, counted.from]).toEqual(['counter', '', 1, 'boats: quays']);
    const one = async (text: string) => {
      const [line] = await until('it is kept', async () => {
        const found = await lines(administrator, text);
        return found.length > 0 ? found : null;
      });
      return [line!.labels['quay'], line!.unit, line!.points[0]![1], line!.points[0]![2]];
    };
    expect(await one('read boats_wait_seconds percentile 50 of buckets')).toEqual([
      'north',
      'seconds',
      0.75,
      undefined,
    ]);
    expect(await one('read boats_wait_seconds percentile 99 of buckets')).toEqual([
      'north',
      'seconds',
      1,
      ['at least'],
    ]);
    expect(await one('read boats_wait_seconds share below 500ms of buckets')).toEqual(['north', '', 0.25, undefined]);
    expect(await one('read boats_wait_seconds_count treat as counter')).toEqual(['north', '', 40, undefined]);
    const { metrics } = await administrator.get('measures/metrics?find=boats_wait');
    const own = metrics.find(({ name }: { name: string }) => name === 'boats_wait_seconds');
    expect(own).toMatchObject({ type: 'histogram', unit: 'seconds', series: 3 });
    expect((await ask(administrator, own.text)).status).toBe(200);
    const examples = async (who: Visitor): Promise<MeasureAnswer['examples']> => {
      const to = Date.now();
      const window = { at: undefined, from: to - 60_000, to };
      const { body } = await ask(who, 'read boats_wait_seconds percentile 95 of buckets', window);
      return MeasureAnswer.parse(body).examples;
    };
    const told = await examples(administrator);
    expect(told.map(({ value }) => value).sort()).toEqual([0.25, 0.5, 7]);
    for (const { labels } of told) expect(labels).toEqual({ trace_id: TRACE });
    expect(await examples(all.nobody)).toEqual([]);
  });
  it('say where and what is wrong, with the nearest name; and why nothing is drawn', async () => {
    const wrong = async (text: string, more: object = {}) => {
      const { status, body } = await ask(administrator, text, more);
      return [status, body.text];
    };
    expect(await wrong('read x\n  avrage over 5m')).toEqual([
      400,
      expect.stringMatching(/line 2, column 3: a step.*“average” is the nearest/),
    ]);
    expect(await wrong('read vital container.cpu.tim')).toEqual([
      400,
      expect.stringMatching(/“container\.cpu\.time” is the nearest/),
    ]);
    expect(await wrong('read vital container.cpu.time change over 5m')).toEqual([
      400,
      expect.stringMatching(/needs a gauge/),
    ]);
    expect((await wrong('show 1', { from: 1, to: 2 }))[0]).toBe(400);
    expect((await wrong('show 1', { at: undefined }))[0]).toBe(400);
    expect((await wrong('read x average over 401d'))[0]).toBe(400);
    expect((await wrong(`show ${'('.repeat(9000)}`))[0]).toBe(400);
    expect((await wrong('show 1', { tree: { bindings: [] } }))[0]).toBe(400);
    const nothing = async (text: string) => (await ask(administrator, text)).body.nothing;
    expect(await nothing('read boats_total growth over 5m')).toMatch(/Nothing bears the name “boats_total”/);
    expect(await nothing('read vital container.cpu.time where nothing is "x" per second over 1m')).toMatch(
      /No series fits/,
    );
    expect(await nothing('read vital container.memory.working_set keep above 900TiB')).toBe(
      'Series fit, and nothing of them was read in this window. Sources says whether their endpoints deliver.',
    );
    expect(await nothing('show 1')).toBeNull();
  });
  it('read what the inventory knows: each of its vitals, in units, within grants, as Usage shows it', async () => {
    const to = Date.now() - 3000;
    const { columns } = await administrator.get(`usage?in=seaward&from=${to - 60_000}&to=${to}`);
    const limits = await lines(
      administrator,
      `read vital container.memory.limit where cluster is "seaward" total for each ${NAMESPACE}`,
      { at: to },
    );
    const byName = new Map(limits.map(({ labels, points }) => [labels[NAMESPACE], points[0]![1]]));
    const limited = columns[1].rows.filter(
      ({ usage }: { usage: { memory: { limitIs: string } } }) => usage?.memory?.limitIs === 'limit',
    );
    expect(limited.length).toBeGreaterThan(3);
    for (const { name, usage } of limited) expect([name, byName.get(name)]).toEqual([name, usage.memory.limit]);
    expect(limits[0]!.unit).toBe('bytes');
    const empty: string[] = [];
    for (const name of INVENTORY_VITALS)
      if ((await lines(administrator, `read vital ${name}`)).length === 0) empty.push(name);
    expect(empty).toEqual([]);
    for (const text of ['read vital node.condition', 'read vital container.cpu.request whatever the scope']) {
      expect(await lines(all.nobody, text)).toEqual([]);
      const seen = new Set((await lines(all.developer, text)).map(({ labels }) => labels[NAMESPACE]));
      const everything = new Set((await lines(administrator, text)).map(({ labels }) => labels[NAMESPACE]));
      expect([text, seen.size < everything.size || seen.size === 0]).toEqual([text, true]);
    }
    const wrong = await ask(administrator, 'read vital container.memory.limits');
    expect(wrong.body.text).toMatch(/“container\.memory\.limit” is the nearest/);
    // a counter's steps do not suit what is in a state
    expect((await ask(administrator, 'read vital container.restarts growth over 5m')).status).toBe(400);
  });
  const examples = [...readFileSync('docs/measures.md', 'utf8').matchAll(/```measure\n([\s\S]*?)```/g)].map(
    ([, text]) => text!,
  );
  it('has ten questions in the guide, each a link that opens in the demo', () => {
    const guide = readFileSync('docs/guide.md', 'utf8');
    expect(EXAMPLES).toHaveLength(10);
    for (const { title, text, window, drawn } of EXAMPLES) {
      const query = new URLSearchParams({ window, measure: text, ...(drawn === null ? {} : { drawn }) });
      expect(guide).toContain(`[${title}](http://127.0.0.1:8484/measures?${query})`);
    }
  });
  examples.push(...EXAMPLES.map(({ text }) => text));
  it('has examples on its page', () => expect(examples.length).toBeGreaterThanOrEqual(10));
  it.each(examples.map((text) => [text.trim().replaceAll(/\s+/g, ' ').slice(0, 70), text] as const))(
    'runs the page’s example %s',
    async (_name, text) => {
      const to = Date.now() - 2000;
      await lines(administrator, text);
      // printed, it is the same text: the page shows how it is written
      const { body } = await ask(administrator, text, { at: undefined, from: to - 3_600_000, to });
      expect([body.text, body.code]).toEqual([text, undefined]);
    },
  );
  it('go no further than grants, whatever the scope; a token of less sees less', async () => {
    const text = `read vital container.memory.working_set whatever the scope total for each ${NAMESPACE}`;
    const names = async (who: Visitor, more: object = {}) =>
      new Set((await lines(who, text, more)).map(({ labels }) => labels[NAMESPACE]));
    const everything = await names(administrator);
    const own = await names(all.developer);
    expect(own.size).toBeGreaterThan(0);
    expect(own.size).toBeLessThan(everything.size);
    const { columns } = await all.developer.get(`usage?in=seaward&from=${Date.now() - 60_000}`);
    const seen = new Set(columns[1].rows.map(({ name }: { name: string }) => name));
    for (const name of own) expect(seen.has(name)).toBe(true);
    expect(await lines(all.nobody, text)).toEqual([]);
    const { body: hidden } = await ask(all.nobody, 'read container_memory_working_set_bytes');
    expect(hidden.nothing).toMatch(/Nothing bears the name/);
    expect((await all.nobody.get('measures/metrics')).metrics).toEqual([]);
    const token = await withToken(served, administrator, { level: 'read', cluster: 'seaward', namespace: 'tides' });
    expect([...(await names(token))]).toEqual(['tides']);
    // a scope narrows what does not say that it looks beyond
    const narrow = await lines(administrator, `read vital container.memory.working_set total for each ${NAMESPACE}`, {
      in: ['seaward', 'tides'],
    });
    expect(narrow.map(({ labels }) => labels[NAMESPACE])).toEqual(['tides']);
    expect((await ask(administrator, text, { in: ['seaward', 'node:x'] })).status).toBe(400);
  });

  it('whatever is asked, tells of others neither by name nor in a sum: random bodies, as a developer and as a token', async () => {
    const token = await withToken(served, administrator, { level: 'read', cluster: 'seaward', namespace: 'tides' });
    const { columns } = await all.developer.get(`usage?in=seaward&from=${Date.now() - 60_000}`);
    const namespaces: string[] = columns[1].rows
      .filter(({ kind }: { kind: string | null }) => kind === null)
      .map(({ name }: { name: string }) => name);
    const askers: readonly [Visitor, readonly string[]][] = [
      [all.developer, namespaces],
      [token, ['tides']],
      [all.nobody, []],
    ];
    const at = Date.now() - 4000;
    const bodies = fc.sample(askedBody, { seed: 17, numRuns: 40 });
    let told = 0;
    for (const body of bodies)
      for (const [who, own] of askers) {
        const only = own.length === 0 ? '"-"' : own.map((name) => `"${name}"`).join(', ');
        // what an administrator sees of these namespaces alone is all that they may see
        const narrowed = body.replaceAll('BEGIN', `where ${NAMESPACE} is any of (${only})`);
        const [theirs, all] = await Promise.all([
          lines(who, body.replaceAll('BEGIN', 'whatever the scope'), { at }),
          lines(administrator, narrowed, { at }),
        ]);
        const plain = (series: readonly Series[]) =>
          series.map(({ labels, points }) => [labels, points.map(([t, value, marks]) => [t, near(value), marks])]);
        expect([body, plain(theirs)]).toEqual([body, plain(all)]);
        told += theirs.length;
      }
    expect(told).toBeGreaterThan(100);
  });
});
