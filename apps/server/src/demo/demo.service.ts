import { readFileSync } from 'node:fs';
import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import { GrantDocument, Role, TeamDocument } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { request } from 'undici';
import { z } from 'zod';
import { AccessService } from '../access/access.service.ts';
import { GrantsService } from '../access/grants.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { AddressGuard } from '../platform/addressGuard.ts';
import { ServerLog } from '../platform/logger.ts';
import { Clock, Settings } from '../platform/settings.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { SamplesService } from '../store/samples.service.ts';
import { DemoNotice } from './demoNotice.ts';

const DemoCluster = z.object({
  name: z.string(),
  address: z.url(),
  token: z.string(),
  authority: z.string(),
  historyPath: z.string().startsWith('/'),
  environment: z.string(),
  region: z.string(),
  flavour: z.string(),
});
type DemoCluster = z.infer<typeof DemoCluster>;
const DemoFile = z.object({
  clusters: z.array(DemoCluster).min(1),
  mailPage: z.url(),
  password: z.string().min(8),
  people: z.array(z.object({ name: z.string(), role: Role, does: z.string() })),
  teams: z.array(TeamDocument),
  grants: z.array(GrantDocument),
  intervalSeconds: z.number().int().min(1).default(15),
  historyHours: z.number().min(0).max(24).default(12),
});

const HISTORY_STEP = 30_000;
/** What was read of it already is not asked for again. */
const PAST_TRIES = 3;
const OWN = Reach.ofZetopsis();
const DEMO = 'the demo';
const NODES_WITHIN = 60_000;

/**
 * Demo mode only: makes the scenario's people and teams, connects its cluster and reads the past its endpoints offer;
 * everything through the same services and over the same wire as anybody's.
 */
@Injectable()
export class DemoService implements OnApplicationBootstrap {
  constructor(
    private readonly settings: Settings,
    private readonly access: AccessService,
    private readonly grants: GrantsService,
    private readonly connections: ConnectionsService,
    private readonly owners: OwnersService,
    private readonly endpoints: EndpointsService,
    private readonly samples: SamplesService,
    private readonly guard: AddressGuard,
    private readonly notice: DemoNotice,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const { demoFile } = this.settings.config;
    if (demoFile === null) return;
    const demo = DemoFile.parse(JSON.parse(readFileSync(demoFile, 'utf8')));
    this.notice.notice = {
      people: demo.people.map(({ name, does }) => ({ name, does })),
      password: demo.password,
      mailPage: demo.mailPage,
    };
    for (const { name, role } of demo.people)
      if (!(await this.access.knows(name))) await this.access.addPerson(name, demo.password, role);
    if (this.owners.teams().length === 0) {
      for (const team of demo.teams) await this.owners.add(DEMO, team);
      for (const grant of demo.grants) await this.grants.add(DEMO, grant);
    }
    const connected: { id: string; cluster: DemoCluster }[] = [];
    for (const cluster of demo.clusters)
      connected.push({ id: await this.connect(cluster, demo.intervalSeconds), cluster });
    if (demo.historyHours > 0) void this.readPasts(connected, demo.historyHours);
  }

  /** One cluster after the other: together they would leave PostgreSQL no connection for what comes in now. */
  private async readPasts(connected: readonly { id: string; cluster: DemoCluster }[], hours: number): Promise<void> {
    let turn: Promise<void> = Promise.resolve();
    await Promise.all(
      connected.map(({ id, cluster }) =>
        // nothing is judged of a cluster before its past is there
        this.endpoints.whileImporting(id, () => {
          turn = turn.then(() => this.tryToReadPast(id, cluster, hours));
          return turn;
        }),
      ),
    );
  }
  private async tryToReadPast(id: string, cluster: DemoCluster, hours: number): Promise<void> {
    for (let tries = 1; tries <= PAST_TRIES; tries++) {
      try {
        return await this.readPast(id, cluster, hours);
      } catch (error) {
        this.log.failure('historyNotRead', error, { cluster: cluster.name, tries });
      }
    }
  }

  private async connect(cluster: DemoCluster, intervalSeconds: number): Promise<string> {
    const { name, historyPath: _, ...given } = cluster;
    const settings = { ...given, nodePage: { path: '/metrics', intervalSeconds } };
    const known = this.connections.idOf(name);
    if (known === undefined) return (await this.connections.add(OWN, DEMO, { name, ...settings })).id;
    const now = this.connections.get(OWN, known);
    if (now.address !== cluster.address || now.authority !== cluster.authority.trim())
      await this.connections.change(OWN, DEMO, known, settings);
    return known;
  }

  private async readPast(connectionId: string, cluster: DemoCluster, hours: number): Promise<void> {
    const began = this.clock.now();
    let readings = 0;
    const plans = await this.plansOnceKnown(connectionId);
    const agent = this.guard.agent(cluster.authority);
    try {
      for (const plan of plans) {
        if (!(await this.endpoints.historyWanted(plan.id))) continue;
        // what was read since then is known better than any history tells it
        const until = Math.min(began, (await this.samples.firstReadingAt(plan.id)) ?? began);
        const url = new URL(cluster.historyPath, plan.url);
        url.search = String(
          new URLSearchParams({
            from: String(began - hours * 3_600_000),
            to: String(until),
            step: String(HISTORY_STEP),
          }),
        );
        this.guard.checkUrl(url);
        const { statusCode, body } = await request(url, {
          dispatcher: agent,
          signal: AbortSignal.timeout(60_000),
          headers: { authorization: `Bearer ${cluster.token}` },
        });
        const bytes = new Uint8Array(await body.arrayBuffer());
        if (statusCode === 200) readings += await this.endpoints.importHistory(plan.id, bytes, until);
        else this.log.warning('historyRefused', `${plan.node} offers no past`, { statusCode });
      }
    } finally {
      await agent.destroy();
    }
    this.log.note(
      'historyRead',
      `${readings} readings of the past of ${cluster.name} taken in ${this.clock.now() - began} ms`,
    );
  }

  /** The inventory needs a moment before its nodes are known; every node should be in it before the past is read. */
  private async plansOnceKnown(connectionId: string) {
    const until = this.clock.now() + NODES_WITHIN;
    while (this.clock.now() < until) {
      const nodes = this.connections.get(OWN, connectionId).kinds.find(({ kind }) => kind === 'node')?.count ?? 0;
      const plans = this.endpoints.plansOf(connectionId);
      if (nodes > 0 && plans.length >= nodes) return plans;
      await new Promise((done) => setTimeout(done, 200));
    }
    return this.endpoints.plansOf(connectionId);
  }
}
