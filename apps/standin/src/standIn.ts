import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import { ClusterApi } from './api/clusterApi.ts';
import { controlServer } from './control/control.ts';
import { MailServer } from './mail/mailServer.ts';
import { NodePages } from './pages/nodePages.ts';
import { type Credentials, credentialsIn } from './tls/certificates.ts';
import { GRANTS, PEOPLE, TEAMS } from './world/scenario.ts';
import { World } from './world/world.ts';

export interface StandInOptions {
  /** Where keys and received mail are kept. */
  readonly folder: string;
  readonly seed: string;
  readonly start: number;
  readonly pace: number;
  /** First of 20 ports in a row on loopback; 0 takes any free ones. */
  readonly basePort: number;
  readonly heartbeat?: number;
}

export interface ClusterCard {
  readonly name: string;
  readonly address: string;
  readonly token: string;
  readonly narrowToken: string;
  readonly authority: string;
  readonly historyPath: string;
  readonly environment: string;
  readonly region: string;
  readonly flavour: string;
}

/** What a newcomer needs to know of the stand-in world; `npm start` hands it to the product as its demo. */
export interface WorldCard {
  readonly clusters: readonly ClusterCard[];
  readonly smtp: { readonly host: string; readonly port: number };
  readonly mailPage: string;
  readonly control: string;
  readonly people: typeof PEOPLE;
  readonly teams: typeof TEAMS;
  readonly grants: typeof GRANTS;
}

export interface StandIn {
  readonly card: WorldCard;
  readonly world: World;
  readonly api: ClusterApi;
  close(): Promise<void>;
}

async function listen(server: Server | import('node:https').Server, port: number): Promise<number> {
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  if (typeof address !== 'object' || address === null) throw new Error('no port');
  return address.port;
}

export async function startStandIn(options: StandInOptions): Promise<StandIn> {
  const credentials: Credentials = await credentialsIn(options.folder);
  const port = (offset: number) => (options.basePort === 0 ? 0 : options.basePort + offset);
  const now = Date.now();

  // the world tells the node pages' ports, the pages show the world: the listeners come first and look it up when asked
  const later: { world?: World } = {};
  const pages = new NodePages(() => later.world!, credentials);
  const nodePorts: number[] = [];
  for (const [i, server] of pages.servers.entries()) nodePorts.push(await listen(server, port(4 + i)));
  const world = new World(
    {
      seed: options.seed,
      start: options.start,
      pace: options.pace,
      nodePorts,
      firstVersion: Math.floor(now / 1000) * 10,
      heartbeat: options.heartbeat ?? 10_000,
    },
    now,
  );
  later.world = world;

  const api = new ClusterApi(world.store, credentials);
  const apiPort = await listen(api.server, port(0));
  const mail = new MailServer(join(options.folder, 'mail'));
  await mail.load();
  mail.smtp.listen(port(1), '127.0.0.1');
  await once(mail.smtp.server, 'listening');
  const smtpAddress = mail.smtp.server.address();
  if (typeof smtpAddress !== 'object' || smtpAddress === null) throw new Error('no port');
  const mailPage = createServer((request, response) => mail.answer(request, response));
  const mailPort = await listen(mailPage, port(2));
  const control = controlServer(world, api, pages, mail);
  const controlPort = await listen(control, port(3));

  const servers = [api.server, mailPage, control, ...pages.servers];
  return {
    card: {
      clusters: [
        {
          name: 'seaward',
          address: `https://127.0.0.1:${apiPort}`,
          token: credentials.token,
          narrowToken: credentials.narrowToken,
          authority: credentials.authority,
          historyPath: '/history',
          environment: 'production',
          region: 'outer harbour',
          flavour: 'own machines',
        },
      ],
      smtp: { host: '127.0.0.1', port: smtpAddress.port },
      mailPage: `http://127.0.0.1:${mailPort}/`,
      control: `http://127.0.0.1:${controlPort}`,
      people: PEOPLE,
      teams: TEAMS,
      grants: GRANTS,
    },
    world,
    api,
    async close() {
      world.close();
      await Promise.all([
        ...servers.map(
          (server) =>
            new Promise<void>((done) => {
              server.close(() => done());
              server.closeAllConnections();
            }),
        ),
        new Promise<void>((done) => mail.smtp.close(() => done())),
      ]);
    },
  };
}
