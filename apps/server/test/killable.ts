import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import pg from 'pg';
import { afterAll, beforeAll, expect } from 'vitest';
import { freePort, type RunningPostgres, startPostgres } from '../../../scripts/postgres.mjs';
import { connectionTo, PASSWORD, standIn, temporaryFolder, until, Visitor } from './harness.ts';

export const MAIN = fileURLToPath(new URL('../dist/main.js', import.meta.url));
const MAIL = new URL('../../standin/dist/mail/mailServer.js', import.meta.url);
/** The mail server of the stand-in and its page, as a process of their own. */
const MAIL_PROCESS = `
  const [folder, smtp, page] = process.argv.slice(1);
  const { MailServer } = await import('${MAIL}');
  const { createServer } = await import('node:http');
  const mail = new MailServer(folder);
  await mail.load();
  createServer((request, response) => mail.answer(request, response)).listen(Number(page), '127.0.0.1');
  mail.smtp.listen(Number(smtp), '127.0.0.1');
`;
interface Mail {
  readonly headers: Record<string, string>;
  readonly text: string;
}

/**
 * The product and its mail server as processes of their own, to be killed; against a PostgreSQL that keeps its promises (fsync on).
 * `maren` is its first person, and a cluster is connected. `place` keeps files that run beside each other apart.
 */
export class Killable {
  readonly dataDir = temporaryFolder();
  readonly #mailDir = temporaryFolder();
  readonly #database: { readonly name: string; readonly port: number };
  readonly #ports: number;
  postgres!: RunningPostgres;
  world!: Awaited<ReturnType<typeof standIn>>;
  port!: number;
  server!: ChildProcess;
  #mail!: ChildProcess;
  #mailPorts!: { readonly smtp: number; readonly page: number };

  constructor(place: 0 | 1 | 2) {
    this.#database = { name: `crash-postgres-${place}`, port: 25_800 + place };
    this.#ports = 25_900 + place * 60;
    beforeAll(() => this.#begin());
    afterAll(() => this.#end());
  }
  environment() {
    return {
      ...process.env,
      ZETOPSIS_DATABASE_URL: this.postgres.url,
      ZETOPSIS_DATA_DIR: this.dataDir,
      ZETOPSIS_PORT: String(this.port),
      ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
      ZETOPSIS_LOG_LEVEL: 'fatal',
      ZETOPSIS_SMTP_URL: `smtp://127.0.0.1:${this.#mailPorts.smtp}`,
    };
  }
  /** Answers what it has printed so far. */
  async start(): Promise<() => string> {
    this.server = spawn(process.execPath, [MAIN], { env: this.environment(), stdio: ['ignore', 'pipe', 'inherit'] });
    let printed = '';
    this.server.stdout?.on('data', (text: Buffer) => (printed += text.toString()));
    await until('the server', async () => (await fetch(`http://127.0.0.1:${this.port}/api/session`)).ok);
    return () => printed;
  }
  kill() {
    return killed(this.server);
  }
  async startMail() {
    const { smtp, page } = this.#mailPorts;
    this.#mail = spawn(
      process.execPath,
      ['--input-type=module', '-e', MAIL_PROCESS, '--', this.#mailDir, String(smtp), String(page)],
      { stdio: ['ignore', 'inherit', 'inherit'] },
    );
    await until('the mail server', async () => Array.isArray(await this.mails()));
  }
  killMail() {
    return killed(this.#mail);
  }
  async mails(): Promise<Mail[]> {
    return (await fetch(`http://127.0.0.1:${this.#mailPorts.page}/mails.json`)).json() as Promise<Mail[]>;
  }
  async startPostgres() {
    this.postgres = await startPostgres(this.#database);
  }
  visitor() {
    return new Visitor(`http://127.0.0.1:${this.port}`).signIn('maren');
  }
  async client(): Promise<pg.Client> {
    const client = new pg.Client(this.postgres.url);
    await client.connect();
    return client;
  }
  async #begin() {
    await this.startPostgres();
    const client = await this.client();
    await client.query('drop schema public cascade; create schema public');
    await client.end();
    this.world = await standIn();
    this.port = await freePort(this.#ports);
    const smtp = await freePort(this.port + 20);
    this.#mailPorts = { smtp, page: await freePort(smtp + 1) };
    await this.startMail();
    const printed = await this.start();
    const code = await until('the one-time code', () => /one-time code: (\S+)/.exec(printed())?.[1]);
    const visitor = new Visitor(`http://127.0.0.1:${this.port}`);
    expect((await visitor.ask('POST', 'first-person', { code, name: 'maren', password: PASSWORD })).status).toBe(201);
    expect((await visitor.ask('POST', 'connections', connectionTo(this.world))).status).toBe(201);
  }
  async #end() {
    this.server?.kill('SIGKILL');
    this.#mail?.kill('SIGKILL');
    await this.world?.close();
    try {
      this.postgres.stop();
    } catch {
      // it was ended by a test
    }
    for (const folder of [this.dataDir, this.#mailDir]) rmSync(folder, { recursive: true, force: true });
  }
}

async function killed(process: ChildProcess): Promise<void> {
  const gone = once(process, 'exit');
  process.kill('SIGKILL');
  await gone;
}
