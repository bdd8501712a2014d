import type { MapAnswer, MeasureAnswer } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, newDatabase, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

const MINUTE = 60_000;
let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let administrator: Visitor;
let developer: Visitor;

// no program of this cluster tells spans: who talks to whom is known by what its nodes count
beforeAll(async () => {
  world = await standIn({ clusters: ['landward'] });
  served = await serve({}, await newDatabase());
  ({ administrator, developer } = await people(served));
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 1, 'landward'))).status).toBe(201);
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});
const map = (who: Visitor = administrator): Promise<MapAnswer> => who.get(`map?from=${Date.now() - 3_600_000}`);
const appOf = (key: string): string => key.split(/[:/]/).at(-1) ?? key;

describe('links that machines count by address', () => {
  it('are those of the world, byte by byte, in a minute that is over', async () => {
    const answer = await until('two minutes are told', async () => {
      const own = await map();
      return own.links.filter(({ course }) => course.filter((one) => one !== null && one > 0).length >= 2).length >= 8
        ? own
        : null;
    });
    const pairs = answer.links.map(({ from, to }) => `${appOf(from)} → ${appOf(to)}`);
    expect(pairs.sort()).toEqual(
      [
        'ingress → harbour-dues',
        'ingress → invoice-desk',
        'harbour-dues → berth-ledger',
        'berth-ledger → papers',
        'invoice-desk → tariff-tables',
        'invoice-desk → papers',
        'shift-ledger → badge-desk',
        'crane-reports → papers',
      ].sort(),
    );
    for (const link of answer.links) {
      expect(link).toMatchObject({ by: 'bytes', sent: null, received: null, state: null });
      expect(link.connections).toBeGreaterThan(0);
    }
    const { body } = await administrator.ask('POST', 'measures/evaluate', {
      text: 'read link_bytes_total\n  where direction is "sent"\n  growth over 1m\n  total for each from_workload, to_workload\n',
      in: [],
      at: answer.at,
    });
    const told = new Map(
      (body as MeasureAnswer).series.map(({ labels, points }) => [
        `${appOf(labels['from_workload'] ?? '')} → ${appOf(labels['to_workload'] ?? '')}`,
        points.at(-1)?.[1] ?? 0,
      ]),
    );
    const truth = new Map<string, number>();
    for (const { from, to, bytes } of (await world.look(
      `/wires?cluster=landward&from=${answer.at - MINUTE}&to=${answer.at}`,
    )) as { from: string; to: string; bytes: number }[])
      truth.set(`${from} → ${to}`, (truth.get(`${from} → ${to}`) ?? 0) + bytes);
    expect([...told.keys()].sort()).toEqual([...truth.keys()].sort());
    // what is read every second is up to a second apart from the minute's border
    for (const [pair, bytes] of truth) expect(told.get(pair)! / bytes, pair).toBeCloseTo(1, 1);
  });
  it('name nothing to who may see neither end', async () => {
    expect((await map(developer)).links).toEqual([]);
  });
});
