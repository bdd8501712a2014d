import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdirSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../../scripts/postgres.mjs';
import { connectionTo, newDatabase, PASSWORD, standIn, temporaryFolder, until, Visitor } from './harness.ts';

/** The last version before the store's tables changed; to be moved on with each version that is given out. */
const BEFORE = 'cd9e907';
const ROOT = fileURLToPath(new URL('../../../', import.meta.url));

/** The older version, built in a folder of its own with this one's packages. */
function buildBefore(folder: string): void {
  const archive = execFileSync('git', ['archive', BEFORE, 'packages', 'apps/server', 'tsconfig.base.json'], {
    cwd: ROOT,
    maxBuffer: 64 * 1024 * 1024,
  });
  execFileSync('tar', ['-x', '-C', folder], { input: archive });
  const modules = join(folder, 'node_modules');
  mkdirSync(join(modules, '@zetopsis'), { recursive: true });
  for (const name of readdirSync(join(ROOT, 'node_modules')))
    if (name !== '@zetopsis') symlinkSync(join(ROOT, 'node_modules', name), join(modules, name));
  for (const name of ['core', 'contract'])
    symlinkSync(join(folder, 'packages', name), join(modules, '@zetopsis', name));
  execFileSync(
    process.execPath,
    [join(modules, 'typescript7/bin/tsc'), '-b', 'packages/core', 'packages/contract', 'apps/server'],
    { cwd: folder, stdio: 'inherit' },
  );
}

/**
 * Sums are added up in the order in which objects were listed, which leaves its traces in the last digits. Where use is heading to is worked
 * out from fewer readings since the later version.
 */
const rounded = (own: object): unknown =>
  JSON.parse(JSON.stringify(own), (key, value) =>
    key === 'heading' ? undefined : typeof value === 'number' ? Number(value.toPrecision(10)) : value,
  );

describe('an upgrade', () => {
  const folder = temporaryFolder();
  const dataDir = join(folder, 'data');
  let world: Awaited<ReturnType<typeof standIn>>;
  let server: ChildProcess;
  let databaseUrl: string;
  let port: number;

  const start = async (main: string) => {
    server = spawn(process.execPath, [main], {
      env: {
        ...process.env,
        ZETOPSIS_DATABASE_URL: databaseUrl,
        ZETOPSIS_DATA_DIR: dataDir,
        ZETOPSIS_PORT: String(port),
        ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
        ZETOPSIS_LOG_LEVEL: 'error',
      },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    let printed = '';
    server.stdout?.on('data', (text: Buffer) => (printed += text.toString()));
    await until('the server', async () => (await fetch(`http://127.0.0.1:${port}/api/session`)).ok);
    return () => printed;
  };
  const stop = () =>
    new Promise<void>((done) => {
      server.once('exit', () => done());
      server.kill('SIGTERM');
    });

  beforeAll(async () => {
    buildBefore(folder);
    world = await standIn();
    databaseUrl = await newDatabase();
    port = await freePort(25_950);
  });
  afterAll(async () => {
    server?.kill('SIGKILL');
    await world.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('starts on what the version before has written, and finds all of it', async () => {
    const printed = await start(join(folder, 'apps/server/dist/main.js'));
    const code = await until('the one-time code', () => /one-time code: (\S+)/.exec(printed())?.[1]);
    const visitor = new Visitor(`http://127.0.0.1:${port}`);
    await visitor.ask('POST', 'first-person', { code, name: 'maren', password: PASSWORD });
    expect((await visitor.ask('POST', 'connections', connectionTo(world))).status).toBe(201);
    const from = Date.now() - 60_000;
    const usage = async (to: number) => {
      const { columns } = await visitor.get(`usage?in=seaward/ticketing&from=${from}&to=${to}`);
      return columns.map(({ rows }: { rows: { key: string; kind: string | null; usage: object }[] }) =>
        rows
          // what nobody uses is told since the later version
          .filter(({ kind }) => kind !== 'free' && kind !== 'unused' && kind !== 'itself')
          .map(({ key, usage: own }) => ({ key, own: rounded(own) })),
      );
    };
    await until('some readings', async () => {
      const { endpoints } = await visitor.get('sources');
      return (
        endpoints.length >= 14 &&
        endpoints.every(({ lastReadingAt }: { lastReadingAt: number | null }) => lastReadingAt !== null)
      );
    });
    // a page that answers late still tells of the time when it was asked: all of them were asked again since
    const allReadAfter = (time: number) =>
      until('new readings', async () =>
        (await visitor.get('sources')).endpoints.every(
          ({ lastReadingAt }: { lastReadingAt: number }) => lastReadingAt > time + 3000,
        ),
      );
    await allReadAfter(Date.now());
    const to = Date.now();
    await allReadAfter(to);
    const before = await usage(to);
    const kept = (await visitor.get('admin/retention')).keep;
    await stop();

    await start(fileURLToPath(new URL('../dist/main.js', import.meta.url)));
    // the session of then is still one
    expect(await usage(to)).toEqual(before);
    const retention = (await visitor.get('admin/retention')).keep;
    expect(retention).toMatchObject({ versionsDays: kept.versionsDays, samplesDays: 15, fiveMinutesDays: 90 });
    // and it goes on from there
    await allReadAfter(Date.now());
    expect(await usage(to)).toEqual(before);
    await stop();
  });
});
