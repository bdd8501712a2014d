import { MeasureAnswer, type SheetAnswer, type UsageAnswer, type UsageRow } from '@zetopsis/contract';
import { builtIn } from '@zetopsis/core/measures';
import { OBJECT_LABELS } from '@zetopsis/core/scouting';
import { ownMapping, VITAL_LABELS, type Vital } from '@zetopsis/core/vitals';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, nodePages, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const MIB = 2 ** 20;

interface Stretch {
  readonly name: string;
  /** Before now, of the stretch's middle. */
  readonly ago: number;
  /** Between two readings. */
  readonly every: number;
  readonly cores: number;
  readonly memory: number;
  readonly files: number;
  /** Received, bytes per s. */
  readonly flow: number;
}
/** A day and more around each age, told every so often; each with figures of its own, so that none is taken for another. */
const STRETCHES: readonly Stretch[] = [
  { name: 'hours, every 15 s', ago: 20 * HOUR, every: 15_000, cores: 0.11, memory: 110, files: 11, flow: 1100 },
  { name: 'days, every 5 min', ago: 3 * DAY, every: 5 * MINUTE, cores: 0.22, memory: 120, files: 12, flow: 1200 },
  { name: 'days, every hour', ago: 9 * DAY, every: HOUR, cores: 0.33, memory: 130, files: 13, flow: 1300 },
  { name: 'weeks, every 15 s', ago: 24 * DAY, every: 15_000, cores: 0.44, memory: 140, files: 14, flow: 1400 },
  { name: 'weeks, every 5 min', ago: 40 * DAY, every: 5 * MINUTE, cores: 0.55, memory: 150, files: 15, flow: 1500 },
  { name: 'months, every 5 min', ago: 150 * DAY, every: 5 * MINUTE, cores: 0.66, memory: 160, files: 16, flow: 1600 },
  { name: 'months, every hour', ago: 200 * DAY, every: HOUR, cores: 0.77, memory: 170, files: 17, flow: 1700 },
];
const AROUND = 15 * HOUR;
const WINDOWS = [HOUR, 3 * HOUR, 12 * HOUR, DAY] as const;

const NOW = Math.floor(Date.now() / HOUR) * HOUR;
const begun = ({ ago, every }: Stretch) => Math.ceil((NOW - ago - AROUND) / every) * every;

/** The page of a node's past, one series after the other, each in the order of time. */
function past(): string {
  const pod = { [VITAL_LABELS.namespace]: 'ages', [OBJECT_LABELS.pod]: 'old-0', [VITAL_LABELS.podUid]: 'uid-old-0' };
  const container = { ...pod, [VITAL_LABELS.container]: 'main' };
  const families: { vital: Vital; type: string; labels: object; value: (one: Stretch, after: number) => number }[] = [
    { vital: 'container.cpu.time', type: 'counter', labels: container, value: ({ cores }, s) => 1000 + cores * s },
    { vital: 'container.memory.working_set', type: 'gauge', labels: container, value: ({ memory }) => memory * MIB },
    { vital: 'container.filesystem.usage', type: 'gauge', labels: container, value: ({ files }) => files * MIB },
    {
      vital: 'pod.network.io',
      type: 'counter',
      labels: { ...pod, [VITAL_LABELS.direction]: 'receive' },
      value: ({ flow }, s) => 5000 + flow * s,
    },
  ];
  const inOrder = [...STRETCHES].sort((a, b) => b.ago - a.ago);
  const lines = families.flatMap(({ vital, type, labels, value }) => {
    const { metric } = ownMapping(vital);
    const text = Object.entries(labels).map(([name, is]) => `${name}="${is}"`);
    const told = inOrder.flatMap((one) => {
      const from = begun(one);
      const count = Math.floor((2 * AROUND) / one.every);
      return Array.from({ length: count }, (_, i) => {
        const at = from + i * one.every;
        return `${metric}{${text.join(',')}} ${value(one, (at - from) / 1000)} ${at / 1000}`;
      });
    });
    return [`# TYPE ${metric.replace(/_total$/, '')} ${type}`, ...told];
  });
  return `${lines.join('\n')}\n# EOF\n`;
}

let served: Served;
let world: Awaited<ReturnType<typeof standIn>>;
let administrator: Visitor;

beforeAll(async () => {
  served = await serve();
  world = await standIn();
  ({ administrator } = await people(served));
  expect((await administrator.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
  await until('its nodes', async () => (await nodePages(administrator)).length === 14);
  const send = async (query: string, body: string) => {
    const response = await fetch(`${served.base}/api/imports?cluster=seaward&${query}`, {
      method: 'POST',
      headers: { cookie: administrator.session, 'content-type': 'text/plain' },
      body,
    });
    expect(response.status).toBe(202);
    const { id } = (await response.json()) as { id: number };
    return until('its end', async () =>
      (await administrator.get('imports')).imports.find(
        (one: { id: number; endedAt: number | null }) => one.id === id && one.endedAt !== null,
      ),
    );
  };
  const iso = (at: number) => new Date(at).toISOString();
  const object = {
    metadata: { name: 'old-0', namespace: 'ages', uid: 'uid-old-0', creationTimestamp: iso(NOW - 300 * DAY) },
    spec: {
      nodeName: 'seaward-01',
      containers: [{ name: 'main', resources: { limits: { cpu: '1', memory: '1Gi' }, requests: { cpu: '500m' } } }],
    },
    status: { phase: 'Running', containerStatuses: [{ name: 'main', state: { running: {} }, restartCount: 0 }] },
  };
  const state = JSON.stringify({ kind: 'pod', from: iso(NOW - 300 * DAY), to: iso(NOW - HOUR), object });
  expect(await send('what=states%20of%20objects', `${state}\n`)).toMatchObject({ state: 'done', added: 1 });
  const samples = await send('what=samples&node=seaward-01', past());
  expect(samples).toMatchObject({ state: 'done', problem: null, leftOut: 0, same: 0 });
  // a second time everything is known, and nothing is left out; but for what retention has thrown away meanwhile
  const again = await send('what=samples&node=seaward-01', past());
  expect(again).toMatchObject({ state: 'done', leftOut: 0 });
  expect(again.added + again.same).toBe(samples.added);
  const perFamily = (of: (one: Stretch) => boolean) =>
    STRETCHES.filter(of).reduce((sum, { every }) => sum + Math.floor((2 * AROUND) / every), 0);
  const kept = perFamily(({ ago }) => ago < 10 * DAY) / perFamily(() => true);
  expect(again.same).toBeGreaterThanOrEqual(kept * samples.added);
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

const rowOf = async (from: number, to: number, of: string, more = ''): Promise<UsageRow | undefined> => {
  const answer: UsageAnswer = await administrator.get(`usage?in=seaward&of=${of}&from=${from}&to=${to}${more}`);
  return answer.columns.find(({ level }) => level === 'namespace')?.rows.find(({ key }) => key === 'ages');
};
const figuresOf = (row: UsageRow | undefined) => ({
  cores: row?.usage.cpu.use,
  memory: row?.usage.memory.use,
  limit: [row?.usage.cpu.limit, row?.usage.memory.limit],
});
const near = (wanted: number) => ({
  asymmetricMatch: (got: unknown) => typeof got === 'number' && Math.abs(got / wanted - 1) < 0.02,
  toString: () => `about ${wanted}`,
});

describe.each(STRETCHES)('what lies $name back', (stretch) => {
  const { ago, cores, memory, files, flow } = stretch;
  it.each(WINDOWS)('has every figure in a window of %d ms, as it was', async (length) => {
    const to = NOW - ago + length / 2;
    const from = to - length;
    const received = await rowOf(from, to, 'received');
    expect({ ...figuresOf(received), received: received?.other?.use }).toEqual({
      cores: near(cores),
      memory: near(memory * MIB),
      limit: [1, 2 ** 30],
      received: near(flow),
    });
    expect((await rowOf(from, to, 'files'))?.other?.use).toEqual(near(files * MIB));
    const sheet = await administrator.get(`usage/object?in=seaward/ages&from=${from}&to=${to}`);
    expect([sheet.usage.cpu.use, sheet.usage.memory.use, sheet.cpu.empty, sheet.memory.empty]).toEqual([
      near(cores),
      near(memory * MIB),
      null,
      null,
    ]);
  });
});

describe.each(STRETCHES)('built-in measures of what lies $name back', (stretch) => {
  const { ago, every, cores, memory, files, flow } = stretch;
  // before, a rate looks at what there was not yet
  const begin = begun(stretch) + 4 * HOUR;
  const place = { cluster: 'seaward', namespace: 'ages' };
  it.each(WINDOWS)('equal what Usage shows in a window of %d ms, at each moment of it', async (length) => {
    const to = NOW - ago + length / 2;
    const from = to - length;
    const sheet: SheetAnswer = await administrator.get(`usage/object?in=seaward/ages&from=${from}&to=${to}`);
    const own = { apart: Math.max(5 * MINUTE, 2 * every) };
    const figures: [string | null | undefined, number][] = [
      [sheet.measures?.cpu, cores],
      [sheet.measures?.memory, memory * MIB],
      [builtIn('cpu', place, own), sheet.usage!.cpu.use!],
      [builtIn('memory', place), sheet.usage!.memory.use!],
      [builtIn('cpu share of limit', place, own), sheet.usage!.cpu.use! / sheet.usage!.cpu.limit!],
      [builtIn('memory share of limit', place), sheet.usage!.memory.use! / sheet.usage!.memory.limit!],
      [builtIn('files', place), files * MIB],
      [builtIn('network', place, own), flow],
    ];
    for (const [text, wanted] of figures) {
      const ask = async (when: object): Promise<MeasureAnswer> => {
        const { status, body } = await administrator.ask('POST', 'measures/evaluate', { text, in: [], ...when });
        expect([text, status, body.text]).toEqual([text, 200, expect.anything()]);
        return MeasureAnswer.parse(body);
      };
      const { series: now } = await ask({ at: to });
      expect([text, now[0]?.points[0]?.[1]]).toEqual([text, near(wanted)]);
      const { series: window } = await ask({ from, to });
      const points = window[0]!.points.filter(([at]) => at >= begin);
      expect(points.length).toBeGreaterThan(200);
      for (const [, value] of points) expect([text, value]).toEqual([text, near(wanted)]);
    }
  });
});

it('what is compared with has its figures, however far back it lies', async () => {
  const [first, ...others] = STRETCHES as readonly [Stretch, ...Stretch[]];
  const to = NOW - first.ago + HOUR;
  const from = to - 3 * HOUR;
  for (const { name, ago, cores, memory } of others) {
    const row = await rowOf(from, to, 'received', `&shift=${ago - first.ago}`);
    expect([name, row?.usage.cpu.use, row?.against?.cpu.use, row?.against?.memory.use]).toEqual([
      name,
      near(first.cores),
      near(cores),
      near(memory * MIB),
    ]);
  }
});
