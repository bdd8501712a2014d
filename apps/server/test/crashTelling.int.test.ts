import { spawn } from 'node:child_process';
import { cpSync, rmSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import type pg from 'pg';
import { describe, expect, it } from 'vitest';
import { freePort } from '../../../scripts/postgres.mjs';
import { owned, temporaryFolder, until, Visitor } from './harness.ts';
import { Killable, MAIN } from './killable.ts';

describe('kill -9', () => {
  const product = new Killable(2);

  it('of the server while it tells, of the mail server and of PostgreSQL: what is told is what is due, and copies are as many as kills at most', async () => {
    const KILLS = 4;
    const visitor = await product.visitor();
    const team = { name: 'Tides', email: 'tides@skerrivale.test', members: [], owns: [owned('tides')] };
    expect((await visitor.ask('POST', 'admin/teams', team)).status).toBe(204);
    const rule = (round: number) => ({
      name: 'the watch',
      applies: { clusters: ['seaward'], namespaces: ['tides'] },
      when: {
        is: 'expected',
        kinds: ['deployment'],
        names: Array.from({ length: 5 }, (_, i) => `lantern-${round}-${i}`),
      },
      levels: { warning: { holdsSeconds: 0 } },
    });
    const { body } = await visitor.ask('POST', 'rules', rule(0));
    const database = async <T>(ask: (client: pg.Client) => Promise<T>): Promise<T> => {
      const client = await product.client();
      try {
        return await ask(client);
      } finally {
        await client.end();
      }
    };
    const alerts = async (): Promise<{ id: number; ended: boolean; title: string }[]> =>
      database(
        async (client) =>
          (
            await client.query(
              `select id, ended_ms is not null as ended, facts->>'title' as title from alert where hushed is null and not trial`,
            )
          ).rows,
      );
    interface Row {
      readonly id: number;
      readonly key: string;
      readonly subject: string;
      readonly sent: boolean;
      readonly folded: number | null;
    }
    const outbox = () =>
      database(
        async (client): Promise<Row[]> =>
          (
            await client.query(
              `select id, stable_key as key, subject, sent_at is not null as sent, folded_into as folded from outbox where channel is null`,
            )
          ).rows,
      );
    for (let round = 0; round <= KILLS; round++) {
      if (round > 0) expect((await visitor.ask('PUT', `rules/${body.key}`, rule(round))).status).toBe(204);
      await until(
        `all of round ${round} is raised`,
        async () => (await alerts()).filter(({ title }) => title.startsWith(`lantern-${round}-`)).length === 5,
      );
      if (round === KILLS) break;
      // in the middle of telling it, at some other moment each time; of both, either first
      if (round === 2) product.postgres.crash();
      if (round % 2 === 0) await product.kill();
      await product.killMail();
      if (round % 2 === 1) await product.kill();
      if (round === 2) await product.startPostgres();
      await product.start();
      await product.startMail();
    }
    // and of the mail server alone, under a server that goes on; more than fit into a minute wait for the next one
    const MORE = 2;
    for (let round = KILLS + 1; round <= KILLS + MORE; round++) {
      const { when } = rule(0);
      const names = Array.from({ length: 3 }, (_, i) => `lantern-${round}-${i}`);
      expect((await visitor.ask('PUT', `rules/${body.key}`, { ...rule(0), when: { ...when, names } })).status).toBe(
        204,
      );
      const sent = async () => (await outbox()).filter((own) => own.sent).length;
      const before = await sent();
      await until('something is told', async () => (await sent()) > before);
      await product.killMail();
      await product.startMail();
    }
    const rows = await until('everything was sent', async () => {
      const all = await outbox();
      return all.every(({ sent }) => sent) ? all : undefined;
    });
    const received = await product.mails();
    const copies = new Map<string, number>();
    for (const { headers } of received)
      copies.set(headers['x-zetopsis-key']!, (copies.get(headers['x-zetopsis-key']!) ?? 0) + 1);
    // told is what is in the outbox, alone or together with others
    const alone = rows.filter(({ folded }) => folded === null);
    expect(alone.filter(({ key }) => !copies.has(key))).toEqual([]);
    expect([...copies.keys()].filter((key) => !rows.some((row) => row.key === key))).toEqual([]);
    // one that went out just before a kill may be told once more together with others
    const again = rows.filter(({ key, folded }) => folded !== null && copies.has(key)).length;
    for (const { folded, subject } of rows)
      if (folded !== null) {
        const digest = rows.find(({ id }) => id === folded)!;
        expect(received.find(({ headers }) => headers['x-zetopsis-key'] === digest.key)!.text).toContain(subject);
      }
    // in the outbox is what was raised, and what ended
    const keys = new Set(rows.map(({ key }) => key));
    for (const { id, ended } of (await alerts()).filter(({ title }) => title.startsWith('lantern-'))) {
      expect([id, keys.has(`alert-${id}-raised-mail-tides`)]).toEqual([id, true]);
      const over = [...keys].some((key) => new RegExp(`^alert-${id}-(cleared|ended)-mail-tides$`).test(key));
      expect([id, over]).toEqual([id, ended]);
    }
    const more = [...copies.values()].reduce((sum, count) => sum + count - 1, again);
    expect(more).toBeLessThanOrEqual(2 * KILLS + MORE);
    console.log(
      `${keys.size} messages due, all told after ${KILLS} kills of the server, ${KILLS + MORE} of the mail server and one of PostgreSQL; ${more} copies`,
    );
  });

  it('a paused server that wakes up writes nothing, judges nothing and tells nothing once another has taken over', async () => {
    const client = await product.client();
    const lease = async () => (await client.query(`select epoch, holder from lease where name = 'store'`)).rows[0];
    const first = await lease();
    product.server.kill('SIGSTOP');
    // a second installation with the same keys; it takes over when the lease has run out
    const other = temporaryFolder();
    cpSync(join(product.dataDir, 'secret-keys.json'), join(other, 'secret-keys.json'));
    const otherPort = await freePort(product.port + 1);
    const second = spawn(process.execPath, [MAIN], {
      env: { ...product.environment(), ZETOPSIS_DATA_DIR: other, ZETOPSIS_PORT: String(otherPort) },
      stdio: 'ignore',
    });
    try {
      const after = await until('another holder', async () => {
        const now = await lease();
        return now.holder === first.holder ? null : now;
      });
      expect(after.epoch).toBe(first.epoch + 1);
      const written = async (epoch: number) =>
        Number((await client.query('select count(*) from journal where epoch = $1', [epoch])).rows[0].count);
      await until('it writes', async () => (await written(after.epoch)) > 10);
      // the other one judges and tells what is asked of it
      const there = await new Visitor(`http://127.0.0.1:${otherPort}`).signIn('maren');
      const { rules } = await there.get('rules');
      const watch = rules.find(({ document }: { document: { name: string } }) => document.name === 'the watch');
      const names = Array.from({ length: 5 }, (_, i) => `beacon-${i}`);
      const document = { ...watch.document, when: { ...watch.document.when, names } };
      expect((await there.ask('PUT', `rules/${watch.key}`, document)).status).toBe(204);
      const raised = async () =>
        (
          await client.query(
            `select facts->>'title' as title, ended_ms as ended from alert where facts->>'title' like 'beacon-%' and not trial`,
          )
        ).rows;
      await until('it is raised', async () => (await raised()).length === names.length);
      const before = await written(first.epoch);
      product.server.kill('SIGCONT');
      const visitor = await product.visitor();
      await until('it says so', async () => (await visitor.get('sources')).store.heldBy === hostname());
      const goesOn = await written(after.epoch);
      await until('the other goes on', async () => (await written(after.epoch)) > goesOn + 7);
      expect(await written(first.epoch)).toBe(before);
      // which knows of no such rule: it neither ended what was raised nor raised it again
      expect((await raised()).map(({ title, ended }) => [title.slice(0, 8), ended]).sort()).toEqual(
        names.map((name) => [name, null]),
      );
      expect((await visitor.ask('POST', `rules/${watch.key}/judge`)).status).toBe(409);
      const own = await until('all is told', async () => {
        const { rows } = await client.query(
          `select stable_key as key, sent_at is not null as sent, folded_into is null as alone from outbox where channel is null`,
        );
        return rows.every(({ sent }) => sent) ? rows : undefined;
      });
      const keys = (await product.mails()).map(({ headers }) => headers['x-zetopsis-key']!);
      for (const { key } of own.filter(({ alone }) => alone).slice(-5))
        expect([key, keys.filter((one) => one === key).length]).toEqual([key, 1]);
    } finally {
      second.kill('SIGKILL');
      await client.end();
      rmSync(other, { recursive: true, force: true });
    }
  });
});
