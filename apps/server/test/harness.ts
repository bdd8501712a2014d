import 'reflect-metadata';
import { mkdtempSync, rmSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { NestExpressApplication } from '@nestjs/platform-express';
import type { EndpointAnswer } from '@zetopsis/contract';
import { type StandIn, startStandIn } from '@zetopsis/standin';
import pg from 'pg';
import { inject } from 'vitest';
import { AccessService } from '../src/asking/access/access.service.ts';
import { createApp } from '../src/bootstrap.ts';
import { type Config, readConfig } from '../src/ground/platform/config.ts';
import { migrate } from '../src/keeping/tables/database.ts';

export const PASSWORD = 'a long test password';

const FIRST_WAIT = 40;
const LONGEST_WAIT = 2000;

/**
 * Waits until `look` gives something; its last problem is told when it never does. Looks are further apart the longer
 * it waits already, so that long waits leave the machine to others.
 */
export async function until<T>(
  what: string,
  look: () => Promise<T | null | undefined | false> | T | null | undefined | false,
  // somebody else's work may hold this machine up for long; what comes in time does not wait
  within = 240_000,
): Promise<T> {
  const begun = Date.now();
  const end = begun + within;
  let problem: unknown = 'nothing yet';
  while (Date.now() < end) {
    try {
      const seen = await look();
      if (seen) return seen;
    } catch (error) {
      problem = error;
    }
    const wait = Math.min(Math.max((Date.now() - begun) / 10, FIRST_WAIT), LONGEST_WAIT);
    await new Promise((done) => setTimeout(done, wait));
  }
  throw new Error(`waited ${within} ms for: ${what} (${String(problem)})`);
}

export function temporaryFolder(): string {
  return mkdtempSync(join(tmpdir(), 'zetopsis-test-'));
}

export async function newDatabase(): Promise<string> {
  const admin = inject('databaseUrl');
  const name = `t_${process.pid}_${Date.now()}_${Math.floor(Math.random() * 1e6)}`;
  const client = new pg.Client(admin);
  await client.connect();
  await client.query(`create database ${name}`);
  await client.end();
  return admin.replace(/\/[^/]*$/, `/${name}`);
}

export interface Answer {
  readonly status: number;
  // biome-ignore lint/suspicious/noExplicitAny: tests look into answers of every shape
  readonly body: any;
  readonly headers: Headers;
}

/** One person at one server; keeps the session's cookie. */
export class Visitor {
  private readonly cookies = new Map<string, string>();
  constructor(
    readonly base: string,
    private readonly origin: string | null = null,
    private readonly token: string | null = null,
  ) {}
  get session(): string {
    return [...this.cookies].map(([name, value]) => `${name}=${value}`).join('; ');
  }
  async ask(method: string, path: string, body?: unknown): Promise<Answer> {
    const response = await fetch(`${this.base}/api/${path}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(this.cookies.size > 0 ? { cookie: this.session } : {}),
        ...(this.origin ? { origin: this.origin } : {}),
        ...(this.token ? { authorization: `Bearer ${this.token}` } : {}),
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    for (const cookie of response.headers.getSetCookie()) {
      const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(cookie) ?? [];
      this.cookies.set(name, value);
    }
    const text = await response.text();
    const json = /json/.test(response.headers.get('content-type') ?? '');
    return { status: response.status, headers: response.headers, body: json && text !== '' ? JSON.parse(text) : null };
  }
  async get(path: string) {
    const answer = await this.ask('GET', path);
    if (answer.status !== 200) throw new Error(`GET ${path} answered ${answer.status}: ${JSON.stringify(answer.body)}`);
    return answer.body;
  }
  async signIn(name: string): Promise<this> {
    const answer = await this.ask('POST', 'session', { name, password: PASSWORD });
    if (answer.status !== 200) throw new Error(`sign-in answered ${answer.status}`);
    return this;
  }
}

/** The nodes' own pages, which is what most tests ask for; Zetopsis' own stands beside them. */
export async function nodePages(visitor: Visitor): Promise<EndpointAnswer[]> {
  const { endpoints }: { endpoints: EndpointAnswer[] } = await visitor.get('sources');
  return endpoints.filter(({ kind }) => kind === 'node');
}

export interface Served {
  readonly app: NestExpressApplication;
  readonly base: string;
  readonly config: Config;
  close(): Promise<void>;
}

/** The product in this process, against a database of its own. */
export async function serve(more: Record<string, string> = {}, databaseUrl?: string): Promise<Served> {
  const url = databaseUrl ?? (await newDatabase());
  const dataDir = more['ZETOPSIS_DATA_DIR'] ?? temporaryFolder();
  const config = readConfig({
    ZETOPSIS_DATABASE_URL: url,
    ZETOPSIS_DATA_DIR: dataDir,
    ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
    ZETOPSIS_LOG_LEVEL: process.env['LOG'] ?? 'silent',
    ZETOPSIS_PUBLIC_URL: 'http://zetopsis.test',
    ...more,
  });
  await migrate(url);
  const app = await createApp(config);
  await app.listen(0, '127.0.0.1');
  const { port } = app.getHttpServer().address() as AddressInfo; // listening on TCP
  return {
    app,
    base: `http://127.0.0.1:${port}`,
    config,
    async close() {
      await app.close();
      rmSync(dataDir, { recursive: true, force: true });
    },
  };
}

/**
 * maren administers; idris reads everything by a grant; nore operates seaward by a grant; tove is a developer of team
 * Ferries, which owns its namespaces; jonas is in no team and has no grant.
 */
export async function people(served: Served) {
  const access = served.app.get(AccessService, { strict: false });
  if (!(await access.knows('maren'))) {
    await access.addPerson('maren', PASSWORD, 'administrator');
    for (const name of ['idris', 'nore', 'tove', 'jonas']) await access.addPerson(name, PASSWORD, 'member');
  }
  const administrator = await new Visitor(served.base).signIn('maren');
  const done = async (answer: Promise<Answer>) => {
    const { status, body } = await answer;
    if (status >= 400 && status !== 409) throw new Error(`answered ${status}: ${JSON.stringify(body)}`);
  };
  await done(administrator.ask('POST', 'admin/grants', { person: 'idris', may: 'read' }));
  await done(administrator.ask('POST', 'admin/grants', { person: 'nore', may: 'operate', cluster: 'seaward' }));
  await done(
    administrator.ask('POST', 'admin/teams', {
      name: 'Ferries',
      email: 'ferries@skerrivale.test',
      members: ['tove'],
      owns: [owned('ticketing'), owned('boarding')],
    }),
  );
  return {
    administrator,
    reader: await new Visitor(served.base).signIn('idris'),
    operator: await new Visitor(served.base).signIn('nore'),
    developer: await new Visitor(served.base).signIn('tove'),
    nobody: await new Visitor(served.base).signIn('jonas'),
    stranger: new Visitor(served.base),
  };
}
export const owned = (namespace: string) => ({ by: 'name', namespace });

/** A visitor who proves who asks by a token instead of a session. */
export async function withToken(served: Served, visitor: Visitor, bound: object): Promise<Visitor> {
  const { body } = await visitor.ask('POST', 'tokens', { name: 'a test', days: 1, bound });
  return new Visitor(served.base, null, body.token);
}

export interface WorldOptions {
  readonly pace?: number;
  readonly start?: number;
  readonly heartbeat?: number;
  readonly folder?: string;
  readonly basePort?: number;
  /** Only cluster seaward when not given. */
  readonly clusters?: readonly string[];
}
export async function standIn({
  pace = 1,
  start = Date.now(),
  heartbeat = 1000,
  folder = temporaryFolder(),
  basePort = 0,
  clusters = ['seaward'],
}: WorldOptions = {}): Promise<
  StandIn & { control(path: string): Promise<void>; look(path: string): Promise<unknown> }
> {
  const world = await startStandIn({ folder, seed: 'test', start, pace, basePort, heartbeat, clusters });
  return {
    ...world,
    async control(path) {
      const response = await fetch(`${world.card.control}${path}`, { method: 'POST' });
      if (!response.ok) throw new Error(`${path} answered ${response.status}: ${await response.text()}`);
    },
    async look(path) {
      return (await fetch(`${world.card.control}${path}`)).json();
    },
  };
}

export function connectionTo({ card }: Pick<StandIn, 'card'>, intervalSeconds = 2, name = 'seaward') {
  const cluster = card.clusters.find((one) => one.name === name)!; // the scenario has it
  return {
    name,
    address: cluster.address,
    token: cluster.token,
    authority: cluster.authority,
    nodePage: { path: '/metrics', intervalSeconds },
    environment: 'production',
    region: 'outer harbour',
    flavour: '',
  };
}
