import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { Server as RawServer } from 'node:net';
import { join } from 'node:path';
import { ClusterApi } from './api/clusterApi.ts';
import type { Berth } from './control/acts.ts';
import { controlServer } from './control/control.ts';
import { HookReceiver } from './mail/hookReceiver.ts';
import { MailServer } from './mail/mailServer.ts';
import { NodePages } from './pages/nodePages.ts';
import { HostPrograms } from './programs/hostPrograms.ts';
import { podAnswer } from './programs/podPrograms.ts';
import { Telling } from './programs/programSender.ts';
import { credentialsIn } from './tls/certificates.ts';
import { Endings } from './world/endings.ts';
import { CLUSTERS, type ClusterPlan, GRANTS, PEOPLE, TEAMS } from './world/scenario/index.ts';
import { World } from './world/world.ts';

export interface StandInOptions {
  /** Where keys and received mail are kept. */
  readonly folder: string;
  readonly seed: string;
  readonly start: number;
  readonly pace: number;
  /** First of 40 ports in a row on loopback; 0 takes any free ones. */
  readonly basePort: number;
  readonly heartbeat?: number;
  /** Only these clusters; all when not given. */
  readonly clusters?: readonly string[];
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
  readonly programs: {
    readonly plain: string;
    readonly tls: string;
    readonly mutual: string;
    readonly raw: string;
    readonly authority: string;
    readonly certificate: string;
    readonly key: string;
  };
  readonly people: typeof PEOPLE;
  readonly teams: typeof TEAMS;
  readonly grants: typeof GRANTS;
}

export interface StandIn {
  readonly card: WorldCard;
  /** Of cluster `seaward`, where most stories are told. */
  readonly world: World;
  readonly api: ClusterApi;
  readonly worlds: ReadonlyMap<string, World>;
  readonly programs: HostPrograms;
  close(): Promise<void>;
}

async function listen(server: Server | RawServer, port: number): Promise<number> {
  server.listen(port, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  if (typeof address !== 'object' || address === null) throw new Error('no port');
  return address.port;
}

/** One cluster: its API, its nodes' pages, its world. */
async function moor(
  plan: ClusterPlan,
  options: StandInOptions,
  apiPort: number,
  firstNodePort: number,
  now: number,
): Promise<{ berth: Berth; card: ClusterCard; servers: import('node:https').Server[] }> {
  const credentials = await credentialsIn(join(options.folder, plan.name));
  const port = (first: number, offset: number) => (options.basePort === 0 ? 0 : first + offset);
  // the world tells the node pages' ports, the pages show the world: the listeners come first and look it up when asked
  const later: { world?: World } = {};
  const pages = new NodePages(
    () => later.world!,
    plan.nodes.map(({ name }) => name),
    credentials,
  );
  const nodePorts: number[] = [];
  for (const [i, server] of pages.servers.entries()) nodePorts.push(await listen(server, port(firstNodePort, i)));
  const world = new World(
    {
      plan,
      seed: options.seed,
      start: options.start,
      pace: options.pace,
      nodePorts,
      firstVersion: Math.floor(now / 1000) * 10,
      heartbeat: options.heartbeat ?? 10_000,
      endings: new Endings(join(options.folder, plan.name, `endings-${options.start}.json`)),
    },
    now,
  );
  later.world = world;
  const api = new ClusterApi(world.store, credentials);
  api.world = world;
  api.programs = (pod, podPort, path) => podAnswer({ world, pod, port: podPort, target: path });
  const address = await listen(api.server, port(apiPort, 0));
  return {
    berth: { world, api, pages, telling: new Telling(world, join(options.folder, plan.name, 'told-until')) },
    card: {
      name: plan.name,
      address: `https://127.0.0.1:${address}`,
      token: credentials.token,
      narrowToken: credentials.narrowToken,
      authority: credentials.authority,
      historyPath: '/history',
      environment: plan.environment,
      region: plan.region,
      flavour: plan.flavour,
    },
    servers: [api.server, ...pages.servers],
  };
}

async function hostPrograms(options: StandInOptions, first: number) {
  const credentials = await credentialsIn(join(options.folder, 'programs'));
  const own = new HostPrograms(credentials);
  const port = (offset: number) => (first === 0 ? 0 : first + offset);
  const at = async (scheme: string, server: Server | RawServer, offset: number) =>
    `${scheme}://127.0.0.1:${await listen(server, port(offset))}`;
  const card = {
    plain: await at('http', own.plain, 0),
    tls: await at('https', own.tls, 1),
    mutual: await at('https', own.mutual, 2),
    raw: await at('http', own.raw, 3),
    authority: credentials.authority,
    certificate: credentials.certificate,
    key: credentials.key,
  };
  return { own, card };
}

export async function startStandIn(options: StandInOptions): Promise<StandIn> {
  const port = (offset: number) => (options.basePort === 0 ? 0 : options.basePort + offset);
  const now = Date.now();
  const plans = CLUSTERS.filter(({ name }) => options.clusters?.includes(name) ?? true);
  const mail = new MailServer(join(options.folder, 'mail'));
  await mail.load();
  mail.smtp.listen(port(0), '127.0.0.1');
  await once(mail.smtp.server, 'listening');
  const smtpAddress = mail.smtp.server.address();
  if (typeof smtpAddress !== 'object' || smtpAddress === null) throw new Error('no port');
  const hooks = new HookReceiver();
  const mailPage = createServer(async (request, response) => {
    if (!(await hooks.answer(request, response))) mail.answer(request, response);
  });
  const mailPort = await listen(mailPage, port(1));

  const moored: Awaited<ReturnType<typeof moor>>[] = [];
  let nodePort = 3 + CLUSTERS.length;
  for (const [i, plan] of CLUSTERS.entries()) {
    if (plans.includes(plan)) moored.push(await moor(plan, options, port(3 + i), port(nodePort), now));
    nodePort += plan.nodes.length;
  }
  const berths = new Map(moored.map(({ berth, card }) => [card.name, berth]));
  const control = controlServer(berths, mail);
  const controlPort = await listen(control, port(2));

  const programs = await hostPrograms(options, port(nodePort));
  const servers = [
    programs.own.plain,
    programs.own.tls,
    programs.own.mutual,
    mailPage,
    control,
    ...moored.flatMap((one) => one.servers),
  ];
  return {
    card: {
      clusters: moored.map(({ card }) => card),
      smtp: { host: '127.0.0.1', port: smtpAddress.port },
      mailPage: `http://127.0.0.1:${mailPort}/`,
      programs: programs.card,
      control: `http://127.0.0.1:${controlPort}`,
      people: PEOPLE,
      teams: TEAMS,
      grants: GRANTS,
    },
    world: moored[0]!.berth.world,
    api: moored[0]!.berth.api,
    programs: programs.own,
    worlds: new Map([...berths].map(([name, { world }]) => [name, world])),
    async close() {
      for (const { world, telling } of berths.values()) {
        telling.end();
        world.close();
      }
      programs.own.destroy();
      await Promise.all([
        ...servers.map(
          (server) =>
            new Promise<void>((done) => {
              server.close(() => done());
              server.closeAllConnections();
            }),
        ),
        new Promise<void>((done) => programs.own.raw.close(() => done())),
        new Promise<void>((done) => mail.smtp.close(() => done())),
      ]);
    },
  };
}
