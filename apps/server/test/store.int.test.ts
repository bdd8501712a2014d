import { DEFAULT_PAGE_LIMITS, PageMemory, readPage } from '@zetopsis/core/exposition';
import { BESIDE, grown, isEndMarker, rollUp, type Samples } from '@zetopsis/core/samples';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import pg from 'pg';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { Clock } from '../src/ground/platform/settings.ts';
import { RetentionService } from '../src/keeping/retention/retention.service.ts';
import { CompactionService } from '../src/keeping/store/compaction.service.ts';
import { LeaseService } from '../src/keeping/store/lease.service.ts';
import { NewestReadings } from '../src/keeping/store/newestReadings.ts';
import { SampleStore } from '../src/keeping/store/sample.store.ts';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import { SeriesNumbers } from '../src/keeping/store/seriesNumbers.ts';
import { StoreLimits } from '../src/keeping/store/storeLimits.ts';
import { StoreWorkers } from '../src/keeping/store/storeWorkers.service.ts';
import { Partitions } from '../src/keeping/store/threads/partitions.ts';
import { RollUpWriter, removeRollUps } from '../src/keeping/store/threads/rows.ts';
import { FIVE, TIERS } from '../src/keeping/store/tiers.ts';
import { type Served, serve } from './harness.ts';

const form = 'openmetrics' as const;
const NOON = Date.UTC(2026, 10, 25, 12);

/** The store itself, at a clock that the test moves. */
describe('the store', () => {
  let served: Served;
  let database: pg.Client;
  let now = NOON;
  let endpoint = 0;
  const get = <T>(kind: abstract new (...args: never[]) => T): T => served.app.get<T>(kind, { strict: false });
  const samples = () => get(SamplesService);
  const rows = async (query: string, values: unknown[] = []) => (await database.query(query, values)).rows;
  const memories = new Map<number, PageMemory>();

  const open = async () => {
    served = await serve({ ZETOPSIS_DATA_DIR: dataDir! }, databaseUrl);
    get(Clock).now = () => now;
  };
  let dataDir: string | undefined;
  let databaseUrl: string | undefined;

  beforeAll(async () => {
    served = await serve();
    ({ dataDir, databaseUrl } = served.config);
    get(Clock).now = () => now;
    database = new pg.Client(databaseUrl);
    await database.connect();
    await rows(`insert into connection (id, name, token_encrypted) values (gen_random_uuid(), 'test', '')`);
  });
  afterAll(async () => {
    await database.end();
    await served.close();
  });
  beforeEach(async () => {
    now = NOON;
    const [row] = await rows(
      `insert into endpoint (connection_id, node) select id, 'n' || random() from connection where name = 'test' returning id`,
    );
    endpoint = row.id;
  });
  afterEach(() => samples().forget([endpoint]));

  const read = async (at: number, lines: readonly string[], of = endpoint) => {
    const memory = memories.get(of) ?? new PageMemory();
    memories.set(of, memory);
    now = Math.max(now, at);
    const page = readPage(new TextEncoder().encode(`${lines.join('\n')}\n# EOF\n`), { form, memory });
    return samples().accept({ endpointId: of, at, readAt: at, durationMs: 1, page, memory });
  };
  const idOf = (metric: string, of = endpoint) =>
    samples()
      .select(metric)
      .filter((id) => samples().endpointOf(id) === of)[0]!;
  const all = async (metric: string, resolution?: 'five' | 'hour'): Promise<{ times: number[]; values: number[] }> => {
    const id = idOf(metric);
    const found = (await samples().read({ ids: [id], from: 0, to: now + DAY, resolution })).get(id)!;
    return { times: [...found.times], values: [...found.values] };
  };
  const pack = (before = now) => get(CompactionService).pack(endpoint, before, 0);
  const merge = async (metric: string, own: Samples, cumulative = false) => {
    const lines = Array.from(own.times, (at, i) => `${metric} ${own.values[i]} ${at / 1000}`);
    const type = cumulative ? `# TYPE ${metric.replace('_total', '')} counter\n` : '';
    const bytes = new TextEncoder().encode(`${type}${lines.join('\n')}\n# EOF\n`);
    const limits = { ...DEFAULT_PAGE_LIMITS, samples: 1e6 };
    const workers = get(StoreWorkers);
    const parsed = await workers.do<'parse'>({ kind: 'parse', bytes, form, limits, before: Number.MAX_SAFE_INTEGER });
    const { ids } = await get(SeriesNumbers).numbersFor(endpoint, parsed.series, now);
    return workers.do<'merge'>({ kind: 'merge', epoch: get(LeaseService).epoch, endpoint, ids });
  };

  it('takes a sample that comes late into the chunk and the buckets of its time, and counts the first of two', async () => {
    for (let i = 0; i < 60; i++) await read(NOON + i * 15_000, [`a ${i}`]);
    now = NOON + 20 * MINUTE;
    await pack();
    const before = await all('a');
    expect(before.times).toHaveLength(60);
    // between two that are packed
    expect(await read(NOON + 7000, ['a 99'])).toEqual({ kind: 'accepted', refused: 0 });
    expect((await all('a')).times.slice(0, 3)).toEqual([NOON, NOON + 7000, NOON + 15_000]);
    await pack();
    expect(await rows('select * from journal_late where endpoint_id = $1', [endpoint])).toEqual([]);
    expect((await all('a')).values.slice(0, 3)).toEqual([0, 99, 1]);
    const [five] = await rows('select count(*)::int as n from rollup_five where endpoint_id = $1', [endpoint]);
    expect(five.n).toBe(1);
    // a sample at a border is in the bucket that ends there
    expect(await all('a', 'five')).toEqual({
      times: [NOON, NOON + 5 * MINUTE, NOON + 10 * MINUTE, NOON + 59 * 15_000],
      values: [0, 20, 40, 59],
    });
    // the same moment again, with the same and with another value
    now = NOON + 21 * MINUTE;
    const counted = samples().status;
    await read(NOON + 30_000, ['a 2']);
    await read(NOON + 45_000, ['a 77']);
    await pack();
    expect((await all('a')).values.slice(0, 5)).toEqual([0, 99, 1, 2, 3]);
    // one that is in memory still is refused at once
    await read(now, ['a 5']);
    expect(await read(now, ['a 5'])).toEqual({ kind: 'doubled' });
    expect(await read(now, ['a 6'])).toEqual({ kind: 'doubled' });
    expect(samples().status).toMatchObject({
      doubledSame: counted.doubledSame + 1,
      doubledOther: counted.doubledOther + 1,
    });
  });

  it('refuses what is older than may be, whole readings and single samples, and says so', async () => {
    now = NOON + 3 * HOUR;
    const { tooOld } = samples().status;
    expect(await read(NOON, ['a 1', 'b 1'])).toEqual({ kind: 'tooOld' });
    const seconds = (at: number) => at / 1000;
    expect(await read(now, [`a 1 ${seconds(now - 2 * HOUR)}`, `b 2 ${seconds(now - 30 * MINUTE)}`, 'c 3'])).toEqual({
      kind: 'accepted',
      refused: 1,
    });
    expect(samples().status.tooOld).toBe(tooOld + 3);
    expect((await all('b')).times).toEqual([now - 30 * MINUTE]);
    expect((await all('c')).times).toEqual([now]);
    expect((await all('a')).times).toEqual([]);
    await pack(now + 10 * MINUTE);
    expect((await all('b')).times).toEqual([now - 30 * MINUTE]);
    expect((await all('a')).times).toEqual([]);
  });

  it('gives numbers to what was new on a page that it did not take', async () => {
    now = NOON + 3 * HOUR;
    expect(await read(NOON, ['a 1', 'b 1'])).toEqual({ kind: 'tooOld' });
    expect(await read(now, ['a 2', 'b 2'])).toEqual({ kind: 'accepted', refused: 0 });
    expect(await all('b')).toEqual({ times: [now], values: [2] });
    const lease = vi.spyOn(get(LeaseService), 'epoch', 'get').mockReturnValue(0);
    expect(await read(now + 15_000, ['a 3', 'b 3', 'c 3'])).toEqual({ kind: 'notOurs' });
    lease.mockRestore();
    expect(await read(now + 15_000, ['a 4', 'b 4', 'c 4'])).toEqual({ kind: 'accepted', refused: 0 });
    expect((await all('c')).values).toEqual([4]);
  });

  it('keeps that a series ended, through packing and a restart, and finds it again when it comes back', async () => {
    await read(NOON, ['a 1', 'b 1']);
    await read(NOON + 15_000, ['b 2']);
    await read(NOON + 30_000, ['a 3', 'b 3']);
    const id = idOf('a');
    const seen = async () => {
      const { times, values } = await all('a');
      return times.map((at, i) => [at - NOON, isEndMarker(values[i]!) ? 'ended' : values[i]]);
    };
    const expected = [
      [0, 1],
      [15_000, 'ended'],
      [30_000, 3],
    ];
    expect(await seen()).toEqual(expected);
    now = NOON + 20 * MINUTE;
    await pack();
    expect(await seen()).toEqual(expected);
    await served.app.close();
    await open();
    expect(await seen()).toEqual(expected);
    expect(idOf('a')).toBe(id);
  });

  it('answers from roll-ups what the samples say, packed, half packed and not packed, across resets', async () => {
    const values: number[] = [];
    const times: number[] = [];
    let counter = 0;
    for (let i = 0; i < 240; i++) {
      counter = i % 70 === 69 ? 3 : counter + (i % 7);
      values.push(counter);
      times.push(NOON + i * 15_000);
      await read(times[i]!, ['# TYPE c counter', `c_total ${counter}`, '# TYPE g gauge', `g ${(i * 37) % 101}`]);
    }
    const growth = values.slice(1).reduce((sum, value, i) => sum + grown(values[i]!, value), values[0]!);
    const rolled = rollUp({ times, values: values.map((_, i) => (i * 37) % 101) }, FIVE);
    for (const before of [0, NOON + 33 * MINUTE, now + HOUR]) {
      if (before > 0) await pack(before);
      const counted = await all('c_total', 'five');
      expect(counted.times).toHaveLength(rolled.starts.length);
      expect(counted.values.at(-1)).toBe(growth);
      expect((await all('g', 'five')).values).toEqual([...rolled.columns.last]);
      expect((await all('c_total', 'hour')).values.at(-1)).toBe(growth);
      const id = idOf('g');
      for (const resolution of ['five', 'hour'] as const) {
        const window = { ids: [id], from: NOON - HOUR, to: NOON + 2 * HOUR, resolution, beside: BESIDE };
        const { columns } = rollUp({ times, values: values.map((_, i) => (i * 37) % 101) }, TIERS[resolution].bucket);
        expect((await samples().read(window)).get(id)?.beside).toEqual(
          Object.fromEntries(BESIDE.map((name) => [name, columns[name]])),
        );
      }
    }
  });

  it('answers once what is asked for twice, and a past that began anew goes on into what is read', async () => {
    const other = endpoint;
    await read(NOON, ['# TYPE c counter', 'c_total 1']);
    const [row] = await rows(
      `insert into endpoint (connection_id, node) select id, 'n' || random() from connection where name = 'test' returning id`,
    );
    endpoint = row.id;
    // brought in: it grows by 10 every half minute, and began anew once; then it is read, and nothing of that is packed
    const past = Array.from({ length: 60 }, (_, i) => ({
      at: NOON - (60 - i) * 30_000,
      value: i < 20 ? 5000 + i * 10 : (i - 19) * 10,
    }));
    await merge('c_total', { times: past.map(({ at }) => at), values: past.map(({ value }) => value) }, true);
    for (let i = 0; i < 20; i++) await read(NOON + i * 30_000, ['# TYPE c counter', `c_total ${410 + i * 10}`]);
    const id = idOf('c_total');
    for (const resolution of ['five', 'hour'] as const) {
      const window = { from: NOON - HOUR, to: now, resolution };
      const once = (await samples().read({ ids: [id], ...window })).get(id)!;
      // with those of another endpoint, in one question
      const twice = (await samples().read({ ids: [id, idOf('c_total', other), id], ...window })).get(id)!;
      expect([[...twice.times], [...twice.values]]).toEqual([[...once.times], [...once.values]]);
      expect([...once.values]).toEqual([...once.values].sort((a, b) => a - b));
      // what it grew by is 10 a reading, but for between the past and what is read, of which nobody knows
      expect(once.values.at(-1)! - once.values[0]!).toBeLessThanOrEqual(80 * 10);
    }
  });

  it('joins a day to one row a series, rolls its hours up, and takes what comes after that into both', async () => {
    const begin = Math.floor(NOON / DAY) * DAY;
    now = begin + 3 * DAY;
    const times = Array.from({ length: 2 * 1440 }, (_, i) => begin + (i + 1) * MINUTE);
    const own = { times, values: times.map((_, i) => i) };
    // as if it had come in several parts
    for (let part = 0; part < 8; part++)
      await merge(
        'm_total',
        { times: times.filter((_, i) => i % 8 === part), values: own.values.filter((_, i) => i % 8 === part) },
        true,
      );
    const workers = get(StoreWorkers);
    const { epoch } = get(LeaseService);
    await rows('update packed set until_ms = $2 where endpoint_id = $1', [endpoint, begin + 3 * DAY]);
    for (const day of [begin / DAY, begin / DAY + 1])
      await workers.do<'joinDay'>({ kind: 'joinDay', epoch, endpoint, day, until: begin + 3 * DAY });
    const count = async (table: string) =>
      (await rows(`select count(*)::int as n from ${table} where endpoint_id = $1`, [endpoint]))[0].n;
    expect(await count('rollup_five')).toBe(2);
    // ten days have one row, wherever among them these two lie
    expect(await count('rollup_hour')).toBe((begin / DAY) % 10 === 9 ? 2 : 1);
    get(NewestReadings).joinedTo(endpoint, begin + 2 * DAY);
    const hours = await all('m_total', 'hour');
    expect(hours.times).toHaveLength(48);
    expect(hours.values.at(-1)).toBe(2 * 1440 - 1);
    expect((await all('m_total')).values).toEqual(own.values);
    // a sample between two others: growth stays, but for the step down that it makes
    expect(await merge('m_total', { times: [begin + 150_000], values: [1.5] }, true)).toMatchObject({ added: 1 });
    expect((await all('m_total', 'hour')).values.at(-1)).toBe(2 * 1440 - 1);
    expect((await all('m_total')).values.slice(0, 4)).toEqual([0, 1, 1.5, 2]);
    expect(await merge('m_total', { times: [begin + MINUTE, begin + 150_000], values: [7, 1.5] }, true)).toMatchObject({
      added: 0,
      same: 1,
      other: 1,
    });
  });

  it('rolls up anew what was rolled up before borders belonged to the bucket that they end', async () => {
    const begin = Math.floor(NOON / DAY) * DAY - 2 * DAY;
    now = begin + 2 * DAY;
    const times = Array.from({ length: 2 * 288 }, (_, i) => begin + (i + 1) * FIVE);
    const own = { times, values: times.map((_, i) => i) };
    await merge('n', own);
    const expected = await all('n', 'five');
    expect(expected).toEqual(own);
    // as it was written before: a bucket later, and nobody knows when in it
    const id = idOf('n');
    const partitions = new Partitions();
    for (const tier of ['five', 'hour'] as const) {
      const { bucket } = TIERS[tier];
      const { starts, columns } = rollUp(own, bucket);
      await removeRollUps({ client: database, tier, endpoint, ids: [id], from: 0, to: now + DAY });
      const writer = new RollUpWriter(tier, endpoint);
      writer.add(id, {
        starts: starts.map((start) => start + bucket),
        columns: { ...columns, gap: columns.gap.map(() => 1) },
      });
      await writer.write(database, partitions);
    }
    await rows('update packed set joined_ms = $2, anew_ms = $2 where endpoint_id = $1', [endpoint, begin + 2 * DAY]);
    expect((await all('n', 'five')).times).toEqual(times.map((at) => at + FIVE - 1));
    const workers = get(StoreWorkers);
    const { epoch } = get(LeaseService);
    const again = async (before: number) =>
      (await workers.do<'rollAnew'>({ kind: 'rollAnew', epoch, endpoint, before })).downTo;
    expect(await again(begin + 2 * DAY)).toBe(begin + DAY);
    expect(await again(begin + DAY)).toBe(begin);
    expect(await again(begin)).toBe(0);
    expect((await get(SampleStore).packed()).get(endpoint)?.anew).toBe(0);
    const fives = await all('n', 'five');
    // what lies in the bucket that had no samples of its own any more stays as it was
    expect(fives.times.slice(0, times.length)).toEqual(times);
    get(NewestReadings).joinedTo(endpoint, begin + 2 * DAY);
    expect((await all('n', 'hour')).times.slice(0, 48)).toEqual(times.filter((at) => at % HOUR === 0));
  });

  it('is the same whatever the order in which the past comes in', async () => {
    const times = Array.from({ length: 400 }, (_, i) => NOON - DAY + i * 40_000);
    const whole = { times, values: times.map((_, i) => (i * 13) % 17) };
    const expected = rollUp(whole, FIVE);
    await fc.assert(
      fc.asyncProperty(fc.array(fc.nat(3), { minLength: 400, maxLength: 400 }), async (parts) => {
        await samples().forget([endpoint]);
        for (const part of [2, 0, 3, 1]) {
          const pick = <T>(list: readonly T[]) => list.filter((_, i) => parts[i] === part);
          await merge('p', { times: pick(whole.times), values: pick(whole.values) });
        }
        now = NOON;
        expect((await all('p')).values).toEqual(whole.values);
        const fives = await all('p', 'five');
        expect(fives.values).toEqual([...expected.columns.last]);
      }),
      { numRuns: 4 },
    );
  });

  it('drops journal partitions once they are packed, and not before', async () => {
    await read(NOON - 40 * MINUTE, ['a 1']);
    await read(NOON, ['a 2']);
    const names = async () => (await get(SampleStore).journalPartitions()).map(({ from }) => from);
    const first = Math.floor((NOON - 40 * MINUTE) / (30 * MINUTE)) * 30 * MINUTE;
    expect(await names()).toContain(first);
    now = NOON + 3 * HOUR;
    await get(CompactionService).clean();
    expect(await names()).toContain(first);
    await pack();
    await get(CompactionService).clean();
    expect(await names()).not.toContain(first);
    expect((await all('a')).values).toEqual([1, 2]);
  });

  it('forgets samples and roll-ups by whole partitions, each tier at its own time, and series of which nothing is left', async () => {
    const old = NOON - 30 * DAY;
    await merge('k', { times: [old, old + MINUTE], values: [7, 8] });
    await merge('k', { times: [NOON - HOUR, NOON - HOUR + MINUTE], values: [1, 2] });
    await read(NOON, ['k 3', 'gone 1']);
    await read(NOON + 15_000, ['k 4']);
    const id = idOf('gone');
    await rows('update series set ended_ms = $2 where id = $1', [id, NOON - 500 * DAY]);
    await get(RetentionService).clean();
    expect((await all('k')).values).toEqual([1, 2, 3, 4]);
    expect((await all('k', 'five')).values).toEqual([7, 8, 1, 2, 3, 4]);
    expect(get(SeriesNumbers).table.has(id)).toBe(false);
    expect(await rows('select id from series where id = $1', [id])).toEqual([]);
    // five minutes are rolled up in partitions of a week
    now = NOON + 91 * DAY;
    await get(RetentionService).clean();
    // no hours were made of them: they stay until they are
    expect((await all('k', 'five')).values).toContain(8);
    await pack(NOON + HOUR);
    await get(CompactionService).joinDays();
    await get(RetentionService).clean();
    expect((await all('k', 'five')).values).not.toContain(8);
    expect((await all('k', 'hour')).values).toEqual([7, 8, 1, 3, 4]);
  });

  it('makes hours of a past that was brought in to what is never read, before its five minutes go', async () => {
    const old = NOON - 100 * DAY;
    await merge('past', { times: [old + MINUTE, old + HOUR], values: [7, 8] });
    await get(RetentionService).clean();
    expect((await all('past', 'five')).values).toEqual([7, 8]);
    await get(CompactionService).joinDays();
    await get(RetentionService).clean();
    expect((await all('past', 'five')).values).toEqual([]);
    expect((await all('past', 'hour')).values).toEqual([8]);
  });

  it('gives no number to series past a limit, says how many and why, and takes them once the limit is raised', async () => {
    const numbers = get(SeriesNumbers);
    const { series: limits } = get(StoreLimits);
    const held = vi.spyOn(get(StoreLimits), 'series', 'get');
    const lines = (values: number) => Array.from({ length: 5 }, (_, i) => `s${i} ${values}`);
    try {
      held.mockReturnValue({ ...limits, perEndpoint: 3 });
      expect(await read(NOON, lines(1))).toEqual({ kind: 'accepted', refused: 0 });
      expect(numbers.refused(endpoint)).toEqual({ perEndpoint: 2 });
      await read(NOON + 15_000, lines(2));
      expect((await all('s2')).values).toEqual([1, 2]);
      expect(
        samples()
          .select('s3')
          .filter((id) => samples().endpointOf(id) === endpoint),
      ).toEqual([]);
      held.mockReturnValue({ ...limits, inAll: numbers.table.size });
      await read(NOON + 30_000, lines(3));
      await read(NOON + 45_000, lines(4));
      expect(numbers.refused(endpoint)).toEqual({ inAll: 2 });
      held.mockReturnValue(limits);
      await read(NOON + 60_000, lines(5));
      await read(NOON + 75_000, lines(6));
      expect(numbers.refused(endpoint)).toBeNull();
      expect((await all('s4')).values).toEqual([6]);
      expect((await all('s0')).values).toEqual([1, 2, 3, 4, 5, 6]);
    } finally {
      held.mockRestore();
    }
  });
  it('counts the series of a team over all endpoints', async () => {
    const numbers = get(SeriesNumbers);
    const { series: limits } = get(StoreLimits);
    const held = vi.spyOn(get(StoreLimits), 'series', 'get');
    const whose = vi.spyOn(numbers, 'teamOf');
    try {
      whose.mockImplementation((_endpoint, namespace) => (namespace === 'docks' ? 'pilots' : null));
      held.mockReturnValue({ ...limits, perTeam: numbers.countOfTeam('pilots') + 2 });
      const lines = (space: string) => [0, 1, 2].map((i) => `t${i}{k8s_namespace_name="${space}"} 1`);
      await read(NOON, [...lines('docks'), 'u 1']);
      expect(numbers.refused(endpoint)).toEqual({ perTeam: 1 });
      await read(NOON + 15_000, [...lines('yards'), 'u 1']);
      expect(numbers.refused(endpoint)).toBeNull();
    } finally {
      held.mockRestore();
      whose.mockRestore();
    }
  });

  it('packing that is cut off anywhere leaves everything or nothing', async () => {
    for (let i = 0; i < 400; i++)
      await read(
        NOON + i * 15_000,
        Array.from({ length: 60 }, (_, s) => `v${s} ${i * s}`),
      );
    now = NOON + 101 * MINUTE;
    const expected = Array.from({ length: 400 }, (_, i) => i * 59);
    let broken = 0;
    for (let tries = 0; broken < 6 && tries < 40; tries++) {
      const done = pack(NOON + (10 + tries * 2) * MINUTE).then(
        () => null,
        (error: unknown) => error,
      );
      let ended = false;
      void done.then(() => (ended = true));
      while (!ended) {
        await rows(`select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database()
          and pid <> pg_backend_pid() and xact_start is not null and query ~ '^(copy|insert into packed|update packed|select id, series_ids)'`);
      }
      if ((await done) !== null) broken++;
      expect((await all('v59')).values).toEqual(expected);
    }
    expect(broken).toBe(6);
    await pack();
    expect((await all('v59')).values).toEqual(expected);
  });

  it('a process that has lost the lease writes nothing, in any way', async () => {
    await read(NOON, ['a 1']);
    const lease = get(LeaseService);
    const { epoch } = lease;
    await rows(`update lease set epoch = epoch + 1, holder = 'another one'`);
    const before = await rows('select count(*)::int as n from journal');
    expect(await read(NOON + 15_000, ['a 2'])).toEqual({ kind: 'notOurs' });
    expect(await rows('select count(*)::int as n from journal')).toEqual(before);
    expect(samples().status.heldBy).not.toBeNull();
    const refused = { code: 'leaseLost' };
    const workers = get(StoreWorkers);
    await expect(workers.do<'pack'>({ kind: 'pack', epoch, endpoint, until: now })).rejects.toMatchObject(refused);
    await expect(workers.do<'joinDay'>({ kind: 'joinDay', epoch, endpoint, day: 1, until: 0 })).rejects.toMatchObject(
      refused,
    );
    expect(await rows('select * from chunk where endpoint_id = $1', [endpoint])).toEqual([]);
    // what the other one wrote meanwhile
    await rows(
      `insert into journal select endpoint_id, at_ms + 20000, read_ms, duration_ms, bytes, layout_id, epoch + 1, payload
        from journal where endpoint_id = $1`,
      [endpoint],
    );
    // the other one goes away: it is taken up again within a renewal
    await rows(`update lease set until_ms = 0`);
    for (let i = 0; lease.epoch === 0 && i < 100; i++) await new Promise((done) => setTimeout(done, 100));
    expect(lease.epoch).toBe(epoch + 2);
    expect(await read(NOON + 30_000, ['a 3'])).toMatchObject({ kind: 'accepted' });
    expect(await all('a')).toEqual({ times: [NOON, NOON + 20_000, NOON + 30_000], values: [1, 1, 3] });
  });
});
