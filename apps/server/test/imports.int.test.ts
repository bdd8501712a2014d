import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Reach } from '@zetopsis/core/access';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ImportsService } from '../src/inflow/imports/imports.service.ts';
import { migrate } from '../src/keeping/tables/database.ts';
import {
  connectionTo,
  newDatabase,
  nodePages,
  people,
  type Served,
  serve,
  standIn,
  temporaryFolder,
  until,
  type Visitor,
} from './harness.ts';

const HOUR = 3_600_000;

describe('history imports', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let all: Awaited<ReturnType<typeof people>>;
  let id: string;

  beforeAll(async () => {
    served = await serve();
    world = await standIn();
    all = await people(served);
    id = (await all.administrator.ask('POST', 'connections', connectionTo(world))).body.id;
    await until('its nodes', async () => (await nodePages(all.administrator)).length === 14);
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  const send = async (visitor: Visitor, query: string, body: string, type = 'text/plain') => {
    const response = await fetch(`${served.base}/api/imports?${query}`, {
      method: 'POST',
      headers: { cookie: visitor.session, 'content-type': type },
      body,
    });
    // biome-ignore lint/suspicious/noExplicitAny: answers of every shape are looked into
    return { status: response.status, body: (await response.json()) as any };
  };
  const finished = (run: number) =>
    until('its end', async () =>
      (await all.administrator.get('imports')).imports.find(
        (one: { id: number; endedAt: number | null }) => one.id === run && one.endedAt !== null,
      ),
    );
  const states = 'what=states%20of%20objects&cluster=seaward';
  const ago = (hours: number) => new Date(Math.floor((Date.now() - hours * HOUR) / 1000) * 1000).toISOString();
  const pod = (name: string) => ({
    metadata: { name, namespace: 'tides', uid: `uid-${name}`, creationTimestamp: ago(400) },
    spec: { nodeName: 'seaward-01', containers: [{ name: 'c', env: [{ name: 'PASSWORD', value: 'hidden-word' }] }] },
    status: { phase: 'Running' },
  });
  const line = (name: string, from: number, to: number, more: object = {}) =>
    JSON.stringify({ kind: 'pod', from: ago(from), to: ago(to), object: pod(name), ...more });

  it('take states of objects, leave out what is wrong or known, and say where', async () => {
    const file = [
      line('old-tide', 300, 250),
      line('old-tide', 250, 200, { object: { ...pod('old-tide'), status: { phase: 'Succeeded' } } }),
      line('old-tide', 260, 240), // overlaps both
      '',
      'no JSON',
      line('old-tide', 100, 150), // ends before it begins
      line('old-tide', 10, -10), // ends in the future
      line('x', 20, 10, { kind: 'ship' }),
      line('x', 20, 10, { object: { metadata: {} } }),
      JSON.stringify({
        kind: 'secret',
        from: ago(30),
        to: ago(20),
        object: { metadata: { name: 's', namespace: 'tides', uid: 'uid-s' }, data: { key: 'aGlkZGVuLXdvcmQ=' } },
      }),
    ].join('\n');
    const { status, body } = await send(all.administrator, states, file);
    expect(status).toBe(202);
    expect(await finished(body.id)).toMatchObject({
      state: 'done',
      added: 3,
      same: 1,
      leftOut: 5,
      problem: 'Line 5: it is not JSON.',
      by: 'maren',
    });
    const client = new pg.Client(served.config.databaseUrl);
    await client.connect();
    const { rows } = await client.query(
      `select uid, object::text as text, to_ms - from_ms as length from object_version where connection_id = $1 and uid like 'uid-%' order by uid, from_ms`,
      [id],
    );
    await client.end();
    expect(rows.map(({ uid, length }) => [uid, Number(length) / HOUR])).toEqual([
      ['uid-old-tide', 50],
      ['uid-old-tide', 50],
      ['uid-s', 10],
    ]);
    expect(JSON.stringify(rows)).not.toMatch(/hidden-word|aGlkZGVuLXdvcmQ/);
    // what is gone long since can be looked at where it was
    const answer = await all.administrator.get(
      `usage?in=seaward/tides&from=${Date.now() - 280 * HOUR}&to=${Date.now() - 270 * HOUR}`,
    );
    expect(JSON.stringify(answer)).toContain('old-tide');
    const { entries } = await all.administrator.get('admin/audit');
    expect(entries.map(({ action }: { action: string }) => action)).toEqual(
      expect.arrayContaining(['import: done', 'import history']),
    );
  });

  it('are for those who administer the cluster, and ask for what is missing', async () => {
    const samples = 'what=samples&cluster=seaward&node=seaward-01';
    for (const visitor of [all.reader, all.operator, all.developer, all.nobody])
      expect((await send(visitor, samples, 'a 1 1\n# EOF\n')).status).toBe(403);
    expect((await all.developer.get('imports')).imports).toEqual([]);
    const cases = [
      [samples, '', 400, /empty/],
      ['what=samples&cluster=seaward&node=nowhere', 'x', 400, /has none on the node “nowhere”/],
      ['what=samples&cluster=nowhere&node=n', 'x', 404, /no cluster nowhere/],
      ['what=ships&cluster=seaward', 'x', 400, /what/],
    ] as const;
    for (const [query, body, status, words] of cases) {
      const answer = await send(all.administrator, query, body);
      expect([query, answer.status]).toEqual([query, status]);
      expect(answer.body.text).toMatch(words);
    }
    const json = await send(all.administrator, samples, '{}', 'application/json');
    expect([json.status, json.body.text]).toEqual([400, expect.stringMatching(/Send the file as it is/)]);
  });

  it('end where they are when they are cancelled, and go on with the next', async () => {
    const imports = served.app.get(ImportsService, { strict: false });
    const endpoint = (await nodePages(all.administrator))[0]!.id;
    let parts = 0;
    const page = async () => {
      parts++;
      return new TextEncoder().encode(`# TYPE w gauge\nw ${parts} ${1_700_000_000 + parts}\n# EOF\n`);
    };
    const { answer, done } = await imports.takeParts(
      { cluster: 'seaward', about: 'many', by: 'maren' },
      Array.from({ length: 200 }, () => ({ endpointId: endpoint, page })),
    );
    await until('some parts', () => parts > 3);
    expect((await all.reader.ask('DELETE', `imports/${answer.id}`)).status).toBe(404);
    expect((await all.administrator.ask('DELETE', `imports/${answer.id}`)).status).toBe(204);
    await done;
    const run = await finished(answer.id);
    expect(run.state).toBe('cancelled');
    expect(run.partsDone).toBeLessThan(200);
    expect(run.added).toBe(run.partsDone);
    expect((await all.administrator.ask('DELETE', `imports/${answer.id}`)).status).toBe(404);
    const next = await imports.takeParts({ cluster: 'seaward', about: 'one', by: 'maren' }, [
      { endpointId: endpoint, page: async () => new TextEncoder().encode('torn') },
    ]);
    await next.done;
    expect(await finished(next.answer.id)).toMatchObject({
      state: 'failed',
      problem: expect.stringMatching(/cut off/),
    });
    expect(await imports.list(Reach.ofZetopsis())).toHaveLength(3);
  });
});

describe('an import that the end of a process broke off', () => {
  it('goes on by itself; one that was under way at every end does not, and files that nobody waits for go', async () => {
    const url = await newDatabase();
    await migrate(url);
    const database = new pg.Client(url);
    await database.connect();
    const dataDir = temporaryFolder();
    const folder = join(dataDir, 'imports');
    mkdirSync(folder);
    for (const file of ['going-on', 'again-and-again', 'left-over'])
      writeFileSync(join(folder, file), '# TYPE w gauge\nw 1 1700000000\nw 2 1700000060\n# EOF\n');
    const { rows } = await database.query(`insert into endpoint (given) values ('lamp') returning id`);
    for (const [file, takenUp] of [
      ['going-on', 0],
      ['again-and-again', 3],
    ] as const)
      await database.query(
        `insert into history_import (cluster, about, what, by, state, parts, file, endpoint, started_ms, taken_up)
         values ('seaward', $1, 'samples', 'maren', 'running', 1, $1, $2, $3, $4)`,
        [file, rows[0].id, Date.now(), takenUp],
      );
    const served = await serve({ ZETOPSIS_DATA_DIR: dataDir }, url);
    try {
      const runs = async () =>
        (await database.query(`select about, state, added, problem from history_import order by id`)).rows;
      const [first, second] = await until('its end', async () => {
        const all = await runs();
        return all[0].state === 'done' ? all : null;
      });
      expect([Number(first.added), first.problem]).toEqual([2, null]);
      expect([second.state, second.problem]).toEqual(['interrupted', expect.stringContaining('import it again')]);
      await until('its file is gone', () => readdirSync(folder).length === 0);
    } finally {
      await served.close();
      await database.end();
    }
  });
});
