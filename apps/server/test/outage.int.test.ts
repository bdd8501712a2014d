import { PageMemory, readPage } from '@zetopsis/core/exposition';
import pg from 'pg';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { Clock } from '../src/ground/platform/settings.ts';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import { SeriesNumbers } from '../src/keeping/store/seriesNumbers.ts';
import { StoreLimits } from '../src/keeping/store/storeLimits.ts';
import { connectionTo, nodePages, people, type Served, serve, standIn, until, Visitor } from './harness.ts';

const STEP = 15_000;

/** Lets a table refuse every row until it is allowed again. */
async function refusing(database: pg.Client, table: string, work: () => Promise<void>, code = '53100'): Promise<void> {
  await database.query(
    `create or replace function refuse_${table}() returns trigger language plpgsql as
      $$ begin raise exception 'no room here' using errcode = '${code}'; end $$`,
  );
  await database.query(
    `create trigger refusing before insert or update on ${table} for each row execute function refuse_${table}()`,
  );
  try {
    await work();
  } finally {
    // it takes the whole table, which those who write to it may be in the middle of
    await until('it may be written again', () =>
      database.query(`drop trigger if exists refusing on ${table}`).catch((error: { code?: string }) => {
        if (error.code !== '40P01') throw error;
      }),
    );
  }
}

describe('what the database does not take', () => {
  let served: Served;
  let database: pg.Client;
  let endpoint = 0;
  let memory = new PageMemory();
  const start = Math.floor(Date.now() / STEP) * STEP - 40 * STEP;
  let now = start;
  const get = <T>(kind: abstract new (...args: never[]) => T): T => served.app.get<T>(kind, { strict: false });
  const samples = () => get(SamplesService);
  const open = async (url?: string, dataDir?: string) => {
    served = await serve(dataDir ? { ZETOPSIS_DATA_DIR: dataDir } : {}, url);
    get(Clock).now = () => now;
  };
  beforeAll(async () => {
    await open();
    database = new pg.Client(served.config.databaseUrl);
    await database.connect();
    await database.query(`insert into connection (id, name, token_encrypted) values (gen_random_uuid(), 'test', '')`);
  });
  afterAll(async () => {
    await database.end();
    await served.close();
  });
  beforeEach(async () => {
    const { rows } = await database.query(
      `insert into endpoint (connection_id, node) select id, 'n' || random() from connection returning id`,
    );
    endpoint = rows[0].id;
    memory = new PageMemory();
    now = start;
  });
  const begin = async (step: number, lines: readonly string[]) => {
    const at = start + step * STEP;
    now = Math.max(now, at);
    const page = readPage(new TextEncoder().encode(`${lines.join('\n')}\n# EOF\n`), { form: 'openmetrics', memory });
    return samples().begin({ endpointId: endpoint, at, readAt: at, durationMs: 1, page, memory });
  };
  const valuesOf = async (metric: string) => {
    const own = samples()
      .select(metric)
      .filter((id) => samples().endpointOf(id) === endpoint);
    const found = (await samples().read({ ids: own, from: start, to: now })).get(own[0]!);
    return Array.from(found?.times ?? [], (at, i) => [(at - start) / STEP, found!.values[i]] as const);
  };

  it('of an endpoint that was removed meanwhile, a reading is missed by nobody: nothing counts as lost', async () => {
    const lost = samples().status.lost;
    // once before anything of it was known, and once when something on its page is new
    await database.query('delete from endpoint where id = $1', [endpoint]);
    expect(await (await begin(1, ['a 1'])).stored).toEqual({ kind: 'gone' });
    const { rows } = await database.query(
      `insert into endpoint (connection_id, node) select id, 'm' || random() from connection returning id`,
    );
    endpoint = rows[0].id;
    memory = new PageMemory();
    expect(await (await begin(2, ['a 1'])).stored).toMatchObject({ kind: 'accepted' });
    await database.query('delete from endpoint where id = $1', [endpoint]);
    expect((await (await begin(3, ['a 2', 'b 1'])).stored).kind).toBe('gone');
    expect(samples().status.lost).toBe(lost);
  });

  it.each(['series', 'layout', 'journal'])(
    'waits and is whole afterwards, though the page changes meanwhile: %s',
    async (table) => {
      await (await begin(0, ['a 0'])).stored;
      const told: Promise<unknown>[] = [];
      const { lost } = samples().status;
      await refusing(database, table, async () => {
        told.push((await begin(1, ['a 1', 'b 1'])).stored); // something new
        told.push((await begin(2, ['a 2', 'b 2'])).stored); // the same shape as the one that waits
        told.push((await begin(3, ['a 3', 'b 3', 'c 3', '# TYPE d counter', 'd_total 3'])).stored);
        told.push((await begin(4, ['a 4'])).stored); // what was new is gone again
        told.push((await begin(5, ['c 5', 'a 5', 'b 5'])).stored); // back, and in another order
        await until('it says so', () => samples().status.problem);
        expect(samples().status).toMatchObject({
          problem: 'its disk is full: give it room, or shorten the retention',
          waiting: expect.any(Number),
        });
        expect(samples().status.waiting).toBeGreaterThan(0);
      });
      expect(await Promise.all(told)).toEqual(told.map(() => ({ kind: 'accepted', refused: 0 })));
      const plain = async (metric: string) => (await valuesOf(metric)).filter(([, value]) => !Number.isNaN(value));
      expect(await plain('a')).toEqual([0, 1, 2, 3, 4, 5].map((i) => [i, i]));
      expect(await plain('b')).toEqual([1, 2, 3, 5].map((i) => [i, i]));
      expect(await plain('c')).toEqual([3, 5].map((i) => [i, i]));
      expect(await plain('d_total')).toEqual([[3, 3]]);
      expect(samples().status).toMatchObject({ waiting: 0, waitingBytes: 0, problem: null, lost });
      // and as it is read from the database by another start
      const { databaseUrl, dataDir } = served.config;
      await served.app.close();
      await open(databaseUrl, dataDir);
      now = start + 5 * STEP;
      expect(await plain('b')).toEqual([1, 2, 3, 5].map((i) => [i, i]));
    },
  );

  it('spends no numbers: what could not be stored can be stored later, up to the limit', async () => {
    const numbers = get(SeriesNumbers);
    const { series: limits } = get(StoreLimits);
    const held = vi.spyOn(get(StoreLimits), 'series', 'get');
    const lines = (of: string) => [0, 1, 2].map((i) => `${of}${i} 1`);
    try {
      held.mockReturnValue({ ...limits, perEndpoint: 6 });
      await (await begin(0, lines('x'))).stored;
      const told: Promise<unknown>[] = [];
      await refusing(database, 'series', async () => {
        for (let i = 1; i < 5; i++) told.push((await begin(i, [...lines('x'), ...lines('y')])).stored);
        await until('it says so', () => samples().status.problem);
      });
      expect(await Promise.all(told)).toEqual(told.map(() => ({ kind: 'accepted', refused: 0 })));
      expect(numbers.refused(endpoint)).toBeNull();
      expect((await valuesOf('y2')).map(([step]) => step)).toEqual([1, 2, 3, 4]);
      await (await begin(6, [...lines('x'), ...lines('y'), 'z 1'])).stored;
      expect(numbers.refused(endpoint)).toEqual({ perEndpoint: 1 });
    } finally {
      held.mockRestore();
    }
  });

  it('and never will is given up alone, with its reason, and holds up nobody', async () => {
    await (await begin(0, ['a 0'])).stored;
    await refusing(
      database,
      'series',
      async () =>
        expect(await (await begin(1, ['a 1', 'b 1'])).stored).toEqual({ kind: 'givenUp', why: 'no room here' }),
      '22003',
    );
    await refusing(
      database,
      'journal',
      async () => expect(await (await begin(2, ['a 2'])).stored).toEqual({ kind: 'givenUp', why: 'no room here' }),
      '22003',
    );
    expect(await (await begin(3, ['a 3', 'b 3'])).stored).toMatchObject({ kind: 'accepted' });
    expect((await valuesOf('b')).map(([step]) => step)).toEqual([3]);
    expect(samples().status.problem).toBeNull();
  });

  it('gives up the oldest when no more of it may wait, of rows and of pages alike', async () => {
    await (await begin(0, ['a 0'])).stored;
    const room = vi.spyOn(get(StoreLimits), 'waitingRoom', 'get');
    const told: Promise<unknown>[] = [];
    const fresh = (step: number) => Array.from({ length: 20 }, (_, i) => `b${step}_${i} 1`);
    try {
      // with room for Zetopsis' own page, which may come in between
      room.mockReturnValue(30_000);
      await refusing(database, 'series', async () => {
        for (let i = 1; i < 20; i++) told.push((await begin(i, ['a 1', ...fresh(i)])).stored);
        expect(samples().status.waitingBytes).toBeLessThanOrEqual(30_000);
        expect(await told[0]).toEqual({ kind: 'givenUp', why: expect.stringContaining('disk is full') });
      });
      const ends = (await Promise.all(told)) as { kind: string }[];
      const firstKept = ends.findIndex(({ kind }) => kind === 'accepted');
      expect(firstKept).toBeGreaterThan(5);
      // who was told that it was given up is not stored, and who was not is
      const kept = ends.flatMap(({ kind }, i) => (kind === 'accepted' ? [i + 1] : []));
      expect((await valuesOf('a')).map(([step]) => step)).toEqual([0, ...kept]);
      expect(ends.slice(firstKept).every(({ kind }) => kind === 'accepted')).toBe(true);
    } finally {
      room.mockRestore();
    }
  });
});

describe('the gap that is left', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let administrator: Visitor;
  let database: pg.Client;
  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    ({ administrator } = await people(served));
    await administrator.ask('POST', 'connections', connectionTo(world, 1));
    database = new pg.Client(served.config.databaseUrl);
    await database.connect();
  });
  afterAll(async () => {
    await database.end();
    await served.close();
    await world.close();
  });
  const reasons = async () =>
    (await database.query(`select distinct reason, to_ms from endpoint_gap`)).rows as { reason: string }[];
  /** A rule on silent sources would have told of none but those that did not answer, as may be on a busy machine. */
  const expectOnlySilent = async () => {
    const past = await administrator.ask('POST', 'rules/rehearse', {
      document: { name: 'x', when: { is: 'not read' }, levels: { warning: {} } },
      from: Date.now() - 600_000,
      to: Date.now(),
    });
    const { rows } = await database.query(
      `select count(*) filter (where own)::int as own, count(*) filter (where not own and not planned)::int as silent from endpoint_gap`,
    );
    expect(rows[0].own).toBeGreaterThan(0);
    expect(past.body.raised.length).toBeLessThanOrEqual(rows[0].silent);
  };

  it('bears the true reason and the count, though the database took no gap either meanwhile', async () => {
    await until('it is read', async () => (await nodePages(administrator)).every(({ state }) => state === 'read'));
    const samples = served.app.get(SamplesService, { strict: false });
    const room = vi.spyOn(served.app.get(StoreLimits, { strict: false }), 'waitingRoom', 'get').mockReturnValue(100);
    const own = async () => (await reasons()).filter(({ reason }) => /PostgreSQL did not take/.test(reason));
    // gaps first: what is given up is told at once where they are taken
    await refusing(database, 'endpoint_gap', () =>
      refusing(database, 'journal', async () => {
        await until('some are lost', () => samples.status.lost > 40);
        expect(await own()).toEqual([]);
      }),
    );
    room.mockRestore();
    await until('the gaps are told', async () => (await own()).length >= 2);
    for (const { reason } of await own())
      expect(reason).toMatch(
        /^(One reading was|\d+ readings were) given up: PostgreSQL did not take what was read \(its disk is full/,
      );
    expect((await administrator.get('sources')).store.lost).toBe(samples.status.lost);
    // no source was silent: what was read was not kept
    await expectOnlySilent();
  });
  it('of an end of Zetopsis meanwhile says that', async () => {
    await until('it is read', async () => (await administrator.get('sources')).store.problem === null);
    const { databaseUrl, dataDir } = served.config;
    await refusing(database, 'journal', async () => {
      const samples = served.app.get(SamplesService, { strict: false });
      await until('readings wait', () => samples.status.waiting > 20);
      await served.app.close();
      served = await serve({ ZETOPSIS_DATA_DIR: dataDir }, databaseUrl);
      administrator = await new Visitor(served.base).signIn('maren');
      const afterwards = served.app.get(SamplesService, { strict: false });
      await until('readings wait again', () => afterwards.status.waiting > 60);
    });
    await until('the gaps are told', async () =>
      (await reasons()).some(({ reason }) => /ended while PostgreSQL was away/.test(reason)),
    );
    await expectOnlySilent();
  });
});
