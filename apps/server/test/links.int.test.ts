import type {
  LinkAnswer,
  MapAnswer,
  MeasureAnswer,
  NowAnswer,
  OperationsAnswer,
  RulesAnswer,
} from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connectionTo, newDatabase, people, type Served, serve, standIn, until, Visitor } from './harness.ts';

const MINUTE = 60_000;
interface ToldSpan {
  readonly traceId: string;
  readonly spanId: string;
  readonly parentId: string;
  readonly kind: number;
  readonly at: number;
  readonly took: number;
  readonly failed: string | null;
  readonly app: string;
  readonly attributes: Record<string, string>;
}
let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let administrator: Visitor;
let developer: Visitor;
let nobody: Visitor;
/** Since when the world is changed. */
let begun = 0;

beforeAll(async () => {
  world = await standIn({ clusters: ['seaward'] });
  served = await serve({}, await newDatabase());
  ({ administrator, developer, nobody } = await people(served));
  expect((await administrator.ask('POST', 'connections', connectionTo(world, 15))).status).toBe(201);
  await until('the inventory', async () => (await administrator.get('find?q=booking-front')).found.length > 0);
  const { body } = await administrator.ask('PUT', 'push-keys/harbour', { cluster: 'seaward' });
  const query = new URLSearchParams({ cluster: 'seaward', address: `${served.base}/api/push`, token: body.made.token });
  await world.control(`/tell?${query}`);
});
afterAll(async () => {
  await world?.control('/tell?cluster=seaward&address=').catch(() => undefined);
  await served?.close();
  await world?.close();
});

const map = (who: Visitor = administrator, to?: number): Promise<MapAnswer> =>
  who.get(`map?from=${(to ?? Date.now()) - 3 * 3_600_000}${to === undefined ? '' : `&to=${to}`}`);
const appOf = (key: string): string => key.split(/[:/]/).at(-1) ?? key;
/** As the ledger has it: each call of a minute, by who called whom; as it would be told now, or as it was told lately. */
async function ledger(
  from: number,
  to: number,
  told = '',
): Promise<Map<string, { requests: number; failures: number; took: number[] }>> {
  const { spans } = (await world.look(`/calls?cluster=seaward&from=${from - 10 * MINUTE}&to=${to}${told}`)) as {
    spans: ToldSpan[];
  };
  const counts = new Map<string, { requests: number; failures: number; took: number[] }>();
  for (const span of spans) {
    const ended = span.at + span.took;
    const peer = span.attributes['server.address'];
    if (span.kind !== 3 || peer === undefined || ended < from || ended >= to) continue;
    const key = `${span.app} → ${peer}`;
    const own = counts.get(key) ?? { requests: 0, failures: 0, took: [] };
    counts.set(key, own);
    own.requests++;
    own.took.push(span.took / 1000);
    if (span.failed !== null) own.failures++;
  }
  return counts;
}
async function told(metric: string, at: number, over: number): Promise<Map<string, number>> {
  const { body } = await administrator.ask('POST', 'measures/evaluate', {
    text: `read ${metric}_total\n  where seen_by is "caller" and protocol is not "queue"\n  growth over ${over}m\n  total for each from_workload, to_workload\n`,
    in: [],
    at,
  });
  const { series } = body as MeasureAnswer;
  return new Map(
    series.map(({ labels, points }) => [
      `${appOf(labels['from_workload'] ?? '')} → ${appOf(labels['to_workload'] ?? '')}`,
      points.at(-1)?.[1] ?? 0,
    ]),
  );
}

async function equalsTheLedger(truth: Awaited<ReturnType<typeof ledger>>, at: number, minutes: number): Promise<void> {
  for (const what of ['requests', 'failures'] as const) {
    // but for those that a test made up itself
    const measured = [...(await told(`link_${what}`, at, minutes))].filter(
      ([pair, value]) => value > 0 && !pair.startsWith('asks-'),
    );
    const counted = [...truth].flatMap(([key, own]) => (own[what] > 0 ? [[key, own[what]] as const] : []));
    expect(new Map(measured.sort()), what).toEqual(new Map(counted.sort()));
  }
}

describe('links between workloads', () => {
  it('are those of the ledger, request by request, at a moment of the past', async () => {
    await until(
      'the last hour is told',
      async () => {
        const { at, links } = await map();
        return links.length > 10 && at > Date.now() - 3 * MINUTE;
      },
      240_000,
    );
    const at = Math.floor(Date.now() / MINUTE) * MINUTE - 6 * MINUTE;
    await equalsTheLedger(await ledger(at - 20 * MINUTE, at, '&told=1'), at, 20);
    // what 95 of 100 stayed below: bounds are 9 % apart
    const then = new Map(
      (await map(administrator, at)).links.map((link) => [`${appOf(link.from)} → ${appOf(link.to)}`, link]),
    );
    const often = [...(await ledger(at - 5 * MINUTE, at, '&told=1'))].filter(([, { requests }]) => requests >= 20);
    expect(often.length).toBeGreaterThan(5);
    for (const [pair, { took }] of often) {
      const truth = took.sort((a, b) => a - b)[Math.ceil(0.95 * took.length) - 1]!; // there are some
      const ratio = (then.get(pair)?.callerP95 ?? 0) / truth;
      expect(Math.abs(Math.log2(ratio)), `${pair}: ${truth} s, ${ratio}`).toBeLessThan(0.126);
    }
  });
  it('in trouble are those of the story, each in its state, with its likely side', async () => {
    const answer = await until(
      'the story',
      async () => {
        const own = await map();
        return own.trouble.length >= 4 ? own : null;
      },
      240_000,
    );
    const links = new Map(answer.links.map((link) => [link.key, link]));
    const entries = answer.trouble.map(({ link, side }) => {
      const { from, to, state } = links.get(link)!; // each is told
      return `${appOf(from)} → ${appOf(to)}: ${state}, ${side}`;
    });
    for (const expected of [
      'vessel-tracker → queue: silent, caller',
      'document-store → archive: refused, between',
      'radio-notes → pilot-roster: failing, answerer',
      'outside → gauge-reader: flooded, caller',
    ])
      expect(entries, JSON.stringify(answer.trouble)).toContain(expected);
    const flood = answer.trouble.find(({ link }) => /→ .*gauge-reader$/.test(link));
    expect(flood?.inside.map((key) => key.split(' → ').map(appOf).join(' → '))).toEqual(['gauge-reader → tide-model']);
    const slow = answer.trouble.find(({ link }) => /slot-allocator → .*ledger-base/.test(link));
    expect(slow?.inside.map((key) => key.split(' → ').map(appOf).join(' → '))).toEqual(
      expect.arrayContaining(['berth-planner → slot-allocator', 'quay-board → berth-planner']),
    );
  });
  it('are looked into by whole traces: operations, failures and what people asked for, as the ledger has them', async () => {
    // what is not complete yet is kept too: only what is long over is compared
    const to = Math.floor(Date.now() / MINUTE) * MINUTE - 3 * MINUTE;
    const from = to - 8 * MINUTE;
    const link = 'caller=seaward/pilotage/deployment:radio-notes&answerer=seaward/pilotage/deployment:pilot-roster';
    const own = (await administrator.get(`map/link?${link}&from=${from}&to=${to}`)) as LinkAnswer;
    // as they were told: pods come and go, and the world does not tell the past anew
    const { spans } = (await world.look(
      `/calls?cluster=seaward&from=${from - 5 * MINUTE}&to=${to + 5 * MINUTE}&told=1`,
    )) as { spans: ToldSpan[] };
    const begins = new Map(spans.flatMap((span) => (span.parentId === '' ? [[span.traceId, span]] : [])));
    const within = spans.filter(({ traceId }) => {
      const first = begins.get(traceId);
      return first !== undefined && first.at >= from && first.at < to;
    });
    const calls = within.filter(
      (span) => span.kind === 3 && span.app === 'radio-notes' && span.attributes['server.address'] === 'pilot-roster',
    );
    expect(calls.length).toBeGreaterThan(5);
    expect(own.from).toBe(from);
    expect(own.requests).toBe(calls.length);
    const failed = own.operations.reduce((sum, { requests, failedShare }) => sum + requests * failedShare, 0);
    expect(failed).toBeCloseTo(calls.filter((span) => span.failed !== null).length, 6);
    expect(own.ways.reduce((sum, { requests }) => sum + requests, 0)).toBe(calls.length);
    for (const way of own.ways) expect(`${way.from} ${way.to}`).toMatch(/^radio-notes-\S+ (pilot-roster-\S+)?$/);
    // kept to the microsecond
    expect(own.slowest[0]?.seconds).toBeCloseTo(Math.max(...calls.map(({ took }) => took)) / 1000, 5);
    const people = [...begins.values()].filter(({ kind, at }) => kind === 2 && at >= from && at < to);
    const passed = new Set(calls.map(({ traceId }) => traceId));
    expect(own.people).toBeCloseTo(people.filter(({ traceId }) => passed.has(traceId)).length / people.length, 6);
    expect((await developer.ask('GET', `map/link?${link}&from=${from}`)).status).toBe(404);
    expect((await administrator.ask('GET', `map/link?caller=x&from=${from}`)).status).toBe(400);
  });
  it('are asked about at a past moment, when nothing was the matter yet', async () => {
    const then = await map(administrator, Date.now() - 40 * MINUTE);
    expect(then.at).toBeLessThanOrEqual(Date.now() - 40 * MINUTE);
    expect(then.links.length).toBeGreaterThan(5);
    expect(then.trouble.map(({ link }) => link).filter((key) => /vessel-tracker/.test(key))).toEqual([]);
  });
  it('name nothing of others, and sum what is not yours', async () => {
    const own = await map(developer);
    const text = JSON.stringify(own);
    expect(own.links.length).toBeGreaterThan(0);
    for (const hidden of ['manifest', 'tide', 'archive', 'pilot', 'vessel', 'quay-board', 'ledger-base'])
      expect(text.includes(hidden), hidden).toBe(false);
    const all = await map();
    const key = (name: string) => all.boxes.find((box) => box.name === name)!.key; // they are there
    const outside = all.links.filter(({ from, to }) => to === key('booking-front') && !/ticketing|boarding/.test(from));
    const summed = own.links.find(({ from, to }) => to === key('booking-front') && /not yours/.test(from));
    if (own.at === all.at)
      expect(summed?.sent).toBeCloseTo(
        outside.reduce((sum, { sent }) => sum + (sent ?? 0), 0),
        6,
      );
    expect((await map(nobody)).links).toEqual([]);
  });
  it('are measured by who may see both ends', async () => {
    const { body } = await developer.ask('POST', 'measures/evaluate', {
      text: 'read link_requests_total\n  total for each from_workload, to_workload\n',
      in: [],
      at: Date.now() - 3 * MINUTE,
    });
    const pairs = (body as MeasureAnswer).series.map(({ labels }) =>
      [labels['from_workload'], labels['to_workload']].map((one) => appOf(one ?? '')).join(' → '),
    );
    expect(pairs).toContain('booking-front → seat-ledger');
    expect(JSON.stringify(body)).not.toMatch(/manifest|tide|archive|pilot|vessel|quay-board|ledger-base|ingress/);
    const { body: none } = await nobody.ask('POST', 'measures/evaluate', {
      text: 'read link_requests_total\n',
      in: [],
      at: Date.now(),
    });
    expect((none as MeasureAnswer).series ?? []).toEqual([]);
  });
  it('in trouble are found at their workload: on Now, in its sheet and by a rule, without names of others', async () => {
    const found = await until('Now tells of them', async () => {
      const { failing } = (await administrator.get(`now?in=&from=${Date.now() - 60 * MINUTE}`)) as NowAnswer;
      const own = failing.filter(({ finding }) => finding.code.startsWith('link'));
      return own.length >= 3 ? own : null;
    });
    const store = found.find(({ path }) => path.at(-1) === 'deployment:pilot-roster');
    expect(store?.finding).toMatchObject({
      code: 'linkFailing',
      reason: expect.stringContaining('radio-notes asks of it fails'),
    });
    const level = { holdsSeconds: 0 };
    const { status } = await administrator.ask('POST', 'rules', {
      name: 'links in trouble',
      when: { is: 'finding', codes: ['linkFailing', 'linkRefused', 'linkSilent'] },
      levels: { warning: level, critical: level },
    });
    expect(status).toBe(201);
    const raised = await until('they are raised', async () => {
      const { history } = (await administrator.get('rules')) as RulesAnswer;
      const own = history.filter(({ rule }) => rule === 'links in trouble');
      return own.length >= 2 ? own : null;
    });
    expect(JSON.stringify(raised)).toContain('a workload of others');
  });
  it('are made of operations, whose requests, failures and lengths a sheet tells by operation, version and pod', async () => {
    const { body } = await administrator.ask('POST', 'measures/evaluate', {
      text: 'read vital container.memory.working_set\n  where k8s_namespace_name is "ticketing"\n  add labels workload\n  where workload is "fare-tables"\n',
      in: [],
      at: Date.now(),
    });
    const pod = (body as MeasureAnswer).series[0]!.labels['k8s_pod_name']!;
    const { body: key } = await administrator.ask('PUT', 'push-keys/asked', { cluster: 'seaward' });
    const text = (name: string, value: string) => ({ key: name, value: { stringValue: value } });
    const from = Date.now() - 1000;
    const spans = (name: string, count: number, took: number, failed = 0, cold = 0) =>
      Array.from({ length: count }, (_, i) => ({
        traceId: `${took}${i}`.padStart(32, name.charCodeAt(0).toString(16)),
        spanId: `${took}${i}`.padStart(16, name.charCodeAt(0).toString(16)),
        name,
        kind: 2,
        startTimeUnixNano: `${from - took}000000`,
        endTimeUnixNano: `${from}000000`,
        ...(i < failed ? { status: { code: 2 } } : {}),
        attributes: i < cold ? [{ key: 'faas.coldstart', value: { boolValue: true } }] : [],
      }));
    const { status } = await new Visitor(served.base, null, key.made.token).ask('POST', 'push/v1/traces', {
      resourceSpans: [
        {
          resource: {
            attributes: [
              text('k8s.namespace.name', 'ticketing'),
              text('k8s.pod.name', pod),
              text('service.name', 'fares'),
            ],
          },
          scopeSpans: [{ spans: [...spans('look up a fare', 40, 20, 4), ...spans('print', 10, 800, 0, 2)] }],
        },
      ],
    });
    expect(status).toBe(200);
    const path = 'in=seaward/ticketing/deployment:fare-tables';
    const told = await until('they are counted', async () => {
      const own = (await administrator.get(
        `usage/operations?${path}&from=${from - 60_000}&target=0.1`,
      )) as OperationsAnswer;
      return own.operations.some(({ operation }) => operation === 'print') ? own : null;
    });
    const by = new Map(told.operations.map((one) => [one.operation, one]));
    expect(by.get('look up a fare')).toMatchObject({ requests: 40, failedShare: 0.1, cold: 0, satisfaction: 1 });
    expect(by.get('print')).toMatchObject({ requests: 10, failedShare: 0, cold: 2, satisfaction: 0 });
    expect(by.get('print')!.nearlyAll).toBeGreaterThan(0.75);
    expect(told.pods.find((one) => one.pod === pod)?.requests).toBeGreaterThanOrEqual(50);
    // the same behind its service; nothing of it for who may not see it
    const behind = (await administrator.get(
      `usage/operations?in=seaward/ticketing/service:fare-tables&from=${from - 60_000}`,
    )) as OperationsAnswer;
    expect(behind.operations.map(({ operation }) => operation)).toContain('print');
    expect((await nobody.ask('GET', `usage/operations?${path}&from=${from}`)).status).toBe(404);
    expect((await administrator.ask('GET', `usage/operations?${path}&from=${from}&target=0`)).status).toBe(400);
  });
  it('are told however many there are', async () => {
    // what the last test looks at goes on meanwhile
    begun = Math.floor(Date.now() / MINUTE) * MINUTE;
    await world.control('/scale?cluster=seaward&namespace=ticketing&name=seat-ledger&replicas=5');
    await world.control('/mend-release?cluster=seaward&namespace=manifests&name=declaration-checker');
    await world.control('/lose-node?cluster=seaward&node=seaward-03');
    const { body: key } = await administrator.ask('PUT', 'push-keys/many', {});
    const hex = (n: number, length: number) => n.toString(16).padStart(length, '0');
    const at = Date.now();
    const PAIRS = 260;
    const span = (i: number, kind: number) => ({
      traceId: hex(i + 1, 32),
      spanId: hex(2 * i + kind, 16),
      ...(kind === 2 ? { parentSpanId: hex(2 * i + 3, 16) } : {}),
      name: 'ask',
      // the first sender sends one in ten
      ...(i === 0 && { traceState: 'ot=th:e6666666666666' }),
      kind,
      startTimeUnixNano: `${at - 20}000000`,
      endTimeUnixNano: `${at}000000`,
    });
    const resource = (name: string) => ({ attributes: [{ key: 'service.name', value: { stringValue: name } }] });
    const sender = new Visitor(served.base, null, key.made.token);
    const all = Array.from({ length: PAIRS }, (_, i) => [
      { resource: resource(`asks-${i}`), scopeSpans: [{ spans: [span(i, 3)] }] },
      { resource: resource(`answers-${i}`), scopeSpans: [{ spans: [span(i, 2)] }] },
    ]);
    for (let i = 0; i < PAIRS; i += 130) {
      const resourceSpans = all.slice(i, i + 130).flat();
      const { status, body } = await sender.ask('POST', 'push/v1/traces', { resourceSpans });
      expect([status, body]).toEqual([200, {}]);
    }
    const told = await until('they are told', async () => {
      const { links } = await map();
      const own = links.filter(({ from }) => from.includes('service:asks-'));
      return own.length === PAIRS ? own : null;
    });
    const [scaled, ...whole] = told.sort((a, b) => (b.sent ?? 0) - (a.sent ?? 0));
    expect((scaled!.sent ?? 0) / (whole[0]!.sent ?? 1)).toBeCloseTo(10, 3);
    expect([scaled!.seenShare, whole[0]!.seenShare]).toEqual([expect.closeTo(0.1, 5), 1]);
    expect(told.every(({ callerP95, answererP95 }) => callerP95 !== null && answererP95 !== null)).toBe(true);
  });
  it('are those of the ledger across a release, more pods, and a lost node', async () => {
    const { at } = await until('two minutes after it are told', async () => {
      const own = await map();
      return own.at >= begun + 3 * MINUTE ? own : null;
    });
    const truth = await ledger(begun, at, '&told=1');
    expect(truth.get('booking-front → seat-ledger')?.requests).toBeGreaterThan(20);
    await equalsTheLedger(truth, at, (at - begun) / MINUTE);
  });
});
