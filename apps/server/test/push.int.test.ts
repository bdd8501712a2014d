import { OTLPMetricExporter as JsonExporter } from '@opentelemetry/exporter-metrics-otlp-http';
import { OTLPMetricExporter as BinaryExporter } from '@opentelemetry/exporter-metrics-otlp-proto';
import { resourceFromAttributes } from '@opentelemetry/resources';
import {
  AggregationTemporality,
  AggregationType,
  MeterProvider,
  PeriodicExportingMetricReader,
  type PushMetricExporter,
} from '@opentelemetry/sdk-metrics';
import type { EndpointAnswer } from '@zetopsis/contract';
import pg from 'pg';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import { newDatabase, people, type Served, serve, temporaryFolder, until, type Visitor } from './harness.ts';

let served: Served;
let administrator: Visitor;
let developer: Visitor;
let databaseUrl: string;
const dataDir = temporaryFolder();
const start = () => serve({ ZETOPSIS_DATA_DIR: dataDir }, databaseUrl);

beforeAll(async () => {
  databaseUrl = await newDatabase();
  served = await start();
  ({ administrator, developer } = await people(served));
});
afterAll(async () => {
  await served.close();
});

async function makeKey(key: string, document = {}): Promise<string> {
  const { status, body } = await administrator.ask('PUT', `push-keys/${key}`, document);
  expect(status).toBe(200);
  return body.made.token as string;
}
const pushed = async (): Promise<EndpointAnswer[]> =>
  (await administrator.get('sources')).endpoints.filter(({ kind }: EndpointAnswer) => kind === 'pushed');

/** A program with an independent, public SDK of the protocol. */
function program(
  exporter: typeof JsonExporter | typeof BinaryExporter,
  token: string,
  name: string,
  temporality: AggregationTemporality,
) {
  const reader = new PeriodicExportingMetricReader({
    // the two exporters are typed by two copies of the same interface
    exporter: new exporter({
      url: `${served.base}/api/push/v1/metrics`,
      headers: { authorization: `Bearer ${token}` },
      temporalityPreference: temporality,
    } as never) as unknown as PushMetricExporter,
    exportIntervalMillis: 3_600_000,
    exportTimeoutMillis: 20_000,
  });
  const provider = new MeterProvider({
    resource: resourceFromAttributes({ 'service.name': name, 'service.instance.id': 'a', 'process.pid': 12 }),
    readers: [reader],
    views: [
      {
        instrumentName: 'lift.height',
        aggregation: { type: AggregationType.EXPONENTIAL_HISTOGRAM, options: { maxSize: 160 } },
      },
    ],
  });
  const meter = provider.getMeter('crane');
  return {
    provider,
    lifts: meter.createCounter('crane.lifts', { unit: '{lift}' }),
    height: meter.createHistogram('lift.height', { unit: 'm' }),
    wait: meter.createHistogram('lift.wait', { unit: 's', advice: { explicitBucketBoundaries: [1, 5] } }),
    load: meter.createGauge('crane.load', { unit: 'kg' }),
  };
}
/** Newest value of each series of a metric, by its labels. */
async function newest(metric: string): Promise<Record<string, number>> {
  const samples = served.app.get(SamplesService, { strict: false });
  const ids = samples.select(metric, []);
  const now = Date.now();
  const read = await samples.read({ ids, from: now - 600_000, to: now + 1000, resolution: 'samples' });
  return Object.fromEntries(
    ids.map((id) => [
      ['side', 'le']
        .map((label) => samples.label(id, label))
        .filter((text) => text !== '')
        .join(' '),
      read.get(id)?.values.at(-1) ?? Number.NaN,
    ]),
  );
}

describe('pushing', () => {
  it.each([
    ['binary', BinaryExporter, AggregationTemporality.CUMULATIVE],
    ['JSON', JsonExporter, AggregationTemporality.DELTA],
  ] as const)('takes what a program sends as %s', async (form, exporter, temporality) => {
    const token = await makeKey(`cranes-${form.toLowerCase()}`, { labels: { quay: form } });
    const own = program(exporter, token, `crane-${form}`, temporality);
    own.lifts.add(3, { side: form });
    own.height.record(1.5);
    own.height.record(6);
    own.wait.record(2);
    own.load.record(1250);
    await own.provider.forceFlush();
    own.lifts.add(4, { side: form });
    own.height.record(7.5);
    await own.provider.forceFlush();

    expect((await newest('crane_lifts_total'))[form]).toBe(7);
    const samples = served.app.get(SamplesService, { strict: false });
    const [id] = samples.select('crane_lifts_total', [{ label: 'side', is: form }]);
    expect(samples.label(id!, 'service_name')).toBe(`crane-${form}`);
    expect(samples.label(id!, 'quay')).toBe(form);
    // what does not identify the sender is no label
    expect(samples.label(id!, 'process_pid')).toBe('');
    const heights = samples.select('lift_height_meters_bucket', [{ label: 'quay', is: form }]);
    const read = await samples.read({
      ids: heights,
      from: Date.now() - 60_000,
      to: Date.now() + 1000,
      resolution: 'samples',
    });
    const at = (bound: number) =>
      heights
        .filter((one) => Number(samples.label(one, 'le').replace('+Inf', 'Infinity')) >= bound)
        .map((one) => [Number(samples.label(one, 'le').replace('+Inf', 'Infinity')), read.get(one)!.values.at(-1)!])
        .sort(([a], [b]) => a! - b!)[0]![1];
    expect([at(2), at(6.3), at(Number.POSITIVE_INFINITY)]).toEqual([1, 2, 3]);
    const [endpoint] = (await pushed()).filter(({ name }) => name === `cranes-${form.toLowerCase()}: crane-${form} a`);
    expect(endpoint).toMatchObject({ state: 'read', connection: null, problems: 0 });
    await own.provider.shutdown();
  });

  it('counts on after a restart, and a push that is sent twice once', async () => {
    const token = await makeKey('counted');
    const body = (value: number, second: number) => ({
      resourceMetrics: [
        {
          resource: { attributes: [{ key: 'service.name', value: { stringValue: 'gate' } }] },
          scopeMetrics: [
            {
              metrics: [
                {
                  name: 'gate.opened',
                  sum: {
                    aggregationTemporality: 1,
                    isMonotonic: true,
                    dataPoints: [
                      { asInt: String(value), timeUnixNano: `${Math.floor(began / 1000) + second}000000000` },
                    ],
                  },
                },
              ],
            },
          ],
        },
      ],
    });
    const began = Date.now() - 60_000;
    const send = (value: number, second: number) =>
      fetch(`${served.base}/api/push/v1/metrics`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', authorization: `Bearer ${token}` },
        body: JSON.stringify(body(value, second)),
      });
    expect((await send(5, 1)).status).toBe(200);
    expect((await send(5, 1)).status).toBe(200);
    expect(Object.values(await newest('gate_opened_total'))).toEqual([5]);
    await served.close();
    served = await start();
    ({ administrator, developer } = await people(served));
    expect((await send(2, 9)).status).toBe(200);
    expect(Object.values(await newest('gate_opened_total'))).toEqual([7]);
  });

  it('takes a page as text, and says which lines were not understood', async () => {
    const token = await makeKey('scripts', { labels: { place: 'quay' }, drop: [{ metric: 'noise' }] });
    const send = (text: string, type = 'text/plain') =>
      fetch(`${served.base}/api/push/page/night-copy`, {
        method: 'POST',
        headers: { 'content-type': type, authorization: `Bearer ${token}` },
        body: text,
      });
    const answer = await send('copied_files 12\nnoise 1\nnot a line {\n');
    expect(answer.status).toBe(200);
    expect(await answer.json()).toEqual({ samples: 2, problems: 1 });
    expect(Object.values(await newest('copied_files'))).toEqual([12]);
    expect(await newest('noise')).toEqual({});
    const refused = await send('nothing here\n???\n');
    expect(refused.status).toBe(400);
    expect(((await refused.json()) as { text: string }).text).toMatch(/Nothing of it could be understood/);
    expect((await send('{}', 'application/json')).status).toBe(400);
    const [endpoint] = (await pushed()).filter(({ name }) => name === 'scripts: night-copy');
    expect(endpoint?.lastError).toMatch(/could be understood/);
  });

  it('refuses a key that is unknown, switched off, removed or replaced, and never shows one again', async () => {
    const token = await makeKey('gone');
    const send = (own: string) =>
      fetch(`${served.base}/api/push/page/x`, {
        method: 'POST',
        headers: { 'content-type': 'text/plain', authorization: `Bearer ${own}` },
        body: 'a 1\n',
      }).then(({ status }) => status);
    expect(await send('zetpush_guess')).toBe(401);
    expect(await send(token)).toBe(200);
    await administrator.ask('PUT', 'push-keys/gone', { use: 'off' });
    expect(await send(token)).toBe(403);
    await administrator.ask('PUT', 'push-keys/gone', { use: 'on' });
    const { body } = await administrator.ask('POST', 'push-keys/gone/token');
    // both are valid, so that senders change over one by one, until the one before is ended
    expect([await send(token), await send(body.token)]).toEqual([200, 200]);
    const { keys } = await administrator.get('push-keys');
    expect(keys.find(({ key }: { key: string }) => key === 'gone').before).toMatchObject({
      usedAt: expect.any(Number),
    });
    expect((await administrator.ask('DELETE', 'push-keys/gone/token-before')).status).toBe(204);
    expect([await send(token), await send(body.token)]).toEqual([401, 200]);
    expect(JSON.stringify(await administrator.get('push-keys'))).not.toContain(body.token);
    expect(JSON.stringify(await administrator.get('admin/configuration'))).not.toContain(body.token);
    const client = new pg.Client(databaseUrl);
    await client.connect();
    const { rows } = await client.query(
      `select json_agg(d)::text as text from document d union all select json_agg(k)::text from push_key k
       union all select json_agg(a)::text from audit a`,
    );
    await client.end();
    expect(rows.every(({ text }) => text.length > 10 && !text.includes(body.token))).toBe(true);
    expect((await administrator.ask('DELETE', 'push-keys/gone')).status).toBe(204);
    expect(await send(body.token)).toBe(401);
    // its history is kept, and what pushed is retired
    expect((await pushed()).find(({ name }) => name === 'gone: x')?.state).toBe('retired');
  });

  it('says that a sender is late when nothing comes', async () => {
    const token = await makeKey('silent', { intervalSeconds: 1 });
    await fetch(`${served.base}/api/push/page/bell`, {
      method: 'POST',
      headers: { 'content-type': 'text/plain', authorization: `Bearer ${token}` },
      body: 'a 1\n',
    });
    await until(
      'it is late',
      async () => (await pushed()).find(({ name }) => name === 'silent: bell')?.state === 'late',
    );
    const { keys } = await administrator.get('push-keys');
    expect(keys.find(({ key }: { key: string }) => key === 'silent')).toMatchObject({ senders: 1, late: 1, pushes: 1 });
  });

  it('is for administrators to configure, and refuses what no cluster or team is', async () => {
    expect((await developer.ask('PUT', 'push-keys/mine', {})).status).toBe(403);
    const { status, body } = await administrator.ask('PUT', 'push-keys/lost', { cluster: 'nowhere' });
    expect([status, body.text]).toEqual([409, 'There is no cluster called nowhere.']);
    expect((await administrator.ask('PUT', 'push-keys/lost', { namespace: 'tides' })).status).toBe(400);
  });
});
