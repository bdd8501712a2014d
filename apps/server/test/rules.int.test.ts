import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, owned, people, type Served, serve, standIn, until, type Visitor } from './harness.ts';

interface Mail {
  to: string;
  subject: string;
  text: string;
  headers: Record<string, string>;
}

describe('rules, from the reading to the inbox', () => {
  let served: Served;
  let world: Awaited<ReturnType<typeof standIn>>;
  let administrator: Visitor;
  const mails = async (): Promise<Mail[]> =>
    (await fetch(`${world.card.mailPage}mails.json`)).json() as Promise<Mail[]>;
  const rule = async (key: string) =>
    (await administrator.get('rules')).rules.find((one: { key: string }) => one.key === key);
  const change = async (key: string, part: object) => {
    const { document } = await rule(key);
    const answer = await administrator.ask('PUT', `rules/${key}`, { ...document, ...part });
    expect(answer.status).toBe(204);
  };
  const level = (holdsSeconds: number, bound: number | null = null) => ({ bound, holdsSeconds, readings: null });

  beforeAll(async () => {
    world = await standIn({ pace: 900 }); // a round of the leak takes 36 s
    served = await serve({ ZETOPSIS_SMTP_URL: `smtp://127.0.0.1:${world.card.smtp.port}` });
    ({ administrator } = await people(served));
    for (const team of world.card.teams)
      if (team.name !== 'Ferries') expect((await administrator.ask('POST', 'admin/teams', team)).status).toBe(204);
    await change('containerMemory', {
      levels: { warning: level(1, 0.9), critical: null },
      clears: { afterSeconds: 1 },
    });
    await change('readyPods', { levels: { warning: level(2), critical: level(2) }, clears: { afterSeconds: 1 } });
    await world.control('/mail?refusing=true');
    await administrator.ask('POST', 'connections', connectionTo(world));
  });
  afterAll(async () => {
    await served.close();
    await world.close();
  });

  it('tells the owner of the failing rollout with reason and change, once the mail server takes it, and once only', async () => {
    await until('refused once', async () =>
      (await administrator.get('rules')).deliveries.some(
        ({ error, state }: { error: string | null; state: string }) => error !== null && state === 'waiting',
      ),
    );
    await world.control('/mail?refusing=false');
    const mail = await until('the message', async () =>
      (await mails()).find(({ subject }) => subject.includes('declaration-checker')),
    );
    expect(mail.to).toBe('customs@skerrivale.test');
    expect(mail.subject).toBe('Warning: declaration-checker: 2 of 5 pods not ready');
    for (const words of [
      '2.9.l',
      '2.9.0 → 2.9.l',
      'config map declaration-checker-settings: ',
      'by harbour-delivery; then rollout of declaration-checker',
      'not found',
      'The 3 old pods still serve',
      'seaward › manifests',
      'http://zetopsis.test/usage?in=seaward/manifests/deployment:declaration-checker&from=',
    ])
      expect(mail.text).toContain(words);
    expect(mail.headers['x-zetopsis-key']).toMatch(/^alert-\d+-raised-mail-customs$/);
    const keys = (await mails()).map(({ headers }) => headers['x-zetopsis-key']);
    expect(new Set(keys).size).toBe(keys.length);
  });

  it('an open alert is as grave as what is found, also when that changes', async () => {
    const severities = async () => {
      const { alerts } = await administrator.get(`now?from=${Date.now() - 60_000}`);
      const { findings } = await administrator.get(
        `usage/object?in=seaward/manifests/deployment:declaration-checker&from=${Date.now() - 60_000}`,
      );
      const title = 'declaration-checker: 2 of 5 pods not ready';
      return [alerts.find((alert: { title: string }) => alert.title === title)?.severity, findings[0]?.severity];
    };
    const say = (places: object[]) => administrator.ask('PUT', 'criticality/seaward', { places });
    expect(await severities()).toEqual(['warning', 'warning']);
    expect((await say([{ namespace: 'manifests', is: 'critical' }])).status).toBe(200);
    await until('both are critical', async () => (await severities()).every((severity) => severity === 'critical'));
    const worse = await until('that it got worse', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Critical now: declaration-checker')),
    );
    expect(worse.headers['references']).toContain('-raised-mail-customs@zetopsis>');
    expect((await say([])).status).toBe(200);
    await until('both are warnings', async () => (await severities()).every((severity) => severity === 'warning'));
  });

  it('shows it on Now, and tells again when it is clear', async () => {
    const now = await administrator.get(`now?from=${Date.now() - 600_000}`);
    expect(now.alerts.map(({ title }: { title: string }) => title)).toContain(
      'declaration-checker: 2 of 5 pods not ready',
    );
    const codes = Object.fromEntries(
      now.failing.map(({ path, finding }: { path: string[]; finding: { code: string } }) => [
        path.at(-1),
        finding.code,
      ]),
    );
    expect(codes).toMatchObject({
      'deployment:declaration-checker': 'rolloutStuck',
      'cron-job:replan-night': 'runsFail',
    });
    await world.control('/mend-release');
    const mail = await until('the all-clear', async () =>
      (await mails()).find(({ subject }) => subject === 'Clear again: declaration-checker: 2 of 5 pods not ready'),
    );
    expect(mail.to).toBe('customs@skerrivale.test');
    const history = (await administrator.get('rules')).history.find(({ title }: { title: string }) =>
      title.startsWith('declaration-checker'),
    );
    expect(history).toMatchObject({
      endedHow: 'clear',
      told: [{ state: 'sent' }, { state: 'sent' }, { state: 'sent' }],
    });
  });

  it('tells the Tides team of the leak before the end, and when it is over', async () => {
    const raised = await until('the warning', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Warning: tide-model uses 9')),
    );
    expect(raised.to).toBe('tides@skerrivale.test');
    expect(raised.text).toMatch(/1\.\d\d GiB working set/);
    await until('clear after the restart', async () =>
      (await mails()).find(({ subject }) => subject.startsWith('Clear again: tide-model')),
    );
    const sheet = await administrator.get(
      `usage/object?in=seaward/tides/deployment:tide-model&from=${Date.now() - 60_000}`,
    );
    expect(sheet.marks.some(({ kind }: { kind: string }) => kind === 'out of memory')).toBe(true);
    expect(sheet.findings[0].reason).toMatch(/ran out of memory at its limit of 2.00 GiB/);
    expect(sheet.events.some(({ reason }: { reason: string }) => reason === 'OutOfMemory')).toBe(true);
  });

  it('says that nobody was told where a namespace has no owner', async () => {
    expect((await administrator.ask('DELETE', 'admin/teams/berthing')).status).toBe(204);
    const rules = await administrator.get('rules');
    expect(rules.unowned).toEqual(['berths', 'berths-batch']);
  });

  it('refuses a second owner, and a threshold on a rule without one', async () => {
    const twice = await administrator.ask('POST', 'admin/teams', {
      name: 'Other',
      email: 'o@skerrivale.test',
      owns: [owned('tides')],
    });
    expect(twice.body).toMatchObject({ code: 'conflict', text: 'tides belongs to Tides. Remove it there first.' });
    const { document } = await rule('readyPods');
    const odd = await administrator.ask('PUT', 'rules/readyPods', {
      ...document,
      levels: { warning: level(1, 0.5), critical: null },
    });
    expect(odd).toMatchObject({ status: 400, body: { fields: [{ path: 'levels.warning.bound' }] } });
  });

  it('sends a marked test', async () => {
    await administrator.ask('POST', 'admin/teams/yard/test', {});
    expect(
      (await until('the test', async () => (await mails()).find(({ subject }) => subject.startsWith('Test: ')))).to,
    ).toBe('yard@skerrivale.test');
  });

  it('a switched-off rule ends what it raised, told as such', async () => {
    await change('containerMemory', { levels: { warning: level(0, 0.01), critical: null } });
    await until('raised', async () => (await rule('containerMemory')).raised > 20);
    await change('containerMemory', { state: 'off' });
    expect((await rule('containerMemory')).raised).toBe(0);
    const ended = (await administrator.get('rules')).history.filter(
      ({ endedHow }: { endedHow: string }) => endedHow === 'rule changed',
    );
    expect(ended.length).toBeGreaterThan(20);
  });
});
