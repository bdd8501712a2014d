import { Injectable } from '@nestjs/common';
import type { CensusAnswer, DropPreview, EndpointAnswer } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { CensusCount } from '@zetopsis/core/coverage';
import { type DropRule, dresser } from '@zetopsis/core/scouting';
import { firstOf } from '@zetopsis/core/steps';
import { DAY } from '@zetopsis/core/units';
import { VITAL_LABELS } from '@zetopsis/core/vitals';
import { inPieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { HistoryService } from '../../inflow/scraping/history.service.ts';
import { KnownEndpoints } from '../../inflow/scraping/knownEndpoints.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { StoreLimits } from '../../keeping/store/storeLimits.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { AROUND, MOST_COUNTED, nameOf } from './endpointWords.ts';

/** Who holds how many series, and what a drop rule would leave out of them. */
@Injectable()
export class CensusService {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly history: HistoryService,
    private readonly numbers: SeriesNumbers,
    private readonly limits: StoreLimits,
    private readonly owners: OwnersService,
    private readonly clock: Clock,
  ) {}

  /** Of those whose name `find` is part of; sums are of all. */
  async census(reach: Reach, find: string): Promise<CensusAnswer> {
    const endpoints = new Map(this.endpointAnswers.list(reach).map((endpoint) => [endpoint.id, endpoint]));
    const count = new CensusCount();
    const teams = new Map<string, number>();
    const keys = new Map(this.owners.teams().map(({ key, name }) => [key, name]));
    await inPieces(this.visible(reach, endpoints), (one) => {
      if (one === null) return;
      count.add(one);
      const team = keys.get(this.numbers.teamOf(one.endpoint, one.namespace) ?? '');
      if (team !== undefined) teams.set(team, (teams.get(team) ?? 0) + 1);
    });
    const census = await yieldedInPieces(count.census(MOST_COUNTED, find));
    const before = await this.history.around(this.clock.now() - DAY, AROUND);
    const grown = (id: number, series: number) => {
      const then = before.get(id)?.series ?? null;
      return then === null ? null : series - then;
    };
    const own = [...census.endpoints].map(([id, series]) => ({
      id,
      name: endpoints.has(id) ? nameOf(endpoints.get(id)!) : 'one that is gone', // looked at before
      series,
      grown: grown(id, series),
    }));
    const wanted = (name: string) => name.toLowerCase().includes(find.toLowerCase());
    const known = own.map((one) => one.grown).filter((one) => one !== null);
    return {
      series: census.series,
      limit: this.limits.series.inAll,
      grown: known.length === 0 ? null : known.reduce((sum, one) => sum + one, 0),
      metrics: [...census.metrics],
      labels: [...census.labels],
      endpoints: own
        .filter(({ name }) => wanted(name))
        .sort((a, b) => b.series - a.series)
        .slice(0, MOST_COUNTED),
      teams: [...teams]
        .filter(([name]) => wanted(name))
        .map(([name, series]) => ({ name, series }))
        .sort((a, b) => b.series - a.series),
    };
  }
  /** Null for each that is not shown. */
  private *visible(reach: Reach, endpoints: ReadonlyMap<number, EndpointAnswer>) {
    const whole = new Map<number, boolean>();
    for (const { id, endpoint, metric } of this.numbers.table.all()) {
      const namespace = this.numbers.table.label(id, VITAL_LABELS.namespace);
      const connection = this.knownEndpoints.connectionOf.get(endpoint);
      const cluster = connection === undefined ? null : this.connections.nameOf(connection);
      let all = whole.get(endpoint);
      if (all === undefined) {
        all = cluster === null ? reach.mayEverywhere('read') : reach.whole(cluster);
        whole.set(endpoint, all);
      }
      if (!all) {
        if (cluster === null || namespace === '' || !reach.reads(cluster, namespace) || !endpoints.has(endpoint)) {
          // who sees little walks past as many as who sees all, and lets others in as often
          yield null;
          continue;
        }
      }
      yield { endpoint, metric, namespace, labels: this.numbers.table.labels(id) };
    }
  }

  /** What a drop rule would leave out, were it set. */
  async dropPreview(reach: Reach, endpoint: number | null, rule: DropRule): Promise<DropPreview> {
    const dressing = dresser({ attach: {}, drop: [rule] });
    const endpoints = new Map(this.endpointAnswers.list(reach).map((one) => [one.id, one]));
    const metrics = new Map<string, number>();
    const examples: string[] = [];
    let series = 0;
    await inPieces(this.visible(reach, endpoints), (one) => {
      if (one === null || (endpoint !== null && one.endpoint !== endpoint)) return;
      if (dressing(one.metric, one.labels) !== null) return;
      series++;
      metrics.set(one.metric, (metrics.get(one.metric) ?? 0) + 1);
      if (examples.length < 5)
        examples.push([one.metric, ...one.labels.map(([name, value]) => `${name} ${value}`)].join(' · '));
    });
    const most = await yieldedInPieces(firstOf(metrics, MOST_COUNTED, ([, a], [, b]) => b - a));
    return {
      series,
      metrics: most.map(([name, count]) => ({ name, series: count })),
      examples,
    };
  }
}
