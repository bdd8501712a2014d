import { randomBytes } from 'node:crypto';
import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import { gunzipSync } from 'node:zlib';
import type { ForwardsAnswer } from '@zetopsis/contract';
import { readLogs, readMetrics, readSpans } from '@zetopsis/core/telemetry';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { newDatabase, people, type Served, serve, temporaryFolder, until, type Visitor } from './harness.ts';

const CARD = '4539 1488 0343 6467';
const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';

/** Another receiver of the protocol, that answers as it is told. */
class Receiver {
  readonly got: { path: string; body: unknown; raw: string; authorization: string | undefined }[] = [];
  status = 200;
  headers: Record<string, string> = {};
  answer: object = {};
  refused = 0;
  private readonly server = createServer(
    (request, response) =>
      void this.take(request).then(() => {
        response.writeHead(this.status, { 'content-type': 'application/json', ...this.headers });
        response.end(JSON.stringify(this.answer));
      }),
  );
  async begin(): Promise<string> {
    await new Promise<void>((done) => this.server.listen(0, '127.0.0.1', done));
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`; // listening on TCP
  }
  end(): void {
    this.server.close();
    this.server.closeAllConnections();
  }
  private async take(request: IncomingMessage): Promise<void> {
    const pieces: Buffer[] = [];
    for await (const piece of request) pieces.push(piece);
    const whole = Buffer.concat(pieces);
    const raw = (request.headers['content-encoding'] === 'gzip' ? gunzipSync(whole) : whole).toString('utf8');
    if (this.status !== 200) {
      this.refused++;
      return;
    }
    this.got.push({
      path: request.url ?? '',
      body: JSON.parse(raw),
      raw,
      authorization: request.headers.authorization,
    });
  }
  texts(): string[] {
    return this.got
      .filter(({ path }) => path === '/v1/logs')
      .flatMap(({ body }) =>
        readLogs(body, Date.now()).resources.flatMap(({ items }) => items.map(({ text }) => text)),
      );
  }
}

let served: Served;
let administrator: Visitor;
let reader: Visitor;
let databaseUrl: string;
let receiver: Receiver;
let address: string;
const dataDir = temporaryFolder();
const tokens: Record<string, string> = {};
async function start(): Promise<void> {
  served = await serve({ ZETOPSIS_DATA_DIR: dataDir }, databaseUrl);
  ({ administrator, reader } = await people(served));
}
beforeAll(async () => {
  databaseUrl = await newDatabase();
  receiver = new Receiver();
  address = await receiver.begin();
  await start();
  for (const key of ['quay', 'mole']) {
    const { status, body } = await administrator.ask('PUT', `push-keys/${key}`, {});
    expect(status).toBe(200);
    tokens[key] = body.made.token;
  }
});
afterAll(async () => {
  receiver.end();
  await served?.close();
});
beforeEach(async () => {
  receiver.status = 200;
  receiver.answer = {};
  receiver.headers = {};
  receiver.got.length = 0;
});

const attributes = (of: Record<string, string>) =>
  Object.entries(of).map(([key, stringValue]) => ({ key, value: { stringValue } }));
const resource = { attributes: attributes({ 'service.name': 'quay', 'quay.token': 'never-told' }) };
const nanos = (at = Date.now()) => `${at}000000`;
async function push(signal: string, body: unknown, key = 'quay'): Promise<void> {
  const response = await fetch(`${served.base}/api/push/v1/${signal}`, {
    method: 'POST',
    headers: { authorization: `Bearer ${tokens[key]}`, 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (response.status !== 200) throw new Error(`answered ${response.status}: ${await response.text()}`);
}
const lines = (...texts: string[]) => ({
  resourceLogs: [
    {
      resource,
      scopeLogs: [{ logRecords: texts.map((text) => ({ timeUnixNano: nanos(), body: { stringValue: text } })) }],
    },
  ],
});
const span = (failed: boolean, id: string) => ({
  resourceSpans: [
    {
      resource,
      scopeSpans: [
        {
          spans: [
            {
              traceId: TRACE,
              spanId: id.padStart(16, 'a'),
              name: `berth ${CARD}`,
              startTimeUnixNano: nanos(Date.now() - 5),
              endTimeUnixNano: nanos(),
              ...(failed && { status: { code: 2 } }),
            },
          ],
        },
      ],
    },
  ],
});
const metrics = {
  resourceMetrics: [
    {
      resource,
      scopeMetrics: [
        {
          metrics: [
            {
              name: 'lamps',
              gauge: {
                dataPoints: [{ timeUnixNano: nanos(), asDouble: 4, attributes: attributes({ who: 'a@b.example' }) }],
              },
            },
          ],
        },
      ],
    },
  ],
};
const forward = (more: object = {}, secret: string | null = 'shown') => ({
  document: { title: 'long store', address, ...more },
  secret,
});
const state = async () => ((await administrator.get('forwards')) as ForwardsAnswer).forwards[0]!; // one is there

describe('what goes on to another receiver', () => {
  let key: string;
  const change = async (more: object = {}, secret: string | null = null) =>
    expect((await administrator.ask('PUT', `forwards/${key}`, forward(more, secret))).status).toBe(204);

  it('is an administrator’s to say', async () => {
    expect((await reader.ask('GET', 'forwards')).status).toBe(403);
    expect((await reader.ask('POST', 'forwards', forward())).status).toBe(403);
    expect((await administrator.ask('POST', 'forwards', forward({ address: 'ftp://x' }))).status).toBe(400);
    // what goes on to itself would come in again
    expect((await administrator.ask('POST', 'forwards', forward({ address: 'http://zetopsis.test' }))).status).toBe(
      409,
    );
    const { status, body } = await administrator.ask('POST', 'forwards', forward());
    expect(status).toBe(201);
    key = body.key;
    expect(JSON.stringify(await administrator.get('forwards'))).not.toContain('shown');
    expect((await administrator.ask('POST', `forwards/${key}/test`)).body.answers).toEqual(
      ['metrics', 'logs', 'traces'].map((signal) => ({ signal, taken: true, words: 'taken' })),
    );
  });
  it('is everything that is taken, masked, with the token, and nothing twice', async () => {
    const body = lines('crane free', `paid with ${CARD}`);
    await push('logs', body);
    await push('logs', body);
    await push('traces', span(true, '1'));
    await push('metrics', metrics);
    await until('all of it', () => receiver.got.length >= 3);
    await until('none waits', async () => (await state()).state.waiting.requests === 0);
    expect(receiver.texts()).toEqual(['crane free', 'paid with ‹card›']);
    const of = (path: string) => receiver.got.find((one) => one.path === path)!; // it came
    expect(readSpans(of('/v1/traces').body, Date.now()).resources[0]?.items[0]).toMatchObject({
      traceId: TRACE,
      name: 'berth ‹card›',
      failed: true,
    });
    expect(readMetrics(of('/v1/metrics').body).resources[0]?.points[0]).toMatchObject({
      metric: 'lamps',
      labels: { who: '‹mail›' },
    });
    for (const { raw, authorization } of receiver.got) {
      expect(authorization).toBe('Bearer shown');
      expect(raw).toContain('service.name');
      for (const secret of [CARD, 'never-told', 'a@b.example']) expect(raw).not.toContain(secret);
    }
    expect((await state()).state).toMatchObject({ sent: 4, refused: 0, dropped: 0, trouble: null });
  });
  it('is what is chosen: by key, kind, level and failure', async () => {
    await change({ keys: ['mole'], signals: ['logs', 'traces'], leastLevel: 'error', failedOnly: true });
    await push('logs', lines('ERROR of another key'));
    await push('metrics', metrics, 'mole');
    await push('logs', lines('INFO all is well', 'ERROR the mole floods', 'nothing said'), 'mole');
    await push('traces', span(false, '2'), 'mole');
    await push('traces', span(true, '3'), 'mole');
    await until('both', () => receiver.got.length >= 2);
    expect(receiver.texts()).toEqual(['ERROR the mole floods']);
    expect(receiver.got.map(({ path }) => path)).toEqual(['/v1/logs', '/v1/traces']);
    await change();
  });
  it('waits while the receiver is away, over a restart, and goes on in its order', async () => {
    receiver.status = 503;
    const told = Array.from({ length: 60 }, (_, minute) => `minute ${minute}`);
    for (const text of told.slice(0, 40)) await push('logs', lines(text));
    await until('the trouble is said', async () => /503/.test((await state()).state.trouble?.why ?? ''));
    await served.app.close();
    await start();
    for (const text of told.slice(40)) await push('logs', lines(text));
    const { waiting } = (await state()).state;
    expect(waiting).toMatchObject({ requests: 60, items: 60 });
    receiver.status = 200;
    await until('none waits', async () => (await state()).state.waiting.requests === 0);
    expect(receiver.texts()).toEqual(told);
    expect((await state()).state.trouble).toBeNull();
  });
  it('is as much as there is room for: the oldest is thrown away, and counted', async () => {
    await change({ backlogMegabytes: 1 });
    receiver.status = 429;
    receiver.headers = { 'retry-after': '3' };
    const large = (i: number) => `large ${i} ${randomBytes(22_000).toString('base64')}`;
    for (let i = 0; i < 80; i++) await push('logs', lines(large(i)));
    await until('some are thrown away', async () => (await state()).state.dropped > 0);
    await until('what waits has room', async () => (await state()).state.waiting.bytes <= 1024 * 1024);
    receiver.status = 200;
    await until('none waits', async () => (await state()).state.waiting.requests === 0);
    const last = receiver.texts().map((text) => Number(text.split(' ')[1]));
    expect(last.at(-1)).toBe(79);
    expect(last).toEqual(last.map((_, i) => 80 - last.length + i));
    await change();
  });
  it('that is refused for good is not sent again, and what is taken in part is said', async () => {
    receiver.status = 400;
    receiver.refused = 0;
    await push('logs', lines('unloved'));
    await until('it is refused', async () => (await state()).state.refused > 0);
    receiver.status = 200;
    receiver.answer = { partialSuccess: { rejectedLogRecords: '1', errorMessage: 'too old' } };
    await push('logs', lines('half', 'loved'));
    await until('it is said', async () => /too old/.test((await state()).state.refusal ?? ''));
    expect(receiver.texts()).toEqual(['half', 'loved']);
    expect(receiver.refused).toBe(1);
    expect((await state()).state.refused).toBe(2);
  });
  it('goes to no denied address, and its token to no other than it was given for', async () => {
    await change({ address: 'http://169.254.169.254' });
    expect((await state()).proves).toBe(false);
    const { body } = await administrator.ask('POST', `forwards/${key}/test`);
    for (const { taken, words } of body.answers) {
      expect(taken).toBe(false);
      expect(words).toMatch(/not allowed|denied|may not/i);
    }
    await change();
    expect((await state()).proves).toBe(true);
    await push('logs', lines('still shown'));
    await until('it came', () => receiver.texts().includes('still shown'));
    expect(receiver.got.at(-1)?.authorization).toBe('Bearer shown');
  });
  it('ends with its document; what waited is gone', async () => {
    receiver.status = 503;
    await push('logs', lines('too late'));
    expect((await administrator.ask('DELETE', `forwards/${key}`)).status).toBe(204);
    receiver.status = 200;
    expect(((await administrator.get('forwards')) as ForwardsAnswer).forwards).toEqual([]);
    const { body } = await administrator.ask('POST', 'forwards', forward());
    expect((await state()).state.waiting.requests).toBe(0);
    expect(body.key).toBe(key);
  });
});
