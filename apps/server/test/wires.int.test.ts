import type { ImportAnswer, MapAnswer, MeasureAnswer } from '@zetopsis/contract';
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
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 3, 'landward'))).status).toBe(201);
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});
const map = (who: Visitor = administrator): Promise<MapAnswer> => who.get(`map?from=${Date.now() - 3_600_000}`);
const appOf = (key: string): string => key.split(/[:/]/).at(-1) ?? key;

interface Pair {
  readonly from: string;
  readonly to: string;
  readonly bytes: number;
}
const nameOf = ({ from, to }: { from: string; to: string }) => `${from} → ${to}`;
/** Bytes of each pair between two moments, as they are told. */
async function toldBetween(from: number, to: number): Promise<Map<string, number>> {
  const { body } = await administrator.ask('POST', 'measures/evaluate', {
    text: 'read link_bytes_total\n  where direction is "sent"\n  total for each from_workload, to_workload\n',
    in: [],
    from,
    to,
    step: to - from,
  });
  return new Map(
    (body as MeasureAnswer).series.map(({ labels, points }) => {
      const [before, after] = [points.at(-2)?.[1] ?? Number.NaN, points.at(-1)?.[1] ?? Number.NaN];
      const pair = { from: appOf(labels['from_workload'] ?? ''), to: appOf(labels['to_workload'] ?? '') };
      // what is told as it comes begins anew after a past
      return [nameOf(pair), after < before ? after : after - before];
    }),
  );
}
/** What went over the stand-in's network between two moments. */
const wires = (from: number, to: number) =>
  world.look(`/wires?cluster=landward&from=${from}&to=${to}`) as Promise<Pair[]>;
/** What is read every three seconds is read later where a machine is held up: it belongs to the minute in which it is read. */
const READ_LATER = 8000;

/** Those within some minutes are those that went over the stand-in's network. */
async function equalsTheWorld(from: number, to: number): Promise<void> {
  const told = await toldBetween(from, to);
  const least = await wires(from + READ_LATER, to - READ_LATER);
  const most = new Map((await wires(from - READ_LATER, to + READ_LATER)).map((pair) => [nameOf(pair), pair.bytes]));
  expect([...told.keys()].sort()).toEqual(least.map(nameOf).sort());
  for (const pair of least) {
    expect(told.get(nameOf(pair)), nameOf(pair)).toBeGreaterThanOrEqual(pair.bytes);
    expect(told.get(nameOf(pair)), nameOf(pair)).toBeLessThanOrEqual(most.get(nameOf(pair))!); // more than the least
  }
}

describe('links that machines count by address', () => {
  it('are worked out of the past that is brought in, as they would have been told then', async () => {
    const FIVE = 5 * MINUTE;
    const to = Math.floor((Date.now() - 20 * MINUTE) / FIVE) * FIVE;
    const from = to - 12 * FIVE;
    for (let n = 1; n <= 9; n++) {
      const node = `landward-0${n}`;
      const series = new Map<string, string[]>();
      for (let at = from - FIVE; at <= to; at += FIVE) {
        const response = await fetch(`${world.card.control}/page?cluster=landward&node=${node}&at=${at}`);
        for (const line of ((await response.json()) as string).split('\n')) {
          const found = /^(connection_bytes_total\{.*\}) (\S+)/.exec(line);
          if (found) series.set(found[1]!, [...(series.get(found[1]!) ?? []), `${found[1]} ${found[2]} ${at / 1000}`]);
        }
      }
      const lines = ['# TYPE connection_bytes counter', ...[...series.values()].flat(), '# EOF', ''];
      const { status } = await fetch(`${served.base}/api/imports?cluster=landward&what=samples&node=${node}`, {
        method: 'POST',
        headers: { cookie: administrator.session, 'content-type': 'text/plain' },
        body: lines.join('\n'),
      });
      expect(status).toBe(202);
    }
    // as much as in each minute since
    const minute = await until('links of the past', async () => {
      const told = await toldBetween(from, to);
      const pairs = await wires(Date.now() - MINUTE, Date.now());
      const equal = pairs.every((pair) => Math.abs(told.get(nameOf(pair))! / (60 * pair.bytes) - 1) < 0.01);
      return pairs.length > 0 && equal ? pairs : null;
    });
    const told = await toldBetween(from, to);
    expect([...told.keys()].sort()).toEqual(minute.map(nameOf).sort());
    const { imports } = await administrator.get('imports');
    const own = (imports as ImportAnswer[]).filter(({ about }) => about === 'links by address, of the past');
    expect(own.map(({ problem }) => problem)).toEqual(own.map(() => null));
  });
  it('are those of the world, byte by byte, also over the hand-over of an address, whose part is marked as uncertain', async () => {
    // within a minute, with time for the pod that gets the address to run in it; pods know the second of their beginning
    await until('the first part of a minute', () => Date.now() % MINUTE > 3000 && Date.now() % MINUTE < 20_000);
    const handed = Date.now();
    await world.control(
      '/hand-address?cluster=landward&namespace=yard-cranes&name=crane-reports&to_namespace=berths&to_name=berth-ledger',
    );
    const answer = await until('the minute after it is told', async () => {
      const own = await map();
      return own.at > handed + MINUTE ? own : null;
    });
    const pairs = answer.links.map(({ from, to }) => nameOf({ from: appOf(from), to: appOf(to) }));
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
