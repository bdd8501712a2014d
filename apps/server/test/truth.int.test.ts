import type { SheetAnswer, UsageAnswer, UsageRow } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, nodePages, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';
import { type Told, truthAt } from './truth.ts';

const WINDOW = 16_000;
/** Of a reading it is known only that it is less than an interval old: what moves meanwhile may differ by this. */
const NEAR = 0.04;
/**
 * A rate is over four seconds here, and a page bears the time at which it was asked for: a machine that stands still for some
 * hundred milliseconds moves it by that. What is left out or counted twice shows in memory.
 */
const NEARNESS = { cpu: { use: 0.25, mean: 0.15 }, memory: { use: NEAR, mean: 0.08 } } as const;

let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let administrator: Visitor;

const ask = (path: string, from: number, to: number): Promise<UsageAnswer> =>
  administrator.get(`usage?in=${path}&from=${from}&to=${to}`);
const isObject = ({ kind, present }: UsageRow) => present && kind !== 'free' && kind !== 'unused' && kind !== 'itself';

beforeAll(async () => {
  world = await standIn();
  served = await serve();
  administrator = (await people(served)).administrator;
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 1))).status).toBe(201);
  await until('enough readings of every node', async () => {
    const endpoints = await nodePages(administrator);
    const tape = await administrator.get(`usage/tape?from=${Date.now() - 60_000}`);
    return (
      endpoints.length === 14 &&
      endpoints.every(({ state }) => state === 'read') &&
      tape.load.filter((value: number | null) => value !== null).length >= 24
    );
  });
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

/** Every row of every column on the way to each workload of these namespaces, with its path. */
async function everyLevel(namespaces: readonly string[], from: number, to: number): Promise<Map<string, UsageRow>> {
  const rows = new Map<string, UsageRow>();
  for (const namespace of namespaces) {
    const answer = await ask(`seaward/${namespace}`, from, to);
    rows.set('', answer.columns[0]!.rows[0]!);
    for (const row of answer.columns[1]!.rows.filter(isObject)) rows.set(row.key, row);
    for (const workload of answer.columns[2]!.rows.filter(isObject)) {
      const path = `${namespace}/${workload.key}`;
      rows.set(path, workload);
      const below = await ask(`seaward/${path}`, from, to);
      for (const pod of below.columns[3]?.rows.filter(isObject) ?? []) {
        rows.set(`${path}/${pod.key}`, pod);
        const deeper = await ask(`seaward/${path}/${pod.key}`, from, to);
        for (const container of deeper.columns[4]?.rows ?? [])
          rows.set(`${path}/${pod.key}/${container.key}`, container);
      }
    }
  }
  return rows;
}

/** What is between the least and the most of these, or as near as a reading is old. */
function between(value: number | null, all: readonly number[], what: string, near = NEAR): void {
  const [least, most] = [Math.min(...all), Math.max(...all)];
  const room = near * most + 1e-3;
  expect(value, `${what}: ${least} to ${most}`).toBeGreaterThanOrEqual(least - room);
  expect(value, `${what}: ${least} to ${most}`).toBeLessThanOrEqual(most + room);
}
const percentile = (values: readonly number[], share: number): number => {
  const sorted = [...values].sort((a, b) => a - b);
  const rank = share * (sorted.length - 1);
  const low = sorted[Math.floor(rank)]!;
  return low + (sorted[Math.ceil(rank)]! - low) * (rank - Math.floor(rank));
};

describe('every level of a cluster', () => {
  async function equalsTruth(namespaces: readonly string[], from: number, to: number): Promise<Map<string, Told>> {
    const rows = await everyLevel(namespaces, from, to);
    const [newest, older] = [truthAt(world.world, to), truthAt(world.world, to - 1100)];
    // the course of the window, a point in two seconds
    const course = Array.from({ length: WINDOW / 2000 - 3 }, (_, i) => truthAt(world.world, to - 500 - i * 2000));
    const known = [...newest.keys()].filter(
      (path) => path === '' || !path.includes('/') || namespaces.some((one) => path.startsWith(`${one}/`)),
    );
    for (const path of known) {
      const row = rows.get(path);
      const told = newest.get(path)!;
      expect(row, `${path} is shown`).toBeDefined();
      const levels = path.split('/').length;
      expect(row!.pods, `pods of ${path}`).toBe(levels === 4 ? 0 : told.pods);
      for (const resource of ['cpu', 'memory'] as const) {
        const figures = row!.usage[resource];
        const what = `${resource} of ${path || 'the cluster'}`;
        expect(figures.request, `${what}, request`).toBeCloseTo(told.request[resource], 6);
        const limit = told.limit[resource];
        if (limit === null) expect(figures.limit, `${what}, limit`).toBeNull();
        else expect(figures.limit, `${what}, limit`).toBeCloseTo(limit, 6);
        // what does not run is not read
        if (told.use[resource] === 0) continue;
        const near = NEARNESS[resource];
        between(figures.use, [told.use[resource], older.get(path)!.use[resource]], what, near.use);
        const during = course.map((one) => one.get(path)?.use[resource] ?? 0);
        between(
          figures.mean,
          [during.reduce((sum, one) => sum + one, 0) / during.length],
          `${what}, on average`,
          near.mean,
        );
        // a page bears the time at which it was asked for: over four seconds that moves a single rate, and the highest most
        if (limit !== null && resource === 'memory')
          between(figures.tightness, [percentile(during, 0.95) / limit], `tightness, ${what}`);
      }
    }
    return newest;
  }

  it('now, and at a moment before', async () => {
    const now = Date.now() - 1500;
    const told = await equalsTruth(['ticketing', 'tides', 'pier-data'], now - WINDOW, now);
    expect(told.size).toBeGreaterThan(100);
    await equalsTruth(['ticketing'], now - 6000 - WINDOW, now - 6000);
  });

  it('tightness is the 95th percentile of the course that the sheet draws, against the limit of each moment', async () => {
    const to = Date.now() - 1500;
    const [pod] = world.world.podsOf('ticketing', 'seat-ledger');
    const workload = 'seaward/ticketing/deployment:seat-ledger';
    for (const path of ['seaward', 'seaward/ticketing', workload, `${workload}/${pod!.metadata.name}`]) {
      const sheet: SheetAnswer = await administrator.get(`usage/object?in=${path}&from=${to - WINDOW}&to=${to}`);
      for (const resource of ['cpu', 'memory'] as const) {
        const { use, limit } = sheet[resource]!;
        const ratios = use.flatMap((value, i) => (value === null || limit[i] == null ? [] : [value / limit[i]!]));
        expect(ratios.length).toBeGreaterThan(10);
        expect(sheet.usage![resource].tightness, path).toBeCloseTo(percentile(ratios, 0.95), 9);
        expect(sheet.usage![resource].use).toBe(use.at(-1));
      }
    }
  });

  it('across a counter that begins anew: nothing is lost, and nothing is counted twice', async () => {
    const ordered = Date.now();
    await world.control('/restarts?namespace=pilotage&name=vessel-tracker&times=2');
    await until('both restarts, and readings after them', () => Date.now() > ordered + 10_000);
    const to = Date.now() - 1500;
    const path = 'pilotage/deployment:vessel-tracker';
    const { columns } = await ask(`seaward/${path}`, ordered - 6000, to);
    const pods = columns[3]!.rows;
    expect(pods.filter(({ restarts }) => restarts === 1)).toHaveLength(2);
    const truth = truthAt(world.world, to);
    for (const pod of pods)
      between(
        pod.usage.cpu.use,
        [truth.get(`${path}/${pod.key}`)!.use.cpu],
        `CPU of ${pod.name} after its restart`,
        NEARNESS.cpu.use,
      );
    for (const pod of pods) {
      const { cpu } = await administrator.get(
        `usage/object?in=seaward/${path}/${pod.key}&from=${ordered - 6000}&to=${to}`,
      );
      const usual = truth.get(`${path}/${pod.key}`)!.use.cpu;
      // before, while and after it begins anew: never less than nothing, never the work of two intervals in one,
      // and never the whole counter at once (which is hundreds of times as much)
      for (const use of cpu.use) if (use !== null) between(use, [0, usual * 1.5], `${pod.name} at any moment`);
    }
  });
});

/** The order of a sum may differ: numbers to twelve digits. */
const rounded = (value: unknown): unknown =>
  JSON.parse(JSON.stringify(value), (_, one) => (typeof one === 'number' ? Number(one.toPrecision(12)) : one));

describe('what was answered', () => {
  it('while it was new is answered again later, figure by figure', async () => {
    const path = 'seaward/ticketing/deployment:seat-ledger';
    const recorded: UsageAnswer[] = [];
    for (let i = 0; i < 2; i++) {
      const asked = Date.now();
      recorded.push(await administrator.get(`usage?in=${path}&from=${asked - 15_000}`));
      // an answer is kept for three seconds
      await until('the next one is worked out anew', () => Date.now() > asked + 3300);
    }
    expect(new Set(recorded.map(({ window }) => window.to)).size).toBe(recorded.length);
    for (const answer of recorded) {
      const again = await ask(path, answer.window.from, answer.window.to);
      expect(rounded(again.columns)).toEqual(rounded(answer.columns));
    }
  });
});
