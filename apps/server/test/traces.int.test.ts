import { createHash } from 'node:crypto';
import { Metadata } from '@grpc/grpc-js';
import { SpanKind, SpanStatusCode } from '@opentelemetry/api';
import { OTLPMetricExporter as GrpcMetrics } from '@opentelemetry/exporter-metrics-otlp-grpc';
import { OTLPMetricExporter as BinaryMetrics } from '@opentelemetry/exporter-metrics-otlp-proto';
import { OTLPTraceExporter as GrpcExporter } from '@opentelemetry/exporter-trace-otlp-grpc';
import { OTLPTraceExporter as JsonExporter } from '@opentelemetry/exporter-trace-otlp-http';
import { OTLPTraceExporter as BinaryExporter } from '@opentelemetry/exporter-trace-otlp-proto';
import { resourceFromAttributes } from '@opentelemetry/resources';
import {
  AggregationTemporality,
  MeterProvider,
  PeriodicExportingMetricReader,
  type PushMetricExporter,
} from '@opentelemetry/sdk-metrics';
import { BasicTracerProvider, BatchSpanProcessor, type SpanExporter } from '@opentelemetry/sdk-trace-base';
import type { PushKeyAnswer, TraceAnswer, TracesAnswer } from '@zetopsis/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { PushGrpc } from '../src/inflow/push/pushGrpc.service.ts';
import { SpanRequests } from '../src/inflow/push/spanRequests.service.ts';
import { TraceStore } from '../src/keeping/records/trace.store.ts';
import { TracesService } from '../src/keeping/records/traces.service.ts';
import { SamplesService } from '../src/keeping/store/samples.service.ts';
import {
  connectionTo,
  newDatabase,
  people,
  type Served,
  serve,
  standIn,
  temporaryFolder,
  until,
  type Visitor,
} from './harness.ts';

const HOUR = 3_600_000;
let world: Awaited<ReturnType<typeof standIn>>;
let served: Served;
let administrator: Visitor;
let developer: Visitor;
let databaseUrl: string;
const tokens: Record<string, string> = {};
const dataDir = temporaryFolder();
async function start(): Promise<void> {
  served = await serve({ ZETOPSIS_DATA_DIR: dataDir, ZETOPSIS_GRPC_PORT: '0' }, databaseUrl);
  ({ administrator, developer } = await people(served));
}
interface Pod {
  readonly uid: string;
  readonly namespace: string;
  readonly name: string;
  readonly app: string;
}
const pods = new Map<string, Pod>();

beforeAll(async () => {
  databaseUrl = await newDatabase();
  world = await standIn({ clusters: ['seaward'] });
  await start();
  expect((await administrator.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
  await until('the inventory', async () => (await administrator.get(`find?q=booking-front`)).found.length > 0);
  const objects = (await world.look(`/ledger?cluster=seaward&at=${Date.now()}`)) as {
    kind: string;
    object: { metadata: { uid: string; namespace: string; name: string; labels?: Record<string, string> } };
  }[];
  for (const { kind, object } of objects) {
    const app = object.metadata.labels?.['app'];
    if (kind === 'pods' && app && !pods.has(app)) pods.set(app, { ...object.metadata, app });
  }
  for (const [key, document] of Object.entries({
    seaward: { cluster: 'seaward' },
    sampled: { cluster: 'seaward', sampling: { oneIn: 10, slowSeconds: 2 } },
  })) {
    const { status, body } = await administrator.ask('PUT', `push-keys/${key}`, document);
    expect(status).toBe(200);
    tokens[key] = body.made.token;
  }
});
afterAll(async () => {
  await served?.close();
  await world?.close();
});

const resource = ({ uid, namespace, name, app }: Pod) => ({
  'k8s.pod.uid': uid,
  'k8s.pod.name': name,
  'k8s.namespace.name': namespace,
  'service.name': app,
});
const attributes = (of: Record<string, string>) =>
  Object.entries(of).map(([key, stringValue]) => ({ key, value: { stringValue } }));
interface Told {
  readonly trace: string;
  readonly span: string;
  readonly parent?: string;
  readonly name?: string;
  readonly kind?: number;
  readonly at: number;
  readonly took?: number;
  readonly failed?: string;
  readonly more?: Record<string, string>;
}
const hex = (text: string, length: number) => createHash('sha256').update(text).digest('hex').slice(0, length);
const request = (of: readonly (readonly [Pod, readonly Told[]])[]) => ({
  resourceSpans: of.map(([pod, spans]) => ({
    resource: { attributes: attributes(resource(pod)) },
    scopeSpans: [
      {
        spans: spans.map(
          ({ trace, span, parent, name = 'GET /seats', kind = 2, at, took = 20, failed, more = {} }) => ({
            traceId: hex(trace, 32),
            spanId: hex(span, 16),
            ...(parent && { parentSpanId: hex(parent, 16) }),
            name,
            kind,
            startTimeUnixNano: `${at}000000`,
            endTimeUnixNano: `${at + took}000000`,
            attributes: attributes(more),
            ...(failed && { status: { code: 2, message: failed } }),
          }),
        ),
      },
    ],
  })),
});
async function push(key: string, body: unknown): Promise<void> {
  const response = await fetch(`${served.base}/api/push/v1/traces`, {
    method: 'POST',
    headers: { authorization: `Bearer ${tokens[key]}`, 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  expect([response.status, await response.text()]).toEqual([200, '{}']);
}
const window = () => `from=${Date.now() - HOUR}`;
const tracesOf = (path: string, visitor = administrator): Promise<TracesAnswer> =>
  visitor.get(`records/traces?in=${path}&${window()}`);
const trace = (name: string, visitor = administrator): Promise<TraceAnswer> =>
  visitor.get(`records/traces/${hex(name, 32)}?${window()}`);
const settle = () => served.app.get(TracesService, { strict: false }).settle(true);
const workload = ({ namespace, app }: Pod) => `seaward/${namespace}/deployment:${app}`;

describe('spans that are pushed', () => {
  it('by a public SDK of the protocol, in all its forms, stand at their workload', async () => {
    const pod = pods.get('fare-tables')!;
    const authorization = `Bearer ${tokens['seaward']}`;
    const metadata = new Metadata();
    metadata.set('authorization', authorization);
    const url = `${served.base}/api/push/v1/traces`;
    const { port } = served.app.get(PushGrpc, { strict: false });
    const exporters: Record<string, SpanExporter> = {
      json: new JsonExporter({ url, headers: { authorization } }),
      binary: new BinaryExporter({ url, headers: { authorization } }),
      grpc: new GrpcExporter({ url: `http://127.0.0.1:${port}`, metadata: metadata as never }),
    };
    for (const [form, exporter] of Object.entries(exporters)) {
      const provider = new BasicTracerProvider({
        resource: resourceFromAttributes(resource(pod)),
        spanProcessors: [new BatchSpanProcessor(exporter)],
      });
      const span = provider.getTracer('quay').startSpan(`by ${form}`, { kind: SpanKind.SERVER });
      span.addEvent('looked up', { rows: 3 });
      span.setStatus({ code: SpanStatusCode.ERROR, message: 'no fares' });
      span.end();
      await provider.forceFlush();
      await provider.shutdown();
    }
    const { failed, traces, failures } = await tracesOf(workload(pod));
    expect(failed.map(({ operation }) => operation).sort()).toEqual(['by binary', 'by grpc', 'by json']);
    expect([traces, failures]).toEqual([3, 3]);
    expect(failed[0]).toMatchObject({ pod: pod.name, failed: true, weight: 1 });
    await settle();
    expect((await tracesOf(workload(pod))).failed).toEqual(failed);
    const metrics = (form: string) =>
      form === 'grpc'
        ? new GrpcMetrics({ url: `http://127.0.0.1:${port}`, metadata: metadata as never })
        : new BinaryMetrics({ url: `${served.base}/api/push/v1/metrics`, headers: { authorization } });
    for (const form of ['grpc', 'binary']) {
      const provider = new MeterProvider({
        resource: resourceFromAttributes({ 'service.name': `berth-${form}` }),
        readers: [
          new PeriodicExportingMetricReader({
            exporter: metrics(form) as unknown as PushMetricExporter,
            exportIntervalMillis: HOUR,
            exportTimeoutMillis: 20_000,
          }),
        ],
      });
      provider.getMeter('berth').createCounter('berth.moorings').add(7);
      await provider.forceFlush();
      await provider.shutdown();
    }
    expect(AggregationTemporality.CUMULATIVE).toBe(1);
    const samples = served.app.get(SamplesService, { strict: false });
    await until('both counters', () => samples.select('berth_moorings_total', []).length === 2);
  });

  const at = Date.now() - 30_000;
  const [front, ledger, mailer] = ['booking-front', 'seat-ledger', 'receipt-mailer'];
  const journey = (name: string, more: Partial<Told> = {}) =>
    request([
      [
        pods.get(front!)!,
        [
          { trace: name, span: 'root', name: 'POST /bookings', at, took: 300 },
          { trace: name, span: 'call', parent: 'root', name: 'call hold', kind: 3, at: at + 10, took: 200 },
        ],
      ],
      [
        pods.get(ledger!)!,
        [{ trace: name, span: 'hold', parent: 'call', name: 'hold', at: at + 20, took: 180, ...more }],
      ],
    ]);
  it('are held together as traces, told at every part, and say what is missing', async () => {
    await push('seaward', journey('whole', { failed: 'seat is taken', more: { token: 'quay-7-secret' } }));
    await push(
      'seaward',
      request([[pods.get(mailer!)!, [{ trace: 'whole', span: 'mail', parent: 'never', kind: 5, at: at + 400 }]]]),
    );
    for (const settled of [false, true]) {
      if (settled) await settle();
      const { slowest } = await tracesOf(workload(pods.get(ledger!)!));
      expect(slowest.find(({ traceId }) => traceId === hex('whole', 32))).toMatchObject({
        operation: 'hold',
        took: 180,
        failed: true,
        whole: { spans: 4, took: 420, failed: true, orphans: 1 },
      });
      const own = await trace('whole');
      expect(own.steps.map(({ name, service }) => [name, service])).toEqual([
        ['POST /bookings', front],
        ['call hold', front],
        ['hold', ledger],
        ['GET /seats', mailer],
      ]);
      expect([own.orphans, own.hidden, own.open]).toEqual([1, 0, !settled]);
      expect(JSON.stringify(own)).not.toContain('quay-7-secret');
      expect(own.steps[2]!.fields).toEqual([['token', '‹token›']]);
    }
  });
  it('that come late are added to their trace, and one that is sent again counts once', async () => {
    const late = request([[pods.get(mailer!)!, [{ trace: 'whole', span: 'late', parent: 'hold', at: at + 500 }]]]);
    await push('seaward', late);
    await push('seaward', late);
    await settle();
    expect((await trace('whole')).steps).toHaveLength(5);
  });
  it('are seen by who may see where they are; other steps are counted only', async () => {
    await push(
      'seaward',
      request([
        [pods.get(front!)!, [{ trace: 'mixed', span: 'a', at }]],
        [pods.get('manifest-intake')!, [{ trace: 'mixed', span: 'b', parent: 'a', name: 'for customs', at: at + 1 }]],
        [pods.get('manifest-intake')!, [{ trace: 'theirs', span: 'c', at }]],
      ]),
    );
    const own = await trace('mixed', developer);
    expect([own.steps.map(({ service }) => service), own.hidden]).toEqual([[front], 1]);
    expect((await developer.ask('GET', `records/traces/${hex('theirs', 32)}?${window()}`)).status).toBe(404);
    expect((await developer.ask('GET', `records/traces?in=seaward/manifests&${window()}`)).status).toBe(404);
    expect((await tracesOf('seaward/ticketing', developer)).traces).toBeGreaterThan(0);
  });
  it('are kept by the choice of their key, and figures are scaled up', async () => {
    const pod = pods.get('gauge-reader')!;
    const all = Array.from(
      { length: 400 },
      (_, i): Told => ({
        trace: `t${i.toString(36).padStart(3, '0')}${(i * 7919).toString(36)}`,
        span: 'only',
        at,
        took: i === 7 ? 2500 : 30,
        ...(i === 9 && { failed: 'no gauge' }),
      }),
    );
    await push('sampled', request([[pod, all]]));
    await settle();
    const { traces, sampled, slowest, failed } = await tracesOf(workload(pod));
    expect(sampled).toBe(true);
    expect(slowest[0]).toMatchObject({ took: 2500, weight: 1 });
    expect(failed).toHaveLength(1);
    expect(traces % 10).toBe(2);
    expect(traces).toBeGreaterThan(100);
    expect(traces).toBeLessThan(900);
  });
  it('are counted as requests, whatever is kept of them: series of their pod with examples', async () => {
    const requests = served.app.get(SpanRequests, { strict: false });
    await requests.write();
    const pod = pods.get('gauge-reader')!;
    const ask = async (text: string) => {
      const now = Date.now();
      const { status, body } = await administrator.ask('POST', 'measures/evaluate', { text, at: now });
      expect([status, body]).toEqual([200, expect.anything()]);
      return JSON.stringify(body);
    };
    const of = `where k8s_pod_name is "${pod.name}"`;
    await until('what was counted', async () =>
      (await ask(`read span_requests_total ${of} latest over 2m total overall`)).includes('400'),
    );
    expect(await ask(`read span_failures_total ${of} latest over 2m total overall`)).toContain('[');
  });
  it('are all there after a restart, whole and once, open or decided', async () => {
    await push('seaward', journey('before'));
    await settle();
    await push('seaward', journey('open'));
    // however old a part of the journal is: what is not settled stays in it
    await served.app.get(TraceStore, { strict: false }).dropJournalBefore(Date.now() + 24 * HOUR);
    const before = [await trace('before'), await trace('open'), await trace('whole')];
    await served.close();
    await start();
    expect([await trace('before'), await trace('open'), await trace('whole')]).toEqual(before);
    await settle();
    await served.close();
    await start();
    expect((await trace('open')).steps).toEqual(before[1]!.steps);
    const { spans }: PushKeyAnswer = (await administrator.get('push-keys')).keys.find(
      ({ key }: PushKeyAnswer) => key === 'seaward',
    );
    expect(spans).toBe(0);
  });
});
