import { createHmac } from 'node:crypto';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import {
  ChannelsAnswer,
  HushesAnswer,
  NoiseAnswer,
  RehearsalAnswer,
  RehearsalProgress,
  RuleDocument,
  RuleSheet,
  RulesAnswer,
} from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, owned, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

/** A line for each container of a namespace, in percent of its memory limit. */
const MEMORY = `use = read vital container.memory.working_set
  add labels pod, workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
limit = read vital container.memory.limit
  add labels pod, workload, kind
  total for each cluster, k8s_namespace_name, workload, kind
show use / limit as percent
`;
const level = (bound: number | null, holdsSeconds = 0) => ({ bound, holdsSeconds, readings: null });
const EVERY = 10; // seconds

describe('rules of every kind', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let all: Awaited<ReturnType<typeof people>>;
  const mails = async (): Promise<{ to: string; subject: string; text: string }[]> =>
    (await fetch(`${world.card.mailPage}mails.json`)).json() as Promise<
      { to: string; subject: string; text: string }[]
    >;
  const add = async (by: Visitor, document: object): Promise<string> => {
    const answer = await by.ask('POST', 'rules', document);
    expect([answer.status, answer.body.text]).toEqual([201, undefined]);
    return answer.body.key;
  };
  const sheet = async (key: string, by = all.administrator) => RuleSheet.parse(await by.get(`rules/${key}`));
  const save = async (key: string, part: object) => {
    const { rule } = await sheet(key);
    expect((await all.administrator.ask('PUT', `rules/${key}`, { ...rule.document, ...part })).status).toBe(204);
  };

  beforeAll(async () => {
    world = await standIn({ pace: 900 });
    served = await serve({ ZETOPSIS_SMTP_URL: `smtp://127.0.0.1:${world.card.smtp.port}` });
    all = await people(served);
    const team = (name: string, members: string[], namespace: string) =>
      all.administrator.ask('POST', 'admin/teams', {
        name,
        email: `${name.toLowerCase()}@skerrivale.test`,
        members,
        owns: [owned(namespace)],
      });
    const developer = (await all.developer.get('session')).person.name;
    expect((await team('Tides', [], 'tides')).status).toBe(204);
    expect((await team('Clerks', [developer], 'manifests')).status).toBe(204);
    await all.administrator.ask('POST', 'connections', connectionTo(world));
    await until('everything was read for a while', async () => {
      const asked = await all.administrator.ask('POST', 'measures/evaluate', {
        text: MEMORY,
        from: Date.now() - 60_000,
        to: Date.now(),
        in: [],
        explain: false,
      });
      return asked.status === 200 && asked.body.series.length > 10;
    });
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  it('on trial raises what it would, where it stands, and tells nobody; switched on it tells', async () => {
    const key = await add(all.administrator, {
      name: 'memory in use at all',
      state: 'on trial',
      applies: { namespaces: ['tides'] },
      when: { is: 'measure', text: MEMORY, compare: 'above' },
      levels: { warning: level(0.001) },
      judgedSeconds: EVERY,
    });
    const raised = await until('raised on trial', async () => {
      const own = await sheet(key);
      return own.history.length > 0 && own.history.every(({ trial }) => trial) ? own : undefined;
    });
    expect(raised.objects.map(({ path }) => path[1])).toEqual(raised.objects.map(() => 'tides'));
    expect(raised.objects.some(({ path }) => path[2] === 'deployment:tide-model')).toBe(true);
    expect(raised.rule).toMatchObject({
      matched: raised.objects.length,
      problem: null,
      owner: null,
      shownAs: 'percent',
    });
    const now = await all.administrator.get(`now?from=${Date.now() - 60_000}`);
    expect(now.alerts.filter(({ rule }: { rule: string }) => rule === 'memory in use at all')).toEqual([]);
    await save(key, { state: 'on' });
    const mail = await until('the mail', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Warning: memory in use at all: ')),
    );
    expect(mail.to).toBe('tides@skerrivale.test');
    expect(mail.text).toMatch(/the rule tells above 0\.1 %/);
    const ended = (await sheet(key)).history.filter(({ trial }) => trial);
    expect(ended.every(({ endedHow }) => endedHow === 'rule changed')).toBe(true);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    await until('told that it ended', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Ended: memory in use at all: ')),
    );
    expect((await all.administrator.ask('GET', `rules/${key}`)).status).toBe(404);
  });

  it('of findings raises each thing once, where Now shows it, and is clear when it is mended', async () => {
    const key = await add(all.administrator, {
      name: 'images that are not there',
      when: { is: 'finding', codes: ['rolloutStuck', 'imageNotPulled'] },
      levels: { warning: level(null), critical: level(null) },
    });
    const found = await until('the stuck rollout', async () => {
      const { objects } = await sheet(key);
      return objects.find(({ path, state }) => path[2] === 'deployment:declaration-checker' && state === 'raised');
    });
    const { failing } = await all.administrator.get(`now?from=${Date.now() - 60_000}`);
    const shown = failing.find(({ path }: { path: string[] }) => path[2] === 'deployment:declaration-checker');
    expect([found.severity, found.value]).toEqual([shown.finding.severity, shown.finding.reason]);
    await world.control('/mend-release');
    await until('clear', async () =>
      (await sheet(key)).history.some(
        ({ path, endedHow }) => path[2] === 'deployment:declaration-checker' && endedHow === 'clear',
      ),
    );
  });

  it('that is rehearsed tells whoever waits for it how far it is, and nobody else', async () => {
    const id = 'what-is-found-1';
    const now = Date.now();
    const draft = {
      document: {
        name: 'x',
        when: { is: 'finding', codes: ['rolloutStuck', 'imageNotPulled'] },
        levels: { warning: level(null) },
      },
      from: now - 600_000,
      to: now,
      id,
    };
    const asked = all.administrator.ask('POST', 'rules/rehearse', draft);
    const seen: number[] = [];
    const progress = (by: typeof all.developer) => by.ask('GET', `rules/rehearsals/${id}`);
    let over = false;
    void asked.finally(() => {
      over = true;
    });
    while (!over) {
      const [own, other] = await Promise.all([progress(all.administrator), progress(all.developer)]);
      expect(other.status).toBe(404);
      if (own.status === 200 && RehearsalProgress.parse(own.body).share !== null) seen.push(own.body.share);
    }
    expect((await asked).status).toBe(200);
    expect(seen.length).toBeGreaterThan(0);
    expect(seen).toEqual([...seen].sort((a, b) => a - b));
    expect((await progress(all.administrator)).status).toBe(404);
    expect((await all.administrator.ask('GET', 'rules/rehearsals/a%20b')).status).toBe(400);
    // who leaves is not worked for any more
    const leaving = new AbortController();
    const left = fetch(`${served.base}/api/rules/rehearse`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', cookie: all.administrator.session },
      body: JSON.stringify({ ...draft, from: now - 7 * 86_400_000 }),
      signal: leaving.signal,
    }).catch(() => 'left');
    await until('it is worked on', async () => (await progress(all.administrator)).status === 200);
    leaving.abort();
    expect(await left).toBe('left');
    const leftAt = Date.now();
    await until('it is given up', async () => (await progress(all.administrator)).status === 404);
    // long before it would have been done
    expect(Date.now() - leftAt).toBeLessThan(5000);
  });

  it('of a team looks at what the team may see, is written by its members, and tells them', async () => {
    const document = {
      name: 'ours in use',
      team: 'clerks',
      when: { is: 'measure', text: MEMORY, compare: 'above' },
      levels: { warning: level(0.001) },
      judgedSeconds: EVERY,
    };
    expect((await all.reader.ask('POST', 'rules', document)).status).toBe(403);
    expect((await all.developer.ask('POST', 'rules', { ...document, team: null })).status).toBe(403);
    expect((await all.developer.ask('POST', 'rules', { ...document, team: 'tides' })).status).toBe(403);
    const others = await all.developer.ask('POST', 'rules', { ...document, tells: 'tides' });
    expect(others).toMatchObject({ status: 409, body: { fields: [{ path: 'tells' }] } });
    const key = await add(all.developer, document);
    const own = await until('judged', async () => {
      const found = await sheet(key, all.developer);
      return found.rule.matched !== null && found.rule.matched > 0 ? found : undefined;
    });
    expect(new Set(own.objects.map(({ path }) => path[1]))).toEqual(new Set(['manifests']));
    // nobody else sees what it raised by being told of the rule, nor the rule itself
    const told = await until('told', async () => {
      const own = (await mails()).filter(({ subject }) => subject.includes('ours in use'));
      return own.length > 0 ? own : undefined;
    });
    expect(new Set(told.map(({ to }) => to))).toEqual(new Set(['clerks@skerrivale.test']));
    const rehearsal = await all.developer.ask('POST', 'rules/rehearse', {
      document,
      from: Date.now() - 120_000,
      to: Date.now(),
    });
    expect(rehearsal.status).toBe(200);
    expect(new Set(rehearsal.body.raised.map(({ path }: { path: string[] }) => path[1]))).toEqual(
      new Set(['manifests']),
    );
    // taken by whoever operates what it is about; of what others have nothing is known
    const [alert] = (await sheet(key, all.developer)).history;
    const take = (who: Visitor, note: string | null) => who.ask('POST', `alerts/${alert!.id}/take`, { note });
    expect((await take(all.developer, 'we look at it')).status).toBe(204);
    expect((await sheet(key, all.developer)).history[0]).toMatchObject({
      taken: { note: 'we look at it' },
      mayTake: true,
    });
    expect([(await take(all.nobody, null)).status, (await take(all.reader, null)).status]).toEqual([404, 403]);
    expect((await take(all.developer, null)).status).toBe(204);
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    expect((await take(all.developer, 'too late')).status).toBe(409);
  });

  it('a rehearsal of what ran live is what was recorded, to the second', async () => {
    const document = RuleDocument.parse({
      name: 'busy',
      state: 'on trial',
      when: { is: 'measure', text: MEMORY, compare: 'above' },
      levels: { warning: level(0.4, EVERY), critical: level(0.7, 2 * EVERY) },
      clears: { bound: 0.3, afterSeconds: EVERY },
      judgedSeconds: EVERY,
    });
    const key = await add(all.administrator, document);
    const live = await until('it ran for a while', async () => {
      const { rule, history } = await sheet(key);
      const begun = Math.min(...history.map(({ since }) => since));
      return rule.judgedAt !== null && history.length > 2 && rule.judgedAt - begun > 30_000
        ? { rule, history }
        : undefined;
    });
    // since it is judged live: what was the matter before is told from then on
    const from = Math.min(...live.history.map(({ since }) => since));
    const { body } = await all.administrator.ask('POST', 'rules/rehearse', { document, from, to: live.rule.judgedAt! });
    const rehearsed = RehearsalAnswer.parse(body);
    const recorded = live.history.map(({ path, since }) => `${path.join('/')} ${since}`).sort();
    expect(rehearsed.raised.map(({ path, since }) => `${path.join('/')} ${since}`).sort()).toEqual(recorded);
    expect(rehearsed.curve.length).toBeGreaterThan(3);
    // one thing is said the same in the sum, in the rows and by the curve, what is still raised among it
    const rows = rehearsed.raised.map(({ raisedAt, endedAt }) => (endedAt ?? rehearsed.to) - raisedAt);
    expect(rehearsed.raisedMinutes).toBeCloseTo(rows.reduce((sum, ms) => sum + ms, 0) / 60_000, 6);
    expect(rehearsed.curve.find(({ bound }) => bound === 0.4)!.raisedMinutes).toBeCloseTo(rehearsed.raisedMinutes, 6);
    expect(rehearsed.messages.all + rehearsed.messages.unowned).toBeGreaterThanOrEqual(rehearsed.raised.length);
    // of a part of it: nothing that is said of it, the curve too, counts the rest
    const namespaces = [rehearsed.raised[0]!.path[1]!];
    const narrowed = RehearsalAnswer.parse(
      (
        await all.administrator.ask('POST', 'rules/rehearse', {
          document: { ...document, applies: { namespaces } },
          from,
          to: live.rule.judgedAt!,
        })
      ).body,
    );
    const within = rehearsed.raised.filter(({ path }) => path[1] === namespaces[0]);
    expect(within.length).toBeLessThan(rehearsed.raised.length);
    expect(narrowed.objects).toBeLessThan(rehearsed.objects);
    expect(narrowed.raised).toEqual(within);
    expect(narrowed.curve.find(({ bound }) => bound === 0.4)).toMatchObject({
      raised: within.length,
      raisedMinutes: expect.closeTo(narrowed.raisedMinutes, 6),
    });
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
  });

  it('of silent sources raises a page that went away, once, and clears when it is back', async () => {
    const key = await add(all.administrator, {
      name: 'silent',
      tells: 'tides',
      when: { is: 'not read' },
      levels: { warning: level(null), critical: level(null) },
    });
    await world.control('/break?node=seaward-03&how=refuse');
    const mail = await until('the mail', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Warning: Nothing comes from seaward › ')),
    );
    expect(mail.to).toBe('tides@skerrivale.test');
    await world.control('/break?node=seaward-03&how=mend');
    await until('clear', async () => (await sheet(key)).history.some(({ endedHow }) => endedHow === 'clear'));
    // looked back over, it is the same
    const { rule, history } = await sheet(key);
    const now = Date.now();
    const past = await all.administrator.ask('POST', 'rules/rehearse', {
      document: rule.document,
      from: now - 600_000,
      to: now,
    });
    const live = history.find(({ title }) => title.includes('seaward-03'))!;
    // on a busy machine others may have been late meanwhile, and judging was
    const same = (
      past.body.raised as { name: string; severity: string; raisedAt: number; endedAt: number | null }[]
    ).filter(
      ({ name, severity, raisedAt }) =>
        severity === 'warning' && name.includes('seaward-03') && Math.abs(raisedAt - live.raisedAt) < 10_000,
    );
    expect(same).toHaveLength(1);
    expect(same[0]!.endedAt).not.toBeNull();
    const subjects = (await mails()).map(({ subject }) => subject).filter((subject) => subject.includes('seaward-03'));
    expect(subjects.filter((subject) => subject.startsWith('Warning'))).toHaveLength(1);
  });

  it('what a hush keeps quiet is told when the hush is over, and listed at the hush', async () => {
    const hush = await all.administrator.ask('POST', 'hushes', {
      reason: 'the spring tide is expected',
      applies: { namespaces: ['tides'] },
      when: {
        is: 'once',
        from: new Date(Date.now() - 60_000).toISOString(),
        to: new Date(Date.now() + 3_600_000).toISOString(),
      },
    });
    expect(hush.status).toBe(201);
    const key = await add(all.administrator, {
      name: 'quietly',
      applies: { namespaces: ['tides', 'manifests'] },
      when: { is: 'measure', text: MEMORY, compare: 'above' },
      levels: { warning: level(0.001) },
      judgedSeconds: EVERY,
    });
    const about = async () => (await mails()).filter(({ subject }) => subject.includes('quietly'));
    await until('others were told', async () => (await about()).some(({ to }) => to.startsWith('clerks')));
    const kept = await until('kept quiet', async () => {
      const { hushes } = HushesAnswer.parse(await all.administrator.get('hushes'));
      const own = hushes.find((one) => one.key === hush.body.key);
      return own !== undefined && own.kept.length > 0 ? own : undefined;
    });
    expect(kept).toMatchObject({ state: 'quiet now', owner: null });
    expect(kept.kept.every(({ hushed, path }) => hushed === 'the spring tide is expected' && path[1] === 'tides')).toBe(
      true,
    );
    expect((await about()).some(({ to }) => to.startsWith('tides'))).toBe(false);
    const now = await all.administrator.get(`now?from=${Date.now() - 60_000}`);
    expect(now.alerts.some(({ hushed }: { hushed: string | null }) => hushed === 'the spring tide is expected')).toBe(
      true,
    );
    expect((await all.developer.ask('DELETE', `hushes/${hush.body.key}`)).status).toBe(403);
    expect((await all.administrator.ask('DELETE', `hushes/${hush.body.key}`)).status).toBe(204);
    const loud = NoiseAnswer.parse(await all.administrator.get('noise')).rules;
    expect(loud.find((one) => one.key === key)).toMatchObject({ name: 'quietly', taken: 0, suggestion: null });
    expect((await all.developer.get('noise')).rules).toEqual([]);
    await until('told after it', async () =>
      (await about()).some(({ to, subject }) => to.startsWith('tides') && subject.startsWith('Warning')),
    );
    expect((await all.administrator.ask('DELETE', `rules/${key}`)).status).toBe(204);
    const bad = { reason: 'x', when: { is: 'once', from: '2026-11-30T10:00:00Z', to: '2026-11-30T09:00:00Z' } };
    expect(await all.administrator.ask('POST', 'hushes', bad)).toMatchObject({
      status: 400,
      body: { fields: [{ path: 'when.to' }] },
    });
  });

  it('a channel is told what its team is told: signed, once, again after a refusal, never elsewhere', async () => {
    const got: { key: string; signature: string; body: string; at: string }[] = [];
    let refusing = true;
    const receiver = createServer((request, response) => {
      let body = '';
      request.on('data', (piece: Buffer) => {
        body += piece.toString();
      });
      request.on('end', () => {
        const header = (name: string) => String(request.headers[`x-zetopsis-${name}`]);
        if (!refusing) got.push({ key: header('key'), signature: header('signature'), at: header('time'), body });
        response.writeHead(refusing ? 500 : 204).end();
      });
    });
    await new Promise<void>((done) => receiver.listen(0, '127.0.0.1', done));
    const address = `http://127.0.0.1:${(receiver.address() as AddressInfo).port}/tides`;
    const document = { name: 'Tides chat', team: 'tides', address, template: '{"text": "{severity}: {title}"}' };
    expect((await all.developer.ask('POST', 'channels', { document, secret: 'quay' })).status).toBe(403);
    const made = await all.administrator.ask('POST', 'channels', { document, secret: 'quay' });
    expect(made.status).toBe(201);
    const bad = { ...document, template: '{"text": "{titel}"}' };
    expect((await all.administrator.ask('POST', 'channels', { document: bad })).body.fields[0].path).toBe(
      'document.template',
    );
    const channel = async () =>
      ChannelsAnswer.parse(await all.administrator.get('channels')).channels.find(({ key }) => key === made.body.key)!;
    expect((await all.administrator.ask('POST', `channels/${made.body.key}/test`)).status).toBe(204);
    await until(
      'it was refused',
      async () => (await channel()).lastError === 'It answered 500 instead of taking the message.',
    );
    refusing = false;
    const key = await add(all.administrator, {
      name: 'to the chat',
      applies: { namespaces: ['tides'] },
      when: { is: 'measure', text: MEMORY, compare: 'above' },
      levels: { warning: level(0.001) },
      judgedSeconds: EVERY,
    });
    await until(
      'the test and an alert came',
      async () =>
        got.some(({ body }) => body.includes('Test: Tides chat')) &&
        got.some(({ body }) => body.includes('warning: to the chat')),
    );
    for (const { signature, at, body } of got)
      expect(signature).toBe(`sha256=${createHmac('sha256', 'quay').update(`${at}.${body}`).digest('hex')}`);
    expect(new Set(got.map((one) => one.key)).size).toBe(got.length);
    expect(JSON.stringify(await all.administrator.get('channels'))).not.toContain('quay');
    // at another address the secret is not known any more
    const elsewhere = { ...document, address: 'http://hooks.test/x' };
    expect((await all.administrator.ask('PUT', `channels/${made.body.key}`, { document: elsewhere })).status).toBe(204);
    expect((await channel()).signs).toBe(false);
    for (const path of [`rules/${key}`, `channels/${made.body.key}`])
      expect((await all.administrator.ask('DELETE', path)).status).toBe(204);
    receiver.closeAllConnections();
    receiver.close();
  });

  it('names what cannot be judged, and goes on with the others', async () => {
    const key = await add(all.administrator, {
      name: 'of nothing',
      when: { is: 'measure', text: 'read no_such_thing_total\n  percentile 95 of buckets\n', compare: 'above' },
      levels: { warning: level(1) },
      judgedSeconds: EVERY,
    });
    const { rules } = RulesAnswer.parse(await all.administrator.get('rules'));
    expect(rules.find((rule) => rule.key === key)?.problem).toMatch(/no_such_thing_total/);
    expect((await all.administrator.ask('POST', `rules/${key}/judge`)).status).toBeLessThan(500);
    await until('the others are judged', async () => (await sheet('readyPods')).rule.judgedAt! > Date.now() - 10_000);
    const silent = { name: 'x', when: { is: 'itself' }, levels: { warning: level(null) } };
    const now = Date.now();
    const refused = await all.administrator.ask('POST', 'rules/rehearse', {
      document: silent,
      from: now - 60_000,
      to: now,
    });
    expect(refused).toMatchObject({ status: 400, body: { text: expect.stringContaining('on trial') } });
  });
});
