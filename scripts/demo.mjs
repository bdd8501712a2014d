// Starts PostgreSQL, the stand-in world and the product with demo data. Used by `npm start`, the browser tests and the screenshots.
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, say } from './machine.mjs';
import { freePort, startPostgres } from './postgres.mjs';
import { startProcess, stopProcess, waitFor } from './processes.mjs';

const HOUR = 3_600_000;
/** After a longer pause the stories begin anew. */
const STORIES_GO_ON = 12 * HOUR;

const readJson = (file) => (existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {});

/**
 * `folder` keeps everything between starts. `pace` makes the stories run faster, `intervalSeconds` is how often endpoints
 * are read. Answers the running parts and `stop`.
 */
export async function startDemo({
  folder,
  database = {},
  port = 8484,
  standInPort = 26_100,
  pace = 1,
  intervalSeconds = 15,
  historyHours = 12,
  historyDays = 21,
}) {
  mkdirSync(folder, { recursive: true });
  const memory = join(folder, 'demo-memory.json');
  const known = readJson(memory);
  const parts = [];
  const stop = async () => {
    for (const part of parts.reverse()) await part();
  };
  try {
    say('starting PostgreSQL');
    const postgres = await startPostgres(database);
    parts.push(() => postgres.stop());

    const now = Date.now();
    const goesOn = known.start !== undefined && now - known.lastSeen < STORIES_GO_ON && known.pace === pace;
    const start = goesOn ? known.start : now;
    const password = known.password ?? `harbour-${randomBytes(4).toString('hex')}`;
    // the cluster keeps its address between starts unless somebody else took a port
    const base = await freePort(known.standInPort ?? standInPort, 40);
    const own = await freePort(known.port ?? port);
    const remember = () =>
      writeFileSync(
        memory,
        JSON.stringify({ start, pace, password, standInPort: base, port: own, lastSeen: Date.now() }),
        { mode: 0o600 },
      );
    remember();
    const seen = setInterval(remember, 60_000);
    parts.push(() => {
      clearInterval(seen);
      remember();
    });

    const worldFolder = join(folder, 'standin');
    const card = join(worldFolder, 'card.json');
    let standIn;
    const startStandIn = async () => {
      rmSync(card, { force: true });
      const args = [
        'apps/standin/dist/main.js',
        '--folder',
        worldFolder,
        '--base-port',
        base,
        '--start',
        start,
        '--pace',
        pace,
      ].map(String);
      standIn = startProcess('stand-in world', [join(root, args[0]), ...args.slice(1)], {
        log: join(folder, 'standin.log'),
      });
      await waitFor(standIn, async () => existsSync(card), 60);
    };
    say('starting the stand-in world');
    await startStandIn();
    parts.push(() => stopProcess(standIn));

    const world = JSON.parse(readFileSync(card, 'utf8'));
    const demoFile = join(folder, 'demo.json');
    const { clusters, mailPage, control, people, teams, grants, programs } = world;
    writeFileSync(
      demoFile,
      JSON.stringify({
        clusters,
        mailPage,
        control,
        programs: { plain: programs.plain },
        people,
        teams,
        grants,
        password,
        intervalSeconds,
        historyHours,
        historyDays,
      }),
      { mode: 0o600 },
    );
    say('starting Zetopsis');
    const address = `http://127.0.0.1:${own}`;
    const server = startProcess('server', [join(root, 'apps/server/dist/main.js')], {
      log: join(folder, 'server.log'),
      env: {
        ZETOPSIS_DATABASE_URL: postgres.url,
        ZETOPSIS_DATA_DIR: join(folder, 'data'),
        ZETOPSIS_PORT: String(own),
        ZETOPSIS_PUBLIC_URL: address,
        ZETOPSIS_SMTP_URL: `smtp://${world.smtp.host}:${world.smtp.port}`,
        ZETOPSIS_MAIL_FROM: 'Zetopsis <zetopsis@skerrivale.test>',
        ZETOPSIS_ALLOW_ADDRESSES: '127.0.0.1',
        ZETOPSIS_DEMO_FILE: demoFile,
        ZETOPSIS_ZONE: process.env.TZ || Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC',
      },
    });
    parts.push(() => stopProcess(server));
    await waitFor(server, async () => (await fetch(`${address}/api/session`)).ok, 90);
    return {
      address,
      world,
      password,
      server,
      stop,
      stopStandIn: () => stopProcess(standIn),
      startStandIn,
      ended: () =>
        Promise.race([
          server.ended.then((code) => `the server ended with ${code}`),
          standIn.ended.then((code) => `the stand-in world ended with ${code}`),
        ]),
    };
  } catch (error) {
    await stop();
    throw error;
  }
}
