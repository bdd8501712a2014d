import { decodeFrame } from '@zetopsis/core/samples';
import { describe, expect, it } from 'vitest';
import { until, type Visitor } from './harness.ts';
import { Killable } from './killable.ts';

describe('kill -9', () => {
  const product = new Killable(0);
  /** Newest reading of each endpoint that the product said it has: endpoint → times. */
  const said = new Map<number, Set<number>>();
  const listen = async (visitor: Visitor) => {
    for (const { id, lastReadingAt } of (await visitor.get('sources')).endpoints) {
      if (lastReadingAt === null) continue;
      if (!said.has(id)) said.set(id, new Set());
      said.get(id)?.add(lastReadingAt);
    }
    return [...said.values()].reduce((sum, times) => sum + times.size, 0);
  };

  // more of them, and for longer: npm run storm
  const ROUNDS = 5;
  it('of the server in mid-reading, five times, and of PostgreSQL, loses no reading that was said to be taken, and doubles none', async () => {
    const visitor = await product.visitor();
    for (let round = 1; round <= ROUNDS; round++) {
      const before = await listen(visitor);
      await until(`more readings in round ${round}`, async () => (await listen(visitor)) >= before + 8);
      // PostgreSQL goes and comes back under a running server, and once together with it
      if (round === 3) {
        product.postgres.crash();
        await until('it says what is the matter', async () => {
          await listen(visitor);
          return /cannot be reached|stopped or started/.test((await visitor.get('sources')).store.problem ?? '');
        });
        await product.startPostgres();
        await until('it takes readings again', async () => (await visitor.get('sources')).store.problem === null);
        await listen(visitor);
      }
      await product.kill();
      if (round === 2) {
        product.postgres.crash();
        await product.startPostgres();
      }
      await product.start();
    }
    const before = await listen(visitor);
    await until('reading goes on', async () => (await listen(visitor)) > before + 7);

    const client = await product.client();
    const { rows } = await client.query(
      `select j.endpoint_id, j.at_ms::float8 as at, j.payload, l.series_ids, e.node
         from (select endpoint_id, at_ms, layout_id, payload from journal union all
               select endpoint_id, at_ms, layout_id, payload from journal_late) j join layout l on l.id = j.layout_id join endpoint e on e.id = j.endpoint_id order by j.at_ms`,
    );
    await client.end();
    const stored = new Map(rows.map((row) => [`${row.endpoint_id} ${row.at}`, row]));
    expect(stored.size).toBe(rows.length);
    let checked = 0;
    for (const [endpoint, times] of said) {
      for (const at of times) {
        const row = stored.get(`${endpoint} ${at}`);
        expect([endpoint, at, row !== undefined]).toEqual([endpoint, at, true]);
        expect(decodeFrame(row.payload).values).toHaveLength(row.series_ids.length);
        checked++;
      }
    }
    expect(checked).toBeGreaterThan(ROUNDS * 8);
    // and what is stored is what the page held then
    const row = rows.at(-1)!;
    const page = (await product.world.look(`/page?node=${row.node}&at=${row.at}`)) as string;
    expect(decodeFrame(row.payload).values).toHaveLength(
      page.split('\n').filter((line) => line !== '' && !line.startsWith('#')).length,
    );
    console.log(
      `${checked} readings said to be taken, all ${checked} found after ${ROUNDS} kills of the server and two of PostgreSQL`,
    );
  });

  it('“disk full” from PostgreSQL is said, readings wait, and none is lost once there is room', async () => {
    await product.kill();
    await product.start();
    const visitor = await product.visitor();
    await until('it has the lease again', async () => (await visitor.get('sources')).store.heldBy === null);
    const client = await product.client();
    const count = async () => Number((await client.query('select count(*) from journal')).rows[0].count);
    try {
      await until('it writes', async () => {
        const before = await count();
        await until('more', async () => (await count()) > before);
        return true;
      });
      await client.query(`create function no_room() returns trigger language plpgsql as
        $$ begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$`);
      await client.query('create trigger no_room before insert on journal for each row execute function no_room()');
      const before = await count();
      const store = await until('it says so', async () => {
        const now = (await visitor.get('sources')).store;
        return now.problem !== null && now.waiting > 10 ? now : null;
      });
      expect(store.problem).toBe('its disk is full: give it room, or shorten the retention');
      expect((await visitor.get(`now?in=&from=${Date.now() - 60_000}`)).blind).toContainEqual(
        expect.objectContaining({ reason: expect.stringContaining('its disk is full') }),
      );
      expect(await count()).toBe(before);
      // it takes the whole table, which those who write to it may be in the middle of
      await until('there is room again', () =>
        client.query('drop trigger no_room on journal').catch((error: { code?: string }) => {
          if (error.code !== '40P01') throw error;
        }),
      );
      await until('all is taken', async () => (await visitor.get('sources')).store.problem === null);
      expect(await count()).toBeGreaterThanOrEqual(before + store.waiting);
      expect((await visitor.get('sources')).store.lost).toBe(0);
    } finally {
      await client.end();
    }
  });
});
