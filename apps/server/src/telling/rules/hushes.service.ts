import { Injectable, type OnModuleInit } from '@nestjs/common';
import { selectorSeen } from '@zetopsis/answers/rules';
import { clusterOf, type HushAnswer, type HushDocument, type ObjectPath } from '@zetopsis/contract';
import { isHushed, isOver } from '@zetopsis/core/rules';
import type { EpochMs } from '@zetopsis/core/units';
import { type Asker, KeptForTeams } from '../../asking/owners/keptForTeams.service.ts';
import { ConfigurationService } from '../../ground/configuration/configuration.service.ts';
import type { DocumentChange, DocumentProblem, Documents } from '../../ground/configuration/documents.ts';
import { freeKey } from '../../ground/configuration/freeKey.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ClustersJudged } from './clustersJudged.ts';

const MOST = 1000;
/** What would be told: of what, by which rule, to which team. */
interface Telling {
  readonly path: ObjectPath;
  readonly rule: string;
  readonly team: string;
}

/** Planned times in which nobody is told. */
@Injectable()
export class Hushes implements OnModuleInit {
  constructor(
    private readonly configuration: ConfigurationService,
    private readonly forTeams: KeptForTeams,
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly clusters: ClustersJudged,
    private readonly alerts: AlertsService,
    private readonly clock: Clock,
  ) {}

  onModuleInit(): void {
    this.configuration.addCheck(problemsOf);
  }

  /** The hush that keeps it quiet now; null where it may be told. */
  over(telling: Telling): { readonly key: string; readonly reason: string } | null {
    const now = this.clock.now();
    for (const [key, hush] of this.configuration.all('hush'))
      if (this.keepsQuiet(hush, telling, now)) return { key, reason: hush.reason };
    return null;
  }
  private keepsQuiet(
    { team, rules, applies, when }: HushDocument,
    { path, rule, team: told }: Telling,
    at: EpochMs,
  ): boolean {
    if (team !== null && team !== told) return false;
    if (rules.length > 0 && !rules.includes(rule)) return false;
    if (!isHushed(when, at, () => this.inMaintenance(path))) return false;
    return this.clusters.selects(applies, path);
  }
  /** Of a node, and of the pods on it. */
  private inMaintenance(path: ObjectPath): boolean {
    const id = this.connections.idOf(clusterOf(path) ?? '');
    if (id === undefined) return false;
    const inventory = this.inventory.cluster(id);
    const podOn = () => {
      if (path.is !== 'pod' && path.is !== 'container') return null;
      const pod = inventory.named('pod', path.namespace, path.pod);
      return pod?.kind === 'pod' ? pod.node : null;
    };
    const name = path.is === 'node' ? path.node : podOn();
    const node = name === null ? null : inventory.named('node', '', name);
    return node?.kind === 'node' && !node.acceptsPods;
  }

  // ---- as people see and change them -----------------------------------------------------------------------------

  async list(asker: Asker): Promise<HushAnswer[]> {
    const now = this.clock.now();
    const order = { 'quiet now': 0, planned: 1, over: 2 } as const;
    const seen = [...this.configuration.all('hush')].filter(([, { team }]) => this.forTeams.sees(asker, team));
    const all = await Promise.all(
      seen.map(async ([key, document]): Promise<HushAnswer> => {
        const { team, when } = document;
        const state = isOver(when, now) ? 'over' : isHushed(when, now, () => false) ? 'quiet now' : 'planned';
        return {
          key,
          document: this.forTeams.seesAllOf(asker, team) ? document : withoutNames(document, asker),
          owner: this.forTeams.nameOf(team),
          state,
          mayChange: this.forTeams.mayChange(asker, team),
          kept: await this.alerts.ofHush(asker.reach, key),
        };
      }),
    );
    return all.sort((a, b) => order[a.state] - order[b.state] || a.document.reason.localeCompare(b.document.reason));
  }
  async add(asker: Asker, by: string, document: HushDocument): Promise<string> {
    this.demandChange(asker, document.team);
    const all = this.configuration.all('hush');
    if (all.size >= MOST) throw new Refusal('conflict', `There are ${MOST} hushes already. Remove some that are over.`);
    const key = freeKey(document.reason, 'hush', (one) => all.has(one));
    await this.configuration.change({
      by,
      what: `planned a hush: ${document.reason}`,
      wishes: [{ kind: 'hush', key, after: document, fresh: true }],
    });
    return key;
  }
  async remove(asker: Asker, by: string, key: string): Promise<void> {
    const document = this.configuration.get('hush', key);
    if (!document || !this.forTeams.sees(asker, document.team))
      throw new Refusal('notFound', 'There is no such hush (any more).');
    this.demandChange(asker, document.team);
    await this.configuration.change({
      by,
      what: `took a hush back: ${document.reason}`,
      wishes: [{ kind: 'hush', key, after: null }],
    });
  }
  private demandChange(asker: Asker, team: string | null): void {
    this.forTeams.demandChange(asker, team, {
      everybody: 'A hush of the platform is planned by administrators. Plan one for a team of yours.',
      team: 'A team’s hush is planned by its members.',
    });
  }
}

/** As those read it who see a part: what it names of others is left out. */
const withoutNames = (document: HushDocument, { reach }: Asker): HushDocument => ({
  ...document,
  rules: [],
  applies: selectorSeen(document.applies, reach),
});
/** Teams and rules that are not there. */
function problemsOf(wanted: Documents, changes: readonly DocumentChange[]): DocumentProblem[] {
  if (!changes.some(({ kind }) => kind === 'hush' || kind === 'team')) return [];
  const problems: DocumentProblem[] = [];
  for (const [key, { reason, team, applies }] of wanted.all('hush')) {
    const named = [...(team === null ? [] : [team]), ...applies.teams];
    for (const own of named)
      if (wanted.get('team', own) === null)
        problems.push({
          kind: 'hush',
          key,
          path: ['team'],
          text: `The hush “${reason}” names the team ${own}, which is not there.`,
        });
  }
  return problems;
}
