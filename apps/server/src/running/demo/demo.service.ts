import { Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import {
  ChannelDocument,
  EndpointDocument,
  HushDocument,
  RuleDocument,
  ScoutDocument,
  StretchDocument,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { STARTER_RULES, WEEKDAYS } from '@zetopsis/core/rules';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import { request } from 'undici';
import { AccessService } from '../../asking/access/access.service.ts';
import { GrantsService } from '../../asking/access/grants.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { Wish } from '../../ground/configuration/documents.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { type DemoCluster, type DemoFile, readDemoFile } from '../../ground/platform/demoFile.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { ImportsService, type Part } from '../../inflow/imports/imports.service.ts';
import { AskingService } from '../../inflow/scraping/asking.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import type { EndpointPlan } from '../../inflow/scraping/plans.ts';
import { DemoPrograms } from './demoPrograms.ts';

const HISTORY_STEP = 30_000;
const WEEKS = 'all nodes, weeks by 5 minutes';
const WEEKS_STEP = 5 * MINUTE;
interface Stretch {
  readonly of: 'node' | 'found';
  readonly from: (before: number) => number;
  readonly step: number;
  readonly slice: number;
}
/** What was read of it already is not asked for again. */
const PAST_TRIES = 3;
const OWN = Reach.ofZetopsis();
interface DemoRule {
  readonly key: string;
  readonly title: string;
  readonly state: 'on' | 'on trial';
  readonly team?: string;
  readonly tells?: string;
}
const RULES: readonly DemoRule[] = [
  { key: 'lost-node', title: 'a node is lost or not ready', state: 'on', tells: 'platform' },
  { key: 'silent-source', title: 'a cluster, endpoint or sender is silent', state: 'on', tells: 'platform' },
  { key: 'full-volume', title: 'a volume is nearly full', state: 'on trial' },
  { key: 'restarts', title: 'restarts of a workload in 24 h', state: 'on trial' },
  { key: 'spent-quota', title: 'a quota is spent, or a claim is not bound', state: 'on trial' },
  { key: 'well', title: 'Zetopsis itself is not well', state: 'on', tells: 'platform' },
  { key: 'removed', title: 'a deployment, quota or claim is removed', state: 'on trial' },
  { key: 'full-soon', title: 'a volume is full within a day, as it goes', state: 'on trial' },
  { key: 'tide-memory', title: 'memory of a container near its limit, two levels', state: 'on trial', team: 'tides' },
];
const DEMO = 'the demo';
/** Scouts look at what changed together; twice as long without a change, and they found all. */
const FOUND_SETTLES = 1000; // ms
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
    private readonly configuration: ConfigurationService,
    private readonly owners: OwnersService,
    private readonly endpoints: EndpointsService,
    private readonly imports: ImportsService,
    private readonly guard: AddressGuard,
    private readonly asking: AskingService,
    private readonly programs: DemoPrograms,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    const { demoFile } = this.settings.config;
    if (demoFile === null) return;
    const demo = readDemoFile(demoFile);
    for (const { name, role } of demo.people)
      if (!(await this.access.knows(name))) await this.access.addPerson(name, demo.password, role);
    if (this.owners.teams().length === 0) {
      for (const team of demo.teams) await this.owners.add(DEMO, team);
      for (const grant of demo.grants) await this.grants.add(DEMO, grant);
      await this.addRules();
    }
    await this.addSources(demo);
    const connected: { id: string; cluster: DemoCluster }[] = [];
    for (const cluster of demo.clusters)
      connected.push({ id: await this.connect(cluster, demo.intervalSeconds), cluster });
    if (demo.control !== undefined) await this.programs.tell(demo.control);
    if (demo.historyHours > 0) void this.readPasts(connected, demo);
  }

  /** Some of those that one may begin with: what wakes somebody is on, the rest is on trial. */
  private async addRules(): Promise<void> {
    const teams = new Set(this.owners.teams().map(({ key }) => key));
    const wishes = RULES.flatMap(({ key, title, ...more }): Wish[] => {
      const starter = STARTER_RULES.find((one) => one.title === title);
      const named = [more.team, more.tells].flatMap((team) => team ?? []);
      if (starter === undefined || named.some((team) => !teams.has(team))) return [];
      const { about: _about, title: name, ...rule } = starter;
      return [{ kind: 'rule', key, after: RuleDocument.parse({ name, ...rule, ...more }) }];
    });
    await this.configuration.change({
      by: DEMO,
      what: 'added rules to begin with',
      wishes: [...wishes, ...this.telling(teams)],
    });
  }

  /** A program that is told what a team is told, quiet nights for what is on trial anyway, and a load that somebody marked. */
  private telling(teams: ReadonlySet<string>): Wish[] {
    const demo = readDemoFile(this.settings.config.demoFile!); // the demo runs, or nobody asks
    if (!teams.has('tides')) return [];
    const ago = (ms: number) => new Date(this.clock.now() - ms).toISOString();
    return [
      {
        kind: 'channel',
        key: 'signal-station',
        after: ChannelDocument.parse({
          name: 'signal station',
          team: 'tides',
          address: new URL('hook/takes', demo.mailPage).href,
        }),
      },
      {
        kind: 'hush',
        key: 'archive-moves',
        after: HushDocument.parse({
          reason: 'the archive is moved',
          applies: { namespaces: ['pier-data'] },
          when: { is: 'weekly', zone: 'UTC', days: [...WEEKDAYS], from: '02:00', to: '03:30' },
        }),
      },
      {
        kind: 'stretch',
        key: 'spring-tide',
        after: StretchDocument.parse({
          kind: 'load',
          title: 'spring tide rehearsal',
          scope: ['seaward', 'tides'],
          team: 'tides',
          from: ago(4 * HOUR),
          to: ago(2.5 * HOUR),
          note: 'Twice the gauges of a common day.',
        }),
      },
    ];
  }

  /** A scout for pods that say what they serve, and two programs on machines outside the clusters. */
  private async addSources({ programs }: DemoFile): Promise<void> {
    if (programs === undefined || this.configuration.all('scout').size > 0) return;
    const lamp = { intervalSeconds: 15, labels: { quay: 'north' } };
    const endpoint = (document: object) => EndpointDocument.parse(document);
    await this.configuration.change({
      by: DEMO,
      what: 'added a scout and two machines',
      wishes: [
        {
          kind: 'scout',
          key: 'pods-that-say',
          after: ScoutDocument.parse({ route: 'through the cluster', ports: ['pages'] }),
        },
        {
          kind: 'endpoint',
          key: 'north-light',
          after: endpoint({ ...lamp, address: `${programs.plain}/machine`, host: 'north-light' }),
        },
        {
          kind: 'endpoint',
          key: 'east-crane',
          after: endpoint({
            ...lamp,
            address: `${programs.plain}/plain`,
            host: 'east-crane',
            labels: { quay: 'east' },
          }),
        },
      ],
    });
  }

  /** The last hours of all clusters first; the weeks before them afterwards, newest first. */
  private async readPasts(connected: readonly { id: string; cluster: DemoCluster }[], demo: DemoFile) {
    const recent = {
      of: 'node' as const,
      from: (at: number) => at - demo.historyHours * HOUR,
      step: HISTORY_STEP,
      slice: 3 * HOUR,
    };
    const began = this.clock.now();
    await Promise.all(
      connected.map(({ id, cluster }) =>
        // nothing is judged of a cluster before its past is there
        this.endpoints.whileImporting(id, async () => {
          await this.tryToReadPast({ id, cluster, stretch: recent, before: began });
          await this.tryToReadPast({ id, cluster, stretch: { ...recent, of: 'found' }, before: began });
        }),
      ),
    );
    if (demo.historyDays === 0) return;
    const weeks = {
      of: 'node' as const,
      from: (at: number) => at - demo.historyDays * DAY,
      step: WEEKS_STEP,
      slice: DAY,
    };
    const before = await this.imports.list(OWN);
    for (const { id, cluster } of connected)
      if (!before.some((run) => run.cluster === cluster.name && run.about === WEEKS && run.state === 'done'))
        await this.tryToReadPast({ id, cluster, stretch: weeks, before: began - demo.historyHours * HOUR });
  }
  private async tryToReadPast({
    id,
    cluster,
    stretch,
    before,
  }: {
    readonly id: string;
    readonly cluster: DemoCluster;
    readonly stretch: Stretch;
    readonly before: number;
  }): Promise<void> {
    for (let tries = 1; tries <= PAST_TRIES; tries++) {
      try {
        return await this.readPast({ connectionId: id, cluster, stretch, before });
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
      await this.connections.change({ reach: OWN, by: DEMO, id: known, connectionChange: settings });
    return known;
  }

  private async readPast({
    connectionId,
    cluster,
    stretch,
    before,
  }: {
    readonly connectionId: string;
    readonly cluster: DemoCluster;
    readonly stretch: Stretch;
    readonly before: number;
  }): Promise<void> {
    const weeks = stretch.step === WEEKS_STEP;
    const plans: EndpointPlan[] = [];
    for (const plan of await this.plansOnceKnown(connectionId, stretch.of))
      if (weeks || (await this.endpoints.historyWanted(plan.id))) plans.push(plan);
    if (plans.length === 0) return;
    const parts: Part[] = [];
    for (let to = before; to > stretch.from(before); to -= stretch.slice) {
      const from = Math.max(stretch.from(before), to - stretch.slice);
      for (const plan of plans)
        parts.push({
          endpointId: plan.id,
          page: () => this.fetchPast(plan, cluster, { from, to: to - 1, step: stretch.step }),
          // once the oldest part is in, it is not asked for again
          done: () =>
            weeks || from > stretch.from(before) ? Promise.resolve() : this.endpoints.historyRead(plan.id, before),
        });
    }
    const about = weeks ? WEEKS : `all ${stretch.of === 'node' ? 'nodes' : 'pages of pods'}, the last hours`;
    const { done } = await this.imports.takeParts({ cluster: cluster.name, about, by: DEMO }, parts);
    await done;
  }
  private async fetchPast(
    plan: EndpointPlan,
    cluster: DemoCluster,
    asked: { from: number; to: number; step: number },
  ): Promise<Uint8Array> {
    const url = new URL(cluster.historyPath, plan.url);
    url.search = String(
      new URLSearchParams(Object.entries(asked).map(([name, value]): [string, string] => [name, String(value)])),
    );
    const ask = this.asking.ask({ ...plan, url });
    this.guard.checkUrl(ask.url);
    const { statusCode, body } = await request(ask.url, {
      dispatcher: ask.agent,
      signal: AbortSignal.timeout(60_000),
      headers: ask.headers,
    });
    const bytes = new Uint8Array(await body.arrayBuffer());
    if (statusCode !== 200) throw new Error(`${plan.name} offers no past: it answered ${statusCode}`);
    return bytes;
  }

  /** The inventory needs a moment before its nodes are known; every node should be in it before the past is read. */
  private async plansOnceKnown(connectionId: string, of: Stretch['of']) {
    const until = this.clock.now() + NODES_WITHIN;
    if (of === 'found') {
      // a page that needs a translator has no past
      const found = () =>
        this.endpoints
          .plans()
          .filter((plan) => plan.connectionId === connectionId && plan.kind === of && plan.as === null);
      // after a restart scouts look anew: what they find is whole once it grows no more
      for (let before = 0, now = found().length; (now === 0 || now !== before) && this.clock.now() < until; ) {
        await new Promise((done) => setTimeout(done, FOUND_SETTLES));
        before = now;
        now = found().length;
      }
      return found();
    }
    while (this.clock.now() < until) {
      const nodes = this.connections.get(OWN, connectionId).kinds.find(({ kind }) => kind === 'node')?.count ?? 0;
      const plans = this.endpoints.plansOf(connectionId);
      if (nodes > 0 && plans.length >= nodes) return plans;
      await new Promise((done) => setTimeout(done, 200));
    }
    return this.endpoints.plansOf(connectionId);
  }
}
