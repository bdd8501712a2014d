import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { nodePage } from '../pages/nodePages.ts';
import { podAnswer } from '../programs/podPrograms.ts';
import { LABELS, METRICS } from '../wire-names.ts';
import { Endings } from './endings.ts';
import { CLUSTERS, HOUR } from './scenario/index.ts';
import { World } from './world.ts';

const START = Date.UTC(2026, 2, 10, 12);
const plan = CLUSTERS.find(({ name }) => name === 'seaward')!;
const world = (endings = new Endings(null), now = START) =>
  new World(
    {
      plan,
      seed: 'test',
      start: START,
      pace: 1,
      nodePorts: plan.nodes.map((_, i) => 1000 + i),
      firstVersion: 1,
      heartbeat: 1e9,
      endings,
    },
    now,
  );
afterEach(() => void vi.useRealTimers());

const withoutExample = (line: string): string => line.replace(/ # .*$/, '');
/** Values by series, as the page has them. */
const valuesOf = (page: string): Map<string, number> =>
  new Map(
    page
      .split('\n')
      .filter((line) => line !== '' && !line.startsWith('#'))
      .map(withoutExample)
      .map((line) => {
        const parted = line.lastIndexOf(' ');
        return [line.slice(0, parted), Number(line.slice(parted + 1))];
      }),
  );

describe('requests that programs answer', () => {
  const pageAt = (made: World, app: string, at: number) => {
    vi.setSystemTime(at);
    const [pod] = made.podsOf('ticketing', app);
    return valuesOf(podAnswer({ world: made, pod: pod!, port: 9102, target: '/metrics' })!.body);
  };
  it.each(['booking-front', 'seat-ledger'])('%s: buckets only grow, upwards and in time', (app) => {
    vi.useFakeTimers({ now: START });
    const made = world();
    const [early, late] = [pageAt(made, app, START + 1000), pageAt(made, app, START + HOUR)];
    expect([...late.keys()]).toEqual([...early.keys()]);
    let below = 0;
    for (const [series, value] of late) {
      if (series.includes('_bucket')) {
        expect(value).toBeGreaterThanOrEqual(series.includes('le="0.01"') ? 0 : below);
        below = value;
      }
      if (!series.includes('_open_') && !series.includes('_threads') && !series.startsWith('process_'))
        expect([series, value]).toEqual([series, expect.toSatisfy((own) => own >= early.get(series)!)]);
    }
    for (const [series, value] of late)
      if (series.includes('le="+Inf"')) {
        const count = series
          .replace('_bucket', '_count')
          .replace(/,?le="\+Inf"/, '')
          .replace('{}', '');
        expect([series, late.get(count)]).toEqual([series, value]);
      }
  });
  it('tell an example of each bucket that has some, between its bounds, with its trace', () => {
    vi.useFakeTimers({ now: START + HOUR });
    const made = world();
    const [pod] = made.podsOf('ticketing', 'booking-front');
    const { body } = podAnswer({ world: made, pod: pod!, port: 9102, target: '/metrics' })!;
    const told = [...body.matchAll(/le="([\d.]+)"} \d+ # {trace_id="([0-9a-f]{32})"} ([\d.]+) ([\d.]+)/g)];
    expect(told.length).toBeGreaterThan(8);
    expect(new Set(told.map(([, , trace]) => trace)).size).toBe(told.length);
    for (const [, bound, , value, at] of told) {
      expect([bound, Number(value) <= Number(bound)]).toEqual([bound, true]);
      expect(Math.abs(Number(at) * 1000 - START - HOUR)).toBeLessThan(60_000);
    }
  });
  it('in the rush more of booking-front’s fail, and they take longer', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    const share = (from: number, to: number, of: RegExp) => {
      const [early, late] = [pageAt(made, 'booking-front', from), pageAt(made, 'booking-front', to)];
      const grown = (which: (series: string) => boolean) =>
        [...late]
          .filter(([series]) => which(series))
          .reduce((sum, [series, value]) => sum + value - early.get(series)!, 0);
      return grown((series) => of.test(series)) / grown((series) => series.includes('_count'));
    };
    const [rush, after] = [
      [START, START + HOUR],
      [START + 26 * HOUR, START + 27 * HOUR],
    ] as const;
    const failed = new RegExp(`_count.*${LABELS.httpStatus}="503"`);
    expect(share(...rush, failed)).toBeGreaterThan(5 * share(...after, failed));
    const fast = /_bucket.*le="0\.1"/;
    expect(share(...rush, fast)).toBeLessThan(0.4 * share(...after, fast));
  });
});

describe('nodes', () => {
  it('tell of entries of their file system and of processes', () => {
    const values = valuesOf(nodePage({ world: world(), node: 'seaward-01', now: START + HOUR, times: null }));
    const of = (metric: string) => [...values].filter(([series]) => series.startsWith(metric));
    const [[, used] = ['', 0]] = of(METRICS.nodeEntriesUsed);
    const [[, count] = ['', 0]] = of(METRICS.nodeEntries);
    expect(used).toBeGreaterThan(0);
    expect(used).toBeLessThan(count);
    expect(of(METRICS.processMemory)).toHaveLength(3);
  });
  it('tell numbers, whatever runs on them', () => {
    const made = world();
    for (const { name } of plan.nodes)
      for (const [series, value] of valuesOf(nodePage({ world: made, node: name, now: START + HOUR, times: null })))
        expect([series, Number.isFinite(value)]).toEqual([series, true]);
  });
  it('room for entries runs out on demand, while there is space', () => {
    vi.useFakeTimers({ now: START });
    const made = world();
    expect(
      made.incidents.fill({ namespace: 'pier-data', claim: 'data-queue-0', minutes: 1, at: START, what: 'entries' }),
    ).toBeNull();
    vi.advanceTimersByTime(60_000);
    const [volume] = made.readings.volumesOf(made.podsOf('pier-data', 'queue')[0]!, Date.now());
    expect(volume!.entriesUsed).toBe(volume!.entries);
    expect(volume!.used / volume!.size).toBeLessThan(0.8);
  });
});

describe('restarts ordered before', () => {
  it('are known to a stand-in that is started anew: no counter goes on as if they had not been', () => {
    vi.useFakeTimers({ now: START });
    const folder = mkdtempSync(join(tmpdir(), 'endings-'));
    const file = join(folder, 'endings.json');
    const [made, later] = [world(new Endings(file)), START + HOUR];
    const spent = (one: World, at: number) => {
      const [pod] = one.podsOf('pilotage', 'vessel-tracker');
      return one.readings.cpuSeconds(one.readings.containersOf(pod!)[0]!, at);
    };
    const before = spent(made, START + 1000);
    made.incidents.restarts('pilotage', 'vessel-tracker', 1);
    vi.advanceTimersByTime(10_000);
    const status = made.podsOf('pilotage', 'vessel-tracker')[0]!['status'];
    const anew = world(new Endings(file), later);
    expect(spent(made, later)).toBeLessThan(before);
    expect(spent(anew, later)).toBe(spent(made, later));
    expect(anew.podsOf('pilotage', 'vessel-tracker')[0]!['status'].containerStatuses).toEqual(status.containerStatuses);
    // without what is kept it would
    expect(spent(world(new Endings(null), later), later)).toBeGreaterThan(before);
    rmSync(folder, { recursive: true });
  });
});

it('the past of a pod’s page is what the page was then', () => {
  vi.useFakeTimers({ now: START + HOUR });
  const made = world();
  const [pod] = made.podsOf('ticketing', 'booking-front');
  const at = START + 20 * 60_000;
  const past = podAnswer({
    world: made,
    pod: pod!,
    port: 9102,
    target: `/history?from=${at - 60_000}&to=${at}&step=30000`,
  })!;
  expect(past.status).toBe(200);
  vi.setSystemTime(at);
  const then = podAnswer({ world: made, pod: pod!, port: 9102, target: '/metrics' })!
    .body.split('\n')
    .filter((line) => line !== '' && !line.startsWith('#'))
    .map(withoutExample);
  const lines = past.body.split('\n');
  for (const line of then) expect(lines).toContain(`${line} ${(at / 1000).toFixed(3)}`);
  expect(lines.filter((line) => line !== '' && !line.startsWith('#'))).toHaveLength(3 * then.length);
  expect(podAnswer({ world: made, pod: pod!, port: 9102, target: '/history?from=1' })!.status).toBe(400);
});
