import { Injectable } from '@nestjs/common';
import {
  foundSubjects,
  type JudgedCluster,
  memorySubjects,
  occurrenceSubjects,
  readySubjects,
  type Subject,
  silentSubjects,
} from '@zetopsis/answers/rules';
import { clusterOf, type ObjectPath, placeOf } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { bothLevels, conditionOf } from '@zetopsis/core/rules';
import { type DurationMs, type EpochMs, HOUR, type SeriesId } from '@zetopsis/core/units';
import { GrantsService } from '../../asking/access/grants.service.ts';
import { OwnersService } from '../../asking/owners/owners.service.ts';
import { UsageService } from '../../asking/usage/usage.service.ts';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { timeoutFor } from '../../inflow/scraping/endpointReader.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { VitalsService } from '../../inflow/vitals/vitals.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { ClustersJudged } from './clustersJudged.ts';
import type { Look, Rule } from './judgement.ts';
import { everyOf, MeasureLooks } from './measureLooks.service.ts';
import { HAPPENED_EVERY, type InClusters, OccurrenceLooks } from './occurrenceLooks.service.ts';

const MEMORY = 'container.memory.working_set';
/** Missed times are judged in order after an outage, this far back. */
const CATCH_UP = 2 * HOUR;
/** What is found wrong is worked out for everybody who looks; rules ask for it as often. */
const FOUND_EVERY = 10_000;
/** What is found is looked for in this window, as the drill screens open with. */
export const FOUND_IN = 3 * HOUR;

/** What a rule looks at, and when. */
@Injectable()
export class RuleLooks {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly samples: SamplesService,
    private readonly vitals: VitalsService,
    private readonly endpoints: EndpointsService,
    private readonly clusters: ClustersJudged,
    private readonly owners: OwnersService,
    private readonly grants: GrantsService,
    private readonly usage: UsageService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly measures: MeasureLooks,
    private readonly occurrences: OccurrenceLooks,
    private readonly clock: Clock,
  ) {}

  /** Looks of a rule: one for each cluster, or one for all; those without a moment only say what there is. */
  async *of(rule: Rule): AsyncGenerator<Look> {
    const reach = this.reachOf(rule);
    const narrowed = (look: Look): Look => ({ ...look, subjects: this.selected(rule, reach, look.subjects) });
    const { when } = rule;
    switch (when.is) {
      case 'container memory':
      case 'fewer ready':
        for (const id of this.connections.ids()) yield narrowed(await this.inCluster(rule, id));
        return;
      case 'finding':
        for (const id of this.connections.ids()) yield narrowed(await this.found(rule, reach, id));
        return;
      case 'measure':
      case 'running out':
      case 'unusual':
        yield narrowed(
          await this.measures.look({ rule, condition: when, reach, momentsDue: (every) => this.moments(rule, every) }),
        );
        return;
      case 'not read':
        yield narrowed(this.silent(rule));
        return;
      case 'cluster event':
      case 'object change':
      case 'expected':
        for (const id of this.connections.ids()) yield narrowed(await this.happened({ ...rule, when }, reach, id));
        return;
      case 'itself':
        yield await this.itself(rule);
    }
  }
  /** Objects of one rule with how they stand, whether it is due or not. */
  async *now(rule: Rule): AsyncGenerator<Look> {
    for await (const look of this.of({ ...rule, judgedMs: null })) yield look;
  }
  /** Whether there is anything to judge: what reads a measure is looked at when a moment of its rhythm is due. */
  isDue(rule: Rule): boolean {
    if (!conditionOf(rule.when).lines) return true;
    return this.moments(rule, everyOf(rule)).length > 0;
  }
  /** What a rule may read: its team's, or everything. */
  reachOf({ team }: Pick<Rule, 'team'>): Reach {
    return team === null ? Reach.ofZetopsis() : this.grants.reachOfTeam(team);
  }
  private *selected(rule: Rule, reach: Reach, subjects: Iterable<Subject>): Generator<Subject> {
    for (const subject of subjects) {
      if (this.isLookedAt(rule, subject.path, { reach, chosen: subject.chosen === true })) yield subject;
    }
  }
  /** Whether a rule looks at what stands at a path: within its team's reach, and selected. */
  isLookedAt(
    rule: Pick<Rule, 'team' | 'applies'>,
    path: ObjectPath,
    { reach = this.reachOf(rule), chosen = false }: { readonly reach?: Reach; readonly chosen?: boolean } = {},
  ): boolean {
    if (rule.team !== null && !this.mayLook(rule.team, reach, path)) return false;
    return chosen || this.clusters.selects(rule.applies, path);
  }
  private mayLook(team: string, reach: Reach, path: ObjectPath): boolean {
    const { cluster, namespace } = placeOf(path);
    return (
      this.owners.ownerAt(path)?.key === team ||
      (cluster !== null && namespace === null && reach.whole(cluster)) ||
      (cluster !== null && namespace !== null && reach.reads(cluster, namespace))
    );
  }

  /** Moments of a rule's own rhythm that are due: what was missed included, in order. */
  private moments(rule: Rule, every: DurationMs): EpochMs[] {
    const now = this.clock.now();
    const last = Math.floor(this.endpoints.settledUntil(now) / every) * every;
    return momentsBetween(this.firstOf(rule, now, every), last, every);
  }
  private firstOf(rule: Rule, now: EpochMs, every: DurationMs): EpochMs {
    const holds =
      Math.max(0, ...[rule.levels.warning, rule.levels.critical].map((level) => level?.holdsSeconds ?? 0)) * 1000;
    return Math.max(rule.judgedMs ?? now - holds - 4 * every, now - CATCH_UP);
  }
  /**
   * Measured values are judged once the readings for a moment are due (interval + time-out), in order, what was missed
   * included; a rule that has never judged begins one hold time back. Object states are judged as they are now.
   */
  private momentsIn(rule: Rule, connectionId: string): EpochMs[] {
    const now = this.clock.now();
    const own = rule.judgedSeconds === null ? null : rule.judgedSeconds * 1000;
    if (!conditionOf(rule.when).measured) return own !== null && now - (rule.judgedMs ?? 0) < own ? [] : [now];
    if (!this.endpoints.settled(connectionId)) return [];
    const interval = this.connections.intervalOf(connectionId);
    const every = Math.max(own ?? 0, interval);
    const last = Math.floor((now - interval - timeoutFor(interval)) / every) * every;
    return momentsBetween(this.firstOf(rule, now, every), last, every);
  }

  private async inCluster(rule: Rule, connectionId: string): Promise<Look> {
    const moments = this.momentsIn(rule, connectionId);
    const measured = conditionOf(rule.when).measured;
    const series = measured && moments.length > 0 ? await this.memorySeries(connectionId) : new Map<string, SeriesId>();
    const blind = this.connections.isBlind(connectionId);
    const factor = this.vitals.factorOf(connectionId, MEMORY);
    const view: JudgedCluster = {
      ...this.clusters.of(connectionId),
      blind,
      interval: this.connections.intervalOf(connectionId),
      memoryAt: (podUid: string, container: string, at: EpochMs) => {
        const id = series.get(`${podUid}/${container}`);
        const newest = id === undefined ? null : this.samples.newestAt(id, at);
        return newest && { ...newest, value: newest.value * factor };
      },
    };
    return {
      ...inOne(connectionId),
      moments,
      subjects:
        rule.when.is === 'container memory'
          ? memorySubjects(view, this.clusters.thresholdsOf(rule))
          : readySubjects(view),
      // an object is gone only when the cluster itself says so
      absent: () => (blind ? null : bothLevels({ is: 'gone' })),
    };
  }
  private async found(rule: Rule, reach: Reach, connectionId: string): Promise<Look> {
    const { when } = rule;
    const now = this.clock.now();
    const every = Math.max(FOUND_EVERY, (rule.judgedSeconds ?? 0) * 1000);
    const due = now - (rule.judgedMs ?? 0) >= every;
    const blind = this.connections.isBlind(connectionId);
    const name = this.connections.nameOf(connectionId);
    if (
      !due ||
      blind ||
      when.is !== 'finding' ||
      !reach.touches(name) ||
      this.connections.access(connectionId) === null
    )
      return {
        ...inOne(connectionId),
        moments: [],
        subjects: [],
        absent: () => (blind && due ? bothLevels({ is: 'noData' }) : null),
      };
    const seen = await this.usage.seen(reach, connectionId, this.usage.window(now - FOUND_IN, undefined));
    return {
      ...inOne(connectionId),
      moments: [now],
      subjects: foundSubjects(seen, when.codes),
      // what is not found any more is over
      absent: () => bothLevels({ is: 'breaks' }),
    };
  }
  private silent(rule: Rule): Look {
    const now = this.clock.now();
    const due = now - (rule.judgedMs ?? 0) >= (rule.judgedSeconds ?? 0) * 1000;
    const everything = Reach.ofZetopsis();
    return {
      moments: due ? [now] : [],
      subjects: due ? silentSubjects(this.connections.list(everything), this.endpointAnswers.list(everything)) : [],
      connectionOf: ({ path }) => this.connections.idOf(clusterOf(path) ?? '') ?? null,
      keeps: () => true,
      absent: () => (due ? bothLevels({ is: 'breaks' }) : null),
    };
  }
  /** What happened in a cluster, was heard, or is missing. */
  private async happened(
    rule: Rule & { readonly when: InClusters },
    reach: Reach,
    connectionId: string,
  ): Promise<Look> {
    const now = this.clock.now();
    const due = now - (rule.judgedMs ?? 0) >= Math.max(HAPPENED_EVERY, (rule.judgedSeconds ?? 0) * 1000);
    // what cannot be read is not missing
    const blind = this.connections.isBlind(connectionId, rule.when.is === 'expected' ? rule.when.kinds : []);
    const seen = due && !blind && reach.touches(this.connections.nameOf(connectionId));
    return {
      ...inOne(connectionId),
      moments: seen ? [now] : [],
      subjects: seen ? occurrenceSubjects(await this.occurrences.now(rule, connectionId, now)) : [],
      // what is not so any more is over; of a blind cluster nobody knows
      absent: () => (due ? bothLevels({ is: blind ? 'noData' : 'breaks' }) : null),
    };
  }
  private async itself(rule: Rule): Promise<Look> {
    const now = this.clock.now();
    const due = now - (rule.judgedMs ?? 0) >= Math.max(HAPPENED_EVERY, (rule.judgedSeconds ?? 0) * 1000);
    return {
      moments: due ? [now] : [],
      subjects: due ? occurrenceSubjects(await this.occurrences.ofItself(now)) : [],
      connectionOf: () => null,
      keeps: () => true,
      absent: () => (due ? bothLevels({ is: 'breaks' }) : null),
    };
  }
  /** By pod and container; of two that name the same, the first counts. */
  private async memorySeries(connectionId: string): Promise<ReadonlyMap<string, SeriesId>> {
    const series = new Map<string, SeriesId>();
    await inPieces(this.vitals.select(connectionId, MEMORY), (id) => {
      const container = this.vitals.label({ connectionId, vital: MEMORY, id, role: 'container' });
      const key = `${this.vitals.podUid(connectionId, MEMORY, id)}/${container}`;
      if (!series.has(key)) series.set(key, id);
    });
    return series;
  }
}

const inOne = (connectionId: string): Pick<Look, 'connectionOf' | 'keeps'> => ({
  connectionOf: () => connectionId,
  keeps: (row) => row.connectionId === connectionId,
});
/** After the first, in whole steps. */
function momentsBetween(first: EpochMs, last: EpochMs, every: DurationMs): EpochMs[] {
  const moments: EpochMs[] = [];
  for (let at = Math.floor(first / every) * every + every; at <= last; at += every) moments.push(at);
  return moments;
}
