import { ChannelsAnswer, DeliveriesAnswer, RehearsalAnswer, RuleSheet, StretchesAnswer } from '@zetopsis/contract';
import { DataSource } from 'typeorm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, owned, people, type Served, serve, standIn, until, withToken } from './harness.ts';

const level = (bound: number | null = null, holdsSeconds = 0) => ({ bound, holdsSeconds });
const CPU =
  'read vital container.cpu.time\n  per second over 1m\n  add labels workload, kind\n  total for each cluster, k8s_namespace_name, workload, kind\n';
interface Hook {
  readonly path: string;
  readonly status: number | null;
  readonly headers: Record<string, string>;
  readonly body: string;
}

describe('rules about what happened, and what is told of it', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let all: Awaited<ReturnType<typeof people>>;
  const hooks = async () => (await fetch(`${world.card.mailPage}hooks.json`)).json() as Promise<Hook[]>;
  const at = (way: string) => `${world.card.mailPage}hook/${way}`;
  const act = (path: string, query: Record<string, string>) =>
    fetch(`${world.card.control}/${path}?${new URLSearchParams({ cluster: 'seaward', ...query })}`, { method: 'POST' });
  const add = async (document: object): Promise<string> => {
    const answer = await all.administrator.ask('POST', 'rules', { applies: { namespaces: ['tides'] }, ...document });
    expect([answer.status, answer.body.text]).toEqual([201, undefined]);
    return answer.body.key;
  };
  const sheet = async (key: string) => RuleSheet.parse(await all.administrator.get(`rules/${key}`));
  const raised = (key: string, fits: (title: string) => boolean = () => true) =>
    until(`${key} raised`, async () => (await sheet(key)).history.find(({ title }) => fits(title)));
  const rehearsed = async (document: object, from: number, to = Date.now()) =>
    RehearsalAnswer.parse(
      (
        await all.administrator.ask('POST', 'rules/rehearse', {
          document: { applies: { namespaces: ['tides'] }, ...document },
          from,
          to,
        })
      ).body,
    );
  const began = Date.now();

  beforeAll(async () => {
    world = await standIn({ pace: 300 });
    served = await serve({ ZETOPSIS_SMTP_URL: `smtp://127.0.0.1:${world.card.smtp.port}` });
    all = await people(served);
    const developer = (await all.developer.get('session')).person.name;
    const made = await all.administrator.ask('POST', 'admin/teams', {
      name: 'Tides',
      email: 'tides@skerrivale.test',
      members: [developer],
      owns: [owned('tides')],
    });
    expect(made.status).toBe(204);
    await all.administrator.ask('POST', 'connections', connectionTo(world));
    await until('the cluster is known', async () => {
      const found = await all.administrator.get('find?q=gauge-reader');
      return found.found.some(({ kind }: { kind: string }) => kind === 'deployment');
    });
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  it('an object that is changed is raised with what changed, at the object, in the rule’s own words', async () => {
    const document = {
      name: 'something changed',
      when: { is: 'object change', changes: ['changed'], kinds: ['deployment'], standsSeconds: 3600 },
      levels: { warning: level() },
      title: '{object} in {namespace}: changed',
      says: 'As {team} should know: {reason}',
      links: [{ name: 'chart', address: 'https://charts.example/tides' }],
    };
    const key = await add(document);
    expect((await act('scale', { namespace: 'tides', name: 'gauge-reader', replicas: '5' })).status).toBe(200);
    const alert = await raised(key);
    expect(alert).toMatchObject({
      title: 'deployment gauge-reader in tides: changed',
      path: ['seaward', 'tides', 'deployment:gauge-reader'],
      team: 'Tides',
    });
    expect(alert.reason).toMatch(/^As Tides should know: It was changed: .+ → 5 pods/);
    const mails = await until('the mail', async () => {
      const list = (await (await fetch(`${world.card.mailPage}mails.json`)).json()) as {
        subject: string;
        text: string;
      }[];
      return list.find(({ subject }) => subject === 'Warning: deployment gauge-reader in tides: changed');
    });
    expect(mails.text).toContain('https://charts.example/tides');
    // looked back over, it is the same: when, and where
    const past = await rehearsed({ ...document, title: '', says: '' }, began);
    expect(past.raised.some(({ path }) => path.join('/') === 'seaward/tides/deployment:gauge-reader')).toBe(true);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('what is expected and is not there is raised where it should be, to whoever owns that; what is there is not', async () => {
    const document = {
      name: 'the watch',
      when: { is: 'expected', kinds: ['deployment'], names: ['gauge-reader', 'lantern'], extra: true },
      levels: { warning: level(), critical: level() },
    };
    const key = await add(document);
    const missing = await raised(key, (title) => title.startsWith('lantern'));
    expect(missing).toMatchObject({
      title: 'lantern: It should be there, and is not.',
      severity: 'critical',
      path: ['seaward', 'tides', 'deployment:lantern'],
      team: 'Tides',
    });
    const { history, rule } = await sheet(key);
    expect(history.some(({ title }) => title.startsWith('gauge-reader'))).toBe(false);
    expect(rule.matched).toBe(history.length);
    const past = await rehearsed(document, began);
    expect(past.raised.map(({ path }) => path.join('/')).sort()).toEqual(
      [...new Set(history.map(({ path }) => path.join('/')))].sort(),
    );
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    // a team's says where: it can expect nothing of others
    const anywhere = { name: 'x', team: 'tides', when: document.when, levels: document.levels };
    expect(await all.developer.ask('POST', 'rules', anywhere)).toMatchObject({
      status: 409,
      body: { text: expect.stringContaining('names the namespaces') },
    });
  });

  it('what cannot be read, or was not known yet, is not missing', async () => {
    const { narrowToken } = world.card.clusters[0]!;
    const connected = await all.administrator.ask('POST', 'connections', {
      ...connectionTo(world),
      name: 'quay',
      token: narrowToken,
    });
    expect(connected.status).toBe(201);
    await until('the other cluster is read in part', async () => {
      const connections = await all.administrator.get('connections');
      return connections.find((one: { name: string }) => one.name === 'quay')?.state === 'partly reading';
    });
    const document = {
      name: 'one on each node',
      when: { is: 'expected', kinds: ['daemon set'], names: ['lamp-post'] },
      levels: { warning: level(), critical: level() },
    };
    const key = await add(document);
    await raised(key, (title) => title.startsWith('lamp-post'));
    const places = (found: readonly { path: readonly string[] }[]) => [...new Set(found.map(({ path }) => path[0]))];
    expect(places((await sheet(key)).history)).toEqual(['seaward']);
    // of the hour before it was connected nothing is known, nor of a kind that was listed after the others
    await served.app
      .get(DataSource, { strict: false })
      .query(`update object_version set from_ms = from_ms - 60000 where kind = 'namespace'`);
    const other = { ...document, when: { ...document.when, kinds: ['deployment'], names: ['gauge-reader'] } };
    const past = await rehearsed(other, began - 3_600_000);
    expect(past.raised).toEqual([]);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    expect((await all.administrator.ask('DELETE', `connections/${connected.body.id}`)).status).toBe(204);
  });

  it('outside of its hours nothing holds, and what was raised is over', async () => {
    const document = {
      name: 'by day',
      when: { is: 'expected', kinds: ['deployment'], names: ['lantern'] },
      levels: { warning: level() },
    };
    const key = await add({
      ...document,
      hours: { zone: 'UTC', days: ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'], from: '00:00', to: '00:00' },
    });
    await raised(key);
    const { rule } = await sheet(key);
    // an hour of another day
    const other = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'][(new Date().getUTCDay() + 3) % 7];
    const hours = { zone: 'UTC', days: [other], from: '03:00', to: '03:01' };
    expect((await all.administrator.ask('PUT', `rules/${key}`, { ...rule.document, hours })).status).toBe(204);
    await until('it is over', async () => (await sheet(key)).history.every(({ endedAt }) => endedAt !== null));
    expect((await rehearsed({ ...document, hours }, Date.now() - 3_600_000)).raised).toEqual([]);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('what runs out, and what departs from a quiet stretch, is judged in times and in bands, live as looked back over', async () => {
    // as long as it happens to be: no moment in it falls on a whole one
    const to = Date.now() - 2000;
    const quiet = { from: new Date(to - 1_140_007).toISOString(), to: new Date(to).toISOString() };
    const kinds = [
      {
        when: { is: 'running out', text: CPU, reaches: '1000', fromSeconds: 1800 },
        levels: { warning: level(100 * 86_400) },
      },
      { when: { is: 'unusual', text: CPU, side: 'either', quiet }, levels: { warning: level(0.0001) } },
    ];
    for (const kind of kinds) {
      const key = await add({ name: kind.when.is, state: 'on trial', ...kind, judgedSeconds: 10 });
      const judged = await until(`${kind.when.is} is judged`, async () => {
        const own = await sheet(key);
        return own.rule.judgedAt === null && own.rule.problem === null ? undefined : own;
      });
      expect([kind.when.is, judged.rule.problem]).toEqual([kind.when.is, null]);
      const past = await rehearsed({ name: 'x', ...kind }, Date.now() - 1_200_000);
      expect([kind.when.is, past.notes.filter((note) => /cannot/.test(note))]).toEqual([kind.when.is, []]);
      expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    }
  });

  it('some objects have other numbers', async () => {
    const document = {
      name: 'busy',
      state: 'on trial',
      when: { is: 'measure', text: CPU, compare: 'above' },
      levels: { warning: level(1e6) },
      overrides: [{ applies: { names: ['gauge-*'] }, warning: 0 }],
      judgedSeconds: 10,
    };
    const key = await add(document);
    const alert = await raised(key);
    expect(alert.path[2]).toBe('deployment:gauge-reader');
    const { objects } = await sheet(key);
    expect(objects.filter(({ state }) => state !== 'clear').map(({ path }) => path[2])).toEqual([
      'deployment:gauge-reader',
    ]);
    const past = await rehearsed(document, Date.now() - 600_000);
    expect(new Set(past.raised.map(({ path }) => path[2]))).toEqual(new Set(['deployment:gauge-reader']));
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('a team has stricter numbers for what it owns: its members say so, never looser, and nobody is named who is not there', async () => {
    const document = {
      name: 'busy with stricter',
      state: 'on trial',
      when: { is: 'measure', text: CPU, compare: 'above' },
      levels: { warning: level(1e6) },
      judgedSeconds: 10,
    };
    const key = await add(document);
    const ask = (by: typeof all.administrator, body: object) => by.ask('PUT', `rules/${key}/stricter`, body);
    const numbers = (warning: number | null, critical: number | null = null, team = 'tides') => ({
      team,
      warning,
      critical,
    });
    expect((await ask(all.nobody, numbers(0))).status).toBe(403);
    const looser = await ask(all.developer, numbers(2e6));
    expect([looser.status, looser.body.fields[0].path]).toEqual([400, 'warning']);
    expect((await ask(all.developer, numbers(null, 2))).body.fields[0]).toEqual({
      path: 'critical',
      text: 'the rule has no such level',
    });
    expect((await ask(all.developer, numbers(0))).status).toBe(204);
    expect((await sheet(key)).rule.document.stricter).toEqual({ tides: { warning: 0, critical: null } });
    expect((await raised(key)).path.slice(0, 2)).toEqual(['seaward', 'tides']);
    const past = await rehearsed((await sheet(key)).rule.document, Date.now() - 600_000);
    expect(past.raised.length).toBeGreaterThan(0);
    // an administrator's answer is refused as well where it names nobody
    for (const more of [
      { stricter: { ghosts: { warning: 0, critical: null } } },
      { overrides: [{ applies: { teams: ['ghosts'] }, warning: 0 }] },
    ]) {
      const refused = await all.administrator.ask('PUT', `rules/${key}`, { ...document, ...more });
      expect([refused.status, refused.body.text]).toEqual([409, expect.stringContaining('the team ghosts')]);
    }
    expect((await ask(all.developer, numbers(null))).status).toBe(204);
    expect((await sheet(key)).rule.document.stricter).toEqual({});
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('a file says what its rules would raise now, before it is read', async () => {
    const file = async () => JSON.parse((await all.administrator.get('admin/configuration?as=json')).text);
    const tried = async (rules: object) => {
      const own = await file();
      const text = JSON.stringify({ ...own, rules: { ...own.rules, ...rules } });
      const { body } = await all.administrator.ask('POST', 'admin/configuration', { text, tryOnly: true });
      expect(body.problems).toEqual([]);
      return new Map<string, string>(
        body.differences.map(({ key, warning }: { key: string; warning: string }) => [key, warning]),
      );
    };
    const before = await file();
    const rule = (name: string, more: object) => ({
      name,
      applies: { clusters: ['seaward'], namespaces: ['tides'] },
      levels: { critical: level() },
      ...more,
    });
    const rules = {
      lost: rule('lost', { when: { is: 'expected', kinds: ['deployment'], names: ['gone-1', 'gone-2'] } }),
      there: rule('there', { when: { is: 'expected', kinds: ['deployment'], names: ['gauge-reader'] } }),
      off: rule('off', { state: 'off', when: { is: 'expected', kinds: ['deployment'], names: ['gone-1'] } }),
      wrong: rule('wrong', {
        when: { is: 'measure', text: 'read no_such_thing_total\n  percentile 95 of buckets\n' },
        levels: { warning: level(1) },
      }),
    };
    // of a cluster that is not read at this moment nothing can be said
    const told = await until('it is said', async () => {
      const all = await tried(rules);
      return /cannot be said/.test(all.get('lost') ?? '') ? undefined : all;
    });
    expect(told.get('lost')).toMatch(/^It would be raised now, .* of 2 of 2 objects \(2 critical\): gone-1, gone-2\.$/);
    expect(told.get('there')).toMatch(/^Nothing would be raised now/);
    expect(told.get('off') ?? '').not.toContain('raised');
    expect(told.get('wrong')).toMatch(/^(It cannot be judged as it stands|Nothing would be raised)/);
    expect(await file()).toEqual(before);
  });

  it('Zetopsis itself: a rule that cannot be judged is told of by another', async () => {
    const broken = await add({
      name: 'of nothing',
      when: { is: 'measure', text: 'read no_such_thing_total\n  percentile 95 of buckets\n', compare: 'above' },
      levels: { warning: level(1) },
      judgedSeconds: 10,
    });
    const key = await add({
      name: 'is it well',
      tells: 'tides',
      applies: {},
      when: { is: 'itself' },
      levels: { warning: level(), critical: level() },
    });
    const alert = await raised(key, (title) => title.includes('of nothing'));
    expect(alert.reason).toMatch(/^It cannot be judged: /);
    expect((await all.administrator.ask('DELETE', `rules/${broken}`)).status).toBe(204);
    await until('it is over', async () =>
      (await sheet(key)).history.find(({ title, endedAt }) => title.includes('of nothing') && endedAt !== null),
    );
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('a stretch is marked by whoever operates where it is, a pipeline by its token; found, ended, and known to rehearsals', async () => {
    const mark = (by: typeof all.administrator, more: object) =>
      by.ask('POST', 'stretches', {
        kind: 'release',
        title: 'gauge 3',
        scope: ['seaward', 'tides'],
        from: new Date().toISOString(),
        ...more,
      });
    expect((await mark(all.developer, { scope: ['seaward', 'customs'] })).status).toBe(403);
    expect((await mark(all.developer, { scope: [] })).status).toBe(403);
    const reader = await withToken(served, all.developer, { level: 'read' });
    expect((await mark(reader, {})).status).toBe(403);
    const pipeline = await withToken(served, all.developer, { level: 'operate' });
    const made = await mark(pipeline, {});
    expect([made.status, made.body.text]).toEqual([201, undefined]);
    const tape = async () =>
      (await all.developer.get(`usage/tape?in=seaward/tides&from=${Date.now() - 600_000}`)).stretches;
    expect(await tape()).toMatchObject([{ key: made.body.key, title: 'gauge 3', to: null, mayChange: true }]);
    expect((await all.developer.get('find?q=gauge%203')).found[0]).toMatchObject({
      kind: 'stretch',
      name: 'gauge 3',
      path: ['seaward', 'tides'],
      span: { to: null },
    });
    await new Promise<void>((done) => setTimeout(done, 5)); // it lasts longer than nothing
    expect((await pipeline.ask('POST', `stretches/${made.body.key}/end`, {})).status).toBe(204);
    expect((await pipeline.ask('POST', `stretches/${made.body.key}/end`, {})).status).toBe(409);
    const trouble = await mark(all.administrator, {
      kind: 'trouble',
      title: 'the flood',
      from: new Date(began).toISOString(),
      to: new Date().toISOString(),
    });
    expect(trouble.status).toBe(201);
    const past = await rehearsed(
      { name: 'x', when: { is: 'expected', kinds: ['deployment'], names: ['lantern'] }, levels: { warning: level() } },
      began - 60_000,
    );
    expect(past.troubles.find(({ title }) => title === 'the flood')?.lead).toEqual(expect.any(Number));
    const { stretches } = StretchesAnswer.parse(await all.developer.get('stretches'));
    expect(stretches.map(({ document }) => document.title)).toEqual(['gauge 3', 'the flood']);
    for (const { key } of stretches)
      expect((await all.administrator.ask('DELETE', `stretches/${key}`)).status).toBe(204);
    expect(await tape()).toEqual([]);
  });

  it('a hush while a node takes no new pods stands on the tape for as long as it held', async () => {
    const reason = 'new planks';
    const hush = await all.administrator.ask('POST', 'hushes', { reason, when: { is: 'maintenance' } });
    expect(hush.status).toBe(201);
    const from = Date.now() - 600_000;
    const tape = async (by: typeof all.administrator, where: string) =>
      (await by.get(`usage/tape?in=${where}&from=${from}`)).hushes as { reason: string; from: number; to: number }[];
    const on = (node: string) => [`${reason} (${node} takes no new pods)`];
    const reasons = async (...of: Parameters<typeof tape>) => (await tape(...of)).map((one) => one.reason);
    expect(await tape(all.administrator, '')).toEqual([]);
    expect((await act('close-node', { node: 'seaward-03' })).status).toBe(200);
    await until('it is on the tape', async () => (await tape(all.administrator, '')).length === 1);
    expect(await reasons(all.administrator, 'seaward')).toEqual(on('seaward-03'));
    expect(await reasons(all.administrator, 'seaward/node:seaward-03')).toEqual(on('seaward-03'));
    expect(await reasons(all.administrator, 'seaward/node:seaward-02')).toEqual([]);
    // who sees a part of the cluster is not told which node
    expect(await reasons(all.developer, 'seaward/tides')).toEqual(on('a node'));
    expect((await act('open-node', { node: 'seaward-03' })).status).toBe(200);
    const opened = Date.now();
    const [held] = await until('it is over', async () => {
      const now = await tape(all.administrator, '');
      return now.length === 1 && now[0]!.to < Date.now() - 1500 ? now : undefined;
    });
    expect(held!.to).toBeLessThan(opened + 10_000);
    expect((await all.administrator.ask('DELETE', `hushes/${hush.body.key}`)).status).toBe(204);
    expect(await tape(all.administrator, '')).toEqual([]);
  });

  it('programs: one acts once and its answer is kept, a flood is one message, a heart beats', async () => {
    const channel = (name: string, way: string, more: object = {}) =>
      all.developer.ask('POST', 'channels', { document: { name, team: 'tides', address: at(way), ...more } });
    for (const made of [
      await channel('harbour master', 'takes', { does: 'act' }),
      await channel('the log', 'takes?of=log', { perMinute: 3 }),
      await channel('watchman', 'takes?of=watch', { does: 'heartbeat', everyMinutes: 1 }),
      await channel('sleeper', 'fails', {}),
    ])
      expect([made.status, made.body.text]).toEqual([201, undefined]);
    const key = await add({
      name: 'many',
      when: { is: 'expected', kinds: ['deployment'], names: Array.from({ length: 12 }, (_, i) => `lantern-${i}`) },
      levels: { warning: level() },
    });
    const bodies = (list: Hook[], fits: (body: { change: string }) => boolean) =>
      list
        .map(({ body }) => JSON.parse(body) as { change: string; title: string; key: string; messages?: unknown[] })
        .filter(fits);
    const seen = await until('all of it', async () => {
      const list = await hooks();
      const digest = bodies(list, ({ change }) => change === 'digest')[0];
      const beats = bodies(list, ({ change }) => change === 'heartbeat');
      const acted = bodies(list, ({ change }) => change === 'raised').filter(({ key: own }) =>
        own.includes('harbour-master'),
      );
      return digest && beats.length > 0 && acted.length >= 12 ? { digest, acted } : undefined;
    });
    expect(seen.digest.messages!.length).toBeGreaterThanOrEqual(9);
    expect(new Set(seen.acted.map((one) => one.key)).size).toBe(12);
    const log = async (query: string) =>
      DeliveriesAnswer.parse(await all.developer.get(`deliveries?${query}`)).deliveries;
    const answered = await until('answers are kept', async () => {
      const own = (await log('text=harbour%20master')).filter(({ answer }) => answer !== null);
      return own.length === 12 ? own : undefined;
    });
    expect(answered[0]!.answer).toMatch(/^200 .*"done":true/);
    expect((await log('text=the%20log')).filter(({ together }) => together).length).toBeGreaterThanOrEqual(9);
    expect((await log('text=no%20such%20word')).length).toBe(0);
    const { channels } = ChannelsAnswer.parse(await all.developer.get('channels'));
    expect(channels.find(({ document }) => document.name === 'sleeper')!.lastError).toMatch(/500/);
    expect(channels.find(({ document }) => document.name === 'watchman')!.lastSentAt).toBeGreaterThan(began);
    // nobody else reads it
    expect(DeliveriesAnswer.parse(await all.nobody.get('deliveries?text=lantern')).deliveries).toEqual([]);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    await until('the ends are no actions', async () => {
      const list = await hooks();
      return bodies(list, ({ change }) => change === 'ended' || change === 'digest').length > 1;
    });
    expect(
      bodies(await hooks(), ({ key: own }: { key?: string } & { change: string }) => own!.includes('harbour-master'))
        .length,
    ).toBe(12);
  });
});
