import { createServer, type Server } from 'node:http';
import { createServer as createTlsServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { ChannelDocument } from '@zetopsis/contract';
import { HOUR, MINUTE, SECOND } from '@zetopsis/core/units';
import fc from 'fast-check';
import pg from 'pg';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { credentialsIn } from '../../standin/src/tls/certificates.ts';
import { ConfigurationService } from '../src/ground/configuration/configuration.service.ts';
import { Clock } from '../src/ground/platform/settings.ts';
import { OutboxService } from '../src/keeping/outbox/outbox.service.ts';
import { LeaseService } from '../src/keeping/store/lease.service.ts';
import { DeliveryService } from '../src/telling/delivery/delivery.service.ts';
import { people, type Served, serve, temporaryFolder, until } from './harness.ts';

const A_MINUTE = 3;
const CHANNELS = ['tells', 'acts'] as const;
type Channel = (typeof CHANNELS)[number];

/** The outbox at a clock that the test moves, with a receiver that takes and refuses as the test says. */
describe('what is to be told', () => {
  let served: Served;
  let database: pg.Client;
  let receiver: Server;
  let all: Awaited<ReturnType<typeof people>>;
  // ahead of the clock of the database, which says when a message was written
  let now = Date.now() + HOUR;
  let taking = true;
  let nth = 0;
  /** What happens before the next message is answered. */
  let meanwhile: (() => Promise<unknown>) | null = null;
  /** Taken, in order: where, when, and the keys that each stood for. */
  let taken: { channel: Channel; at: number; keys: string[] }[] = [];
  const get = <T>(kind: abstract new (...args: never[]) => T): T => served.app.get<T>(kind, { strict: false });
  const look = () => get(DeliveryService).sendDue();
  const outbox = () => get(OutboxService);
  const add = async (channel: Channel): Promise<string> => {
    const key = `k-${nth++}`;
    const text = JSON.stringify({ version: 1, key, change: 'raised', severity: 'warning', title: key, since: '' });
    await outbox().enqueueAlone({
      stableKey: key,
      alertId: null,
      recipient: channel,
      channel,
      subject: key,
      text,
      html: '',
    });
    return key;
  };
  const rows = async (where = 'true') =>
    (
      await database.query(
        `select id, stable_key as key, folded_into as into, dead_at as dead from outbox where ${where}`,
      )
    ).rows as { id: number; key: string; into: number | null; dead: Date | null }[];
  /** Minutes pass until nothing waits. */
  const settle = async () => {
    for (let minutes = 0; (await outbox().counts()).waiting > 0; minutes++) {
      if (minutes > 400) throw new Error('something waits for ever');
      await look();
      now += MINUTE + SECOND;
    }
  };

  beforeAll(async () => {
    receiver = createServer((request, response) => {
      let body = '';
      request.on('data', (piece: Buffer) => {
        body += piece.toString();
      });
      request.on('end', async () => {
        await meanwhile?.();
        meanwhile = null;
        const { key, messages } = JSON.parse(body) as { key: string; messages?: { key: string }[] };
        const channel = CHANNELS.find((one) => request.url === `/${one}`)!;
        if (taking) taken.push({ channel, at: now, keys: messages?.map((one) => one.key) ?? [key] });
        response.writeHead(taking ? 204 : 500).end();
      });
    });
    await new Promise<void>((done) => receiver.listen(0, '127.0.0.1', done));
    // only the test looks
    vi.spyOn(DeliveryService.prototype, 'onApplicationBootstrap').mockImplementation(() => undefined);
    served = await serve();
    all = await people(served);
    get(Clock).now = () => now;
    database = new pg.Client(served.config.databaseUrl);
    await database.connect();
    const made = await all.administrator.ask('POST', 'admin/teams', { name: 'Tides', email: 't@x.test', owns: [] });
    expect(made.status).toBe(204);
    const address = `http://127.0.0.1:${(receiver.address() as AddressInfo).port}`;
    await get(ConfigurationService).change({
      by: 'test',
      what: 'channels',
      wishes: CHANNELS.map((key) => ({
        kind: 'channel',
        key,
        after: ChannelDocument.parse({
          name: key,
          team: 'tides',
          address: `${address}/${key}`,
          does: key === 'acts' ? 'act' : 'tell',
          perMinute: A_MINUTE,
        }),
      })),
    });
  });
  afterAll(async () => {
    await database.end();
    await served.close();
    vi.restoreAllMocks();
    receiver.closeAllConnections();
    receiver.close();
  });
  beforeEach(async () => {
    taken = [];
    taking = true;
  });

  it('is taken once, alone or with others, never faster than a channel takes it, whatever is refused meanwhile', async () => {
    const act = fc.oneof(
      fc.record({
        does: fc.constant('add' as const),
        channel: fc.constantFrom(...CHANNELS),
        count: fc.integer({ min: 1, max: 9 }),
      }),
      fc.record({ does: fc.constant('pass' as const), seconds: fc.constantFrom(1, 10, 61, 400) }),
      fc.record({ does: fc.constant('take' as const), taking: fc.boolean() }),
      fc.constant({ does: 'look' as const }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 4, maxLength: 24 }), async (acts) => {
        await database.query('delete from outbox');
        now += HOUR;
        taken = [];
        taking = true;
        const told = new Map<string, Channel>();
        for (const one of acts) {
          if (one.does === 'add') for (let i = 0; i < one.count; i++) told.set(await add(one.channel), one.channel);
          else if (one.does === 'pass') now += one.seconds * SECOND;
          else if (one.does === 'take') taking = one.taking;
          else await look();
        }
        taking = true;
        await settle();
        const keys = taken.flatMap((own) => own.keys);
        expect([...keys].sort()).toEqual([...told.keys()].sort());
        for (const { channel, keys: own } of taken) {
          expect(own.map((key) => told.get(key))).toEqual(own.map(() => channel));
          // what is to be done is done once for each
          if (channel === 'acts') expect(own.length).toBe(1);
        }
        for (const { channel, at } of taken) {
          const near = taken.filter((own) => own.channel === channel && own.at > at - MINUTE && own.at <= at);
          expect(near.length).toBeLessThanOrEqual(A_MINUTE);
        }
        // nothing that stands for others stands in another one
        const left = await rows('folded_into is not null');
        expect(left.filter(({ key }) => key.startsWith('digest-'))).toEqual([]);
      }),
      { numRuns: 25 },
    );
  });

  it('is given up in the end, and tried again when somebody asks: alone, or with what it stood together with', async () => {
    await database.query('delete from outbox');
    now += HOUR;
    taking = false;
    const alone = await add('acts');
    const many = new Set(await Promise.all(Array.from({ length: 8 }, () => add('tells'))));
    for (let i = 0; i < 16; i++) {
      await look();
      now += HOUR + 15 * MINUTE;
    }
    const counted = await outbox().counts();
    expect([counted.waiting, counted.dead > 1]).toEqual([0, true]);
    const dead = await rows('dead_at is not null');
    expect(dead.length).toBe((await rows()).length);
    // all that is dead is shown once, to whoever sees everything
    expect((await outbox().dead(null)).length).toBe(counted.dead);
    taking = true;
    const folded = dead.find(({ key, into }) => many.has(key) && into !== null)!;
    const retry = async (id: number) => (await all.administrator.ask('POST', `deliveries/${id}/retry`)).status;
    expect(await retry(dead.find(({ key }) => key === alone)!.id)).toBe(204);
    expect(await retry(folded.id)).toBe(204);
    await settle();
    expect(taken.filter(({ keys }) => keys.includes(alone)).length).toBe(1);
    expect(taken.filter(({ keys }) => keys.includes(folded.key) && keys.length > 1).length).toBe(1);
    // what was sent is not sent again
    expect(await retry(folded.id)).toBe(404);
  });

  it('is given up at once where the channel is gone', async () => {
    await database.query('delete from outbox');
    now += HOUR;
    await outbox().enqueueAlone({
      stableKey: 'gone',
      alertId: null,
      recipient: 'nowhere',
      channel: 'nowhere',
      subject: 'x',
      text: '{}',
      html: '',
    });
    await look();
    const { deliveries } = await all.administrator.get('deliveries?state=dead');
    expect(deliveries[0]).toMatchObject({ to: 'nowhere', state: 'dead', error: 'This channel is not there any more.' });
  });

  it('is left to another process once that has taken over, and goes on when it is this one’s again', async () => {
    await database.query('delete from outbox');
    now += HOUR;
    await add('acts');
    await add('acts');
    // while the first is on its way
    meanwhile = () =>
      database.query(
        `update lease set holder = 'another', epoch = epoch + 1, until_ms = extract(epoch from now()) * 1000 + 4000 where name = 'store'`,
      );
    const lease = get(LeaseService);
    const before = lease.epoch;
    await look();
    await until('it is known', () => lease.epoch === 0);
    await look();
    expect(taken.length).toBe(1);
    await until('it is this one’s again', () => lease.epoch > before + 1);
    await look();
    expect(taken.length).toBe(2);
  });

  it('reaches nobody behind a certificate that nobody vouches for: it says so, and waits', async () => {
    await database.query('delete from outbox');
    now += HOUR;
    let heard = 0;
    const { certificate, key } = await credentialsIn(temporaryFolder());
    const stranger = createTlsServer({ cert: certificate, key }, (_request, response) => {
      heard++;
      response.end();
    });
    await new Promise<void>((done) => stranger.listen(0, '127.0.0.1', done));
    const document = {
      name: 'strange',
      team: 'tides',
      address: `https://127.0.0.1:${(stranger.address() as AddressInfo).port}/`,
      perMinute: A_MINUTE,
    };
    const made = await all.administrator.ask('POST', 'channels', { document, secret: 'a long secret of ours' });
    expect(made.status).toBe(201);
    try {
      const text = JSON.stringify({ version: 1, key: 'strange-1', title: 'x' });
      await outbox().enqueueAlone({
        stableKey: 'strange-1',
        alertId: null,
        recipient: made.body.key,
        channel: made.body.key,
        subject: 'x',
        text,
        html: '',
      });
      for (let i = 0; i < 3; i++) {
        await look();
        now += HOUR;
      }
      const { deliveries } = await all.administrator.get('deliveries?state=waiting');
      expect(deliveries).toMatchObject([
        { state: 'waiting', attempts: 3, error: expect.stringContaining('an authority that is not known here') },
      ]);
      expect(deliveries[0].error).not.toContain('cluster');
      expect(heard).toBe(0);
    } finally {
      stranger.close();
    }
    await database.query('delete from outbox');
  });

  it('a look that lasts is seen going on', async () => {
    await database.query('delete from outbox');
    now += HOUR;
    await add('acts');
    await add('acts');
    const seen: (number | null)[] = [];
    const clock = get(Clock);
    const before = get(DeliveryService).lastMovedAt;
    // each answer takes half a minute of the clock
    receiver.prependListener('request', () => {
      seen.push(get(DeliveryService).lastMovedAt);
      now += 30 * SECOND;
    });
    await look();
    expect(seen[0]).toBe(before);
    expect(seen[1]).toBe(clock.now() - 30 * SECOND);
    expect(taken.length).toBe(2);
  });
});
