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

/** Bytes of each pair within some minutes, as they are told, are those that went over the stand-in's network. */
async function equalsTheWorld(from: number, to: number): Promise<void> {
  const { body } = await administrator.ask('POST', 'measures/evaluate', {
    text: 'read link_bytes_total\n  where direction is "sent"\n  total for each from_workload, to_workload\n',
    in: [],
    from,
    to,
    step: to - from,
  });
  const told = new Map(
    (body as MeasureAnswer).series.map(({ labels, points }) => [
      `${appOf(labels['from_workload'] ?? '')} → ${appOf(labels['to_workload'] ?? '')}`,
      (points.at(-1)?.[1] ?? Number.NaN) - (points.at(-2)?.[1] ?? Number.NaN),
    ]),
  );
  const truth = new Map(
    (
      (await world.look(`/wires?cluster=landward&from=${from}&to=${to}`)) as {
        from: string;
        to: string;
        bytes: number;
      }[]
    ).map((pair) => [`${pair.from} → ${pair.to}`, pair.bytes]),
  );
  expect([...told.keys()].sort()).toEqual([...truth.keys()].sort());
  // what is read every second is up to a second apart from the minute's border
  for (const [pair, bytes] of truth) expect(told.get(pair)! / bytes, pair).toBeCloseTo(1, 1);
}

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
    await equalsTheWorld(answer.at - MINUTE, answer.at);
  });
  it('follow an address to whoever has it, over a hand-over: what went by it meanwhile is marked as uncertain', async () => {
    const handed = Date.now();
    await world.control(
      '/hand-address?cluster=landward&namespace=yard-cranes&name=crane-reports&to_namespace=berths&to_name=berth-ledger',
    );
    const answer = await until('the minute after it is told', async () => {
      const own = await map();
      return own.at > handed + MINUTE ? own : null;
    });
    const before = Math.floor(handed / MINUTE) * MINUTE;
    await equalsTheWorld(before, before + MINUTE);
    await equalsTheWorld(before + MINUTE, answer.at);
    const share = (from: string, to: string) =>
      answer.links.find((link) => appOf(link.from) === from && appOf(link.to) === to)?.uncertainShare;
    expect(share('berth-ledger', 'papers')).toBeGreaterThan(0);
    expect(share('berth-ledger', 'papers')).toBeLessThan(1);
    expect(share('ingress', 'harbour-dues')).toBe(0);
  });
  it('name nothing to who may see neither end', async () => {
    expect((await map(developer)).links).toEqual([]);
  });
});
