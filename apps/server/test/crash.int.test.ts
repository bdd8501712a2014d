import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { cpSync, rmSync } from 'node:fs';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { decodeFrame } from '@zetopsis/core/samples';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort, type RunningPostgres, startPostgres } from '../../../scripts/postgres.mjs';
import { blockLines, journalParts } from '../src/keeping/records/lineBlocks.ts';
import { journalSpans, spansIn } from '../src/keeping/records/traceBlocks.ts';
import { connectionTo, owned, PASSWORD, standIn, temporaryFolder, until, Visitor } from './harness.ts';

const MAIN = fileURLToPath(new URL('../dist/main.js', import.meta.url));
const MAIL = new URL('../../standin/dist/mail/mailServer.js', import.meta.url);
/** The mail server of the stand-in and its page, as a process of their own. */
const MAIL_PROCESS = `
  const [folder, smtp, page] = process.argv.slice(1);
  const { MailServer } = await import('${MAIL}');
  const { createServer } = await import('node:http');
  const mail = new MailServer(folder);
  await mail.load();
  createServer((request, response) => mail.answer(request, response)).listen(Number(page), '127.0.0.1');
  mail.smtp.listen(Number(smtp), '127.0.0.1');
`;

/** The product as its own process, to be killed; against a PostgreSQL that keeps its promises (fsync on). */
describe('kill -9', () => {
  let postgres: RunningPostgres;
  let world: Awaited<ReturnType<typeof standIn>>;
  let port: number;
  let server: ChildProcess;
  let mail: ChildProcess;
  let mailPorts: { readonly smtp: number; readonly page: number };
  const dataDir = temporaryFolder();
  const mailDir = temporaryFolder();
  /** Newest reading of each endpoint that the product said it has: endpoint → times. */
  const said = new Map<number, Set<number>>();

  const environment = () => ({
    ...process.env,
    ZETOPSIS_DATABASE_URL: postgres.url,
    ZETOPSIS_DATA_DIR: dataDir,
    ZETOPSIS_PORT: String(port),
    ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
    ZETOPSIS_LOG_LEVEL: 'fatal',
    ZETOPSIS_SMTP_URL: `smtp://127.0.0.1:${mailPorts.smtp}`,
  });
  const start = async () => {
    server = spawn(process.execPath, [MAIN], {
      env: environment(),
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let printed = '';
    server.stdout?.on('data', (text: Buffer) => (printed += text.toString()));
    await until('the server', async () => (await fetch(`http://127.0.0.1:${port}/api/session`)).ok, 30_000);
    return () => printed;
  };
  const killed = async (process: ChildProcess) => {
    const gone = once(process, 'exit');
    process.kill('SIGKILL');
    await gone;
  };
  const kill = () => killed(server);
  interface Mail {
    readonly headers: Record<string, string>;
    readonly text: string;
  }
  const mails = async () => (await fetch(`http://127.0.0.1:${mailPorts.page}/mails.json`)).json() as Promise<Mail[]>;
  const startMail = async () => {
    const { smtp, page } = mailPorts;
    mail = spawn(
      process.execPath,
      ['--input-type=module', '-e', MAIL_PROCESS, '--', mailDir, String(smtp), String(page)],
      { stdio: ['ignore', 'inherit', 'inherit'] },
    );
    await until('the mail server', async () => Array.isArray(await mails()), 30_000);
  };
  const listen = async (visitor: Visitor) => {
    for (const { id, lastReadingAt } of (await visitor.get('sources')).endpoints) {
      if (lastReadingAt === null) continue;
      if (!said.has(id)) said.set(id, new Set());
      said.get(id)?.add(lastReadingAt);
    }
    return [...said.values()].reduce((sum, times) => sum + times.size, 0);
  };

  beforeAll(async () => {
    postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
    const client = new pg.Client(postgres.url);
    await client.connect();
    await client.query('drop schema public cascade; create schema public');
    await client.end();
    world = await standIn();
    port = await freePort(25_900);
    const smtp = await freePort(port + 20);
    mailPorts = { smtp, page: await freePort(smtp + 1) };
    await startMail();
  });
  afterAll(async () => {
    server?.kill('SIGKILL');
    mail?.kill('SIGKILL');
    await world.close();
    try {
      postgres.stop();
    } catch {
      // it was ended by a test
    }
    for (const folder of [dataDir, mailDir]) rmSync(folder, { recursive: true, force: true });
  });

  // more of them, and for longer: npm run storm
  const ROUNDS = 8;
  it('of the server in mid-reading, eight times, and of PostgreSQL, loses no reading that was said to be taken, and doubles none', async () => {
    const printed = await start();
    const code = await until('the one-time code', () => /one-time code: (\S+)/.exec(printed())?.[1]);
    const visitor = new Visitor(`http://127.0.0.1:${port}`);
    expect((await visitor.ask('POST', 'first-person', { code, name: 'maren', password: PASSWORD })).status).toBe(201);
    expect((await visitor.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
    for (let round = 1; round <= ROUNDS; round++) {
      const before = await listen(visitor);
      await until(`more readings in round ${round}`, async () => (await listen(visitor)) >= before + 16, 30_000);
      // PostgreSQL goes and comes back under a running server, and once together with it
      if (round === 3) {
        postgres.crash();
        await until(
          'it says what is the matter',
          async () => {
            await listen(visitor);
            return /cannot be reached|stopped or started/.test((await visitor.get('sources')).store.problem ?? '');
          },
          30_000,
        );
        postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
        await until(
          'it takes readings again',
          async () => (await visitor.get('sources')).store.problem === null,
          30_000,
        );
        await listen(visitor);
      }
      await kill();
      if (round === 2) {
        postgres.crash();
        postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
      }
      await start();
    }
    const before = await listen(visitor);
    await until('reading goes on', async () => (await listen(visitor)) > before + 14, 30_000);

    const client = new pg.Client(postgres.url);
    await client.connect();
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
    expect(checked).toBeGreaterThan(ROUNDS * 16);
    // and what is stored is what the page held then
    const row = rows.at(-1)!;
    const page = (await world.look(`/page?node=${row.node}&at=${row.at}`)) as string;
    expect(decodeFrame(row.payload).values).toHaveLength(
      page.split('\n').filter((line) => line !== '' && !line.startsWith('#')).length,
    );
    console.log(
      `${checked} readings said to be taken, all ${checked} found after ${ROUNDS} kills of the server and two of PostgreSQL`,
    );
  }, 300_000);

  it('of the server and of PostgreSQL, ten times and twice, while log lines and spans are pushed: nothing that was taken is lost or doubled', async () => {
    const KILLS = 10;
    const visitor = await new Visitor(`http://127.0.0.1:${port}`).signIn('maren');
    const { body: key } = await visitor.ask('PUT', 'push-keys/storm', {});
    const authorization = `Bearer ${key.made.token}`;
    const taken = { logs: new Set<string>(), traces: new Set<string>() };
    const hex = (n: number, length: number) => n.toString(16).padStart(length, '0');
    let next = 1;
    let ended = false;
    /** As senders do: what is not answered is sent again until it is. */
    const send = async (signal: 'logs' | 'traces') => {
      while (!ended) {
        const ids = Array.from({ length: 25 }, () => next++);
        const now = Date.now();
        const resource = { attributes: [{ key: 'service.name', value: { stringValue: `storm-${ids[0]! % 3}` } }] };
        const request =
          signal === 'logs'
            ? {
                resourceLogs: [
                  {
                    resource,
                    scopeLogs: [
                      {
                        logRecords: ids.map((id) => ({
                          timeUnixNano: `${now}000000`,
                          body: { stringValue: `wave ${id} broke` },
                        })),
                      },
                    ],
                  },
                ],
              }
            : {
                resourceSpans: [
                  {
                    resource,
                    scopeSpans: [
                      {
                        spans: ids.map((id) => ({
                          traceId: hex(Math.ceil(id / 5), 32),
                          spanId: hex(id, 16),
                          name: 'wave',
                          startTimeUnixNano: `${now}000000`,
                          endTimeUnixNano: `${now + 1}000000`,
                        })),
                      },
                    ],
                  },
                ],
              };
        for (;;) {
          const answer = await fetch(`http://127.0.0.1:${port}/api/push/v1/${signal}`, {
            method: 'POST',
            headers: { authorization, 'content-type': 'application/json' },
            body: JSON.stringify(request),
          }).catch(() => null);
          if (answer?.ok) break;
          await new Promise((done) => setTimeout(done, 50));
        }
        for (const id of ids) taken[signal].add(signal === 'logs' ? `wave ${id} broke` : hex(id, 16));
      }
    };
    const sending = Promise.all([send('logs'), send('logs'), send('traces'), send('traces')]);
    for (let round = 1; round <= KILLS; round++) {
      const before = taken.logs.size + taken.traces.size;
      await until(`more was taken in round ${round}`, () => taken.logs.size + taken.traces.size > before + 200, 30_000);
      await kill();
      if (round === 4 || round === 8) {
        postgres.crash();
        postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
      }
      await start();
    }
    ended = true;
    await sending;
    const client = new pg.Client(postgres.url);
    await client.connect();
    const { rows: blocks } = await client.query('select body from line_block');
    const { rows: waiting } = await client.query('select id, streams, payload from line_journal');
    const { rows: packedTo } = await client.query('select stream_id, journal_id from line_packed');
    const { rows: traceBlocks } = await client.query('select origins, body from trace_block');
    const { rows: open } = await client.query(
      `select payload from span_journal where id > coalesce((select max(journal_id) from span_packed), 0)`,
    );
    await client.end();
    const lines: string[] = [];
    for (const { body } of blocks) for (const { text } of await blockLines(body)) lines.push(text);
    const upTo = new Map(packedTo.map(({ stream_id, journal_id }) => [stream_id, Number(journal_id)]));
    for (const { id, streams, payload } of waiting)
      for (const [i, part] of (await journalParts(payload)).entries())
        if (Number(id) > (upTo.get(streams[i]) ?? 0)) for (const { text } of part) lines.push(text);
    const own = lines.filter((text) => text.startsWith('wave '));
    expect(own.length).toBe(new Set(own).size);
    expect([...taken.logs].filter((text) => !own.includes(text))).toEqual([]);
    const packed: string[] = [];
    for (const block of traceBlocks) for (const { spanId } of await spansIn(block)) packed.push(spanId);
    const spans = new Set(packed);
    for (const { payload } of open) for (const { spanId } of await journalSpans(payload)) spans.add(spanId);
    expect(packed.length).toBe(new Set(packed).size);
    expect([...taken.traces].filter((id) => !spans.has(id))).toEqual([]);
    console.log(
      `${taken.logs.size} log lines and ${taken.traces.size} spans taken, all there once after ${KILLS} kills of the server and two of PostgreSQL`,
    );
  }, 300_000);

  it('of the server while it tells, of the mail server and of PostgreSQL: what is told is what is due, and copies are as many as kills at most', async () => {
    const KILLS = 4;
    const visitor = await new Visitor(`http://127.0.0.1:${port}`).signIn('maren');
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
      const client = new pg.Client(postgres.url);
      await client.connect();
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
        40_000,
      );
      if (round === KILLS) break;
      // in the middle of telling it, at some other moment each time; of both, either first
      if (round === 2) postgres.crash();
      if (round % 2 === 0) await kill();
      await killed(mail);
      if (round % 2 === 1) await kill();
      if (round === 2) postgres = await startPostgres({ name: 'crash-postgres', port: 25_800 });
      await start();
      await startMail();
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
      await until('something is told', async () => (await sent()) > before, 100_000);
      await killed(mail);
      await startMail();
    }
    const rows = await until(
      'everything was sent',
      async () => {
        const all = await outbox();
        return all.every(({ sent }) => sent) ? all : undefined;
      },
      100_000,
    );
    const received = await mails();
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
  }, 300_000);

  it('a paused server that wakes up writes nothing, judges nothing and tells nothing once another has taken over', async () => {
    const client = new pg.Client(postgres.url);
    await client.connect();
    const lease = async () => (await client.query(`select epoch, holder from lease where name = 'store'`)).rows[0];
    const first = await lease();
    server.kill('SIGSTOP');
    // a second installation with the same keys; it takes over when the lease has run out
    const other = temporaryFolder();
    cpSync(join(dataDir, 'secret-keys.json'), join(other, 'secret-keys.json'));
    const otherPort = await freePort(port + 1);
    const second = spawn(process.execPath, [MAIN], {
      env: { ...environment(), ZETOPSIS_DATA_DIR: other, ZETOPSIS_PORT: String(otherPort) },
      stdio: 'ignore',
    });
    try {
      const after = await until(
        'another holder',
        async () => {
          const now = await lease();
          return now.holder === first.holder ? null : now;
        },
        40_000,
      );
      expect(after.epoch).toBe(first.epoch + 1);
      const written = async (epoch: number) =>
        Number((await client.query('select count(*) from journal where epoch = $1', [epoch])).rows[0].count);
      await until('it writes', async () => (await written(after.epoch)) > 10, 30_000);
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
      await until('it is raised', async () => (await raised()).length === names.length, 40_000);
      const before = await written(first.epoch);
      server.kill('SIGCONT');
      const visitor = await new Visitor(`http://127.0.0.1:${port}`).signIn('maren');
      await until('it says so', async () => (await visitor.get('sources')).store.heldBy === hostname(), 30_000);
      const goesOn = await written(after.epoch);
      await until('the other goes on', async () => (await written(after.epoch)) > goesOn + 14, 30_000);
      expect(await written(first.epoch)).toBe(before);
      // which knows of no such rule: it neither ended what was raised nor raised it again
      expect((await raised()).map(({ title, ended }) => [title.slice(0, 8), ended]).sort()).toEqual(
        names.map((name) => [name, null]),
      );
      expect((await visitor.ask('POST', `rules/${watch.key}/judge`)).status).toBe(409);
      const own = await until(
        'all is told',
        async () => {
          const { rows } = await client.query(
            `select stable_key as key, sent_at is not null as sent, folded_into is null as alone from outbox where channel is null`,
          );
          return rows.every(({ sent }) => sent) ? rows : undefined;
        },
        100_000,
      );
      const keys = (await mails()).map(({ headers }) => headers['x-zetopsis-key']!);
      for (const { key } of own.filter(({ alone }) => alone).slice(-5))
        expect([key, keys.filter((one) => one === key).length]).toEqual([key, 1]);
    } finally {
      second.kill('SIGKILL');
      await client.end();
      rmSync(other, { recursive: true, force: true });
    }
  }, 120_000);

  it('“disk full” from PostgreSQL is said, readings wait, and none is lost once there is room', async () => {
    await kill();
    await start();
    const visitor = await new Visitor(`http://127.0.0.1:${port}`).signIn('maren');
    await until('it has the lease again', async () => (await visitor.get('sources')).store.heldBy === null, 40_000);
    const client = new pg.Client(postgres.url);
    await client.connect();
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
        return now.problem !== null && now.waiting > 20 ? now : null;
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
  }, 120_000);
});
