import { Injectable } from '@nestjs/common';
import { blindSpots, blindThen, needsOf, runningOutSoon } from '@zetopsis/answers/now';
import {
  clusterOf,
  EVERYTHING,
  type NowAnswer,
  type ObjectPath,
  readPath,
  type ScopeQuery,
  touches,
  type WindowQuery,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { EndpointAnswersService } from '../../inflow/scraping/endpointAnswers.service.ts';
import { EndpointsService } from '../../inflow/scraping/endpoints.service.ts';
import { AlertsService } from '../../keeping/alerts/alerts.service.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { RunningOutService } from '../usage/runningOut.service.ts';
import { UsageService } from '../usage/usage.service.ts';
import { OwnStates } from './ownState.service.ts';

/** What needs somebody now, gathered from every capability. */
@Injectable()
export class NowService {
  constructor(
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
    private readonly endpoints: EndpointsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly alerts: AlertsService,
    private readonly owners: OwnersService,
    private readonly outbox: OutboxService,
    private readonly runningOut: RunningOutService,
    private readonly ownStates: OwnStates,
  ) {}

  async answer({
    reach,
    scope,
    query,
    shift,
  }: {
    readonly reach: Reach;
    readonly scope: ScopeQuery;
    readonly query: WindowQuery;
    readonly shift: number | undefined;
  }): Promise<NowAnswer> {
    const window = this.usage.window(query.from, query.to);
    const against = this.usage.against(window, shift);
    // a team's share of a cluster is chosen in Usage; here its cluster is looked at
    const path: ObjectPath = scope.in.is === 'team' ? { is: 'cluster', cluster: scope.in.cluster } : scope.in;
    const ids = this.usage.idsIn(reach, scope);
    const names = new Set(ids.map((id) => this.connections.nameOf(id)));
    const [clusters, open, within] = await Promise.all([
      Promise.all(
        ids.map(async (id) => ({
          usage: await this.usage.seen(reach, id, window),
          other: against && (await this.usage.seen(reach, id, against)),
        })),
      ),
      // at a past moment, what was raised then
      window.live ? this.alerts.open(reach) : this.alerts.within({ reach, from: window.to, to: window.to }),
      this.alerts.within({ reach, from: window.from, to: window.to }),
    ]);
    const ownerAt = (place: ObjectPath) => this.owners.ownerAt(place)?.name ?? null;
    const endpoints = this.endpointAnswers.list(reach);
    const live = endpoints.filter(({ state }) => state !== 'retired' && state !== 'paused');
    return {
      at: window.to,
      alerts: open.filter((alert) => {
        const place = readPath(alert.path);
        if (place === null || !touches(place, path)) return false;
        // what stands in no cluster is nobody's narrower scope
        return place.is === 'everything' ? path.is === 'everything' : names.has(clusterOf(place) ?? '');
      }),
      ...(await yieldedInPieces(needsOf({ clusters, path, window, alerts: within, ownerAt }))),
      runningOut: window.live
        ? runningOutSoon({
            clusters: clusters.map(({ usage }) => usage),
            path,
            linesOf: (id) => this.runningOut.linesOf(id),
            ownerAt,
          })
        : null,
      blind: window.live
        ? blindSpots({
            connections: this.connections.list(reach),
            endpoints,
            own: this.ownStates.now(),
            dead: await this.outbox.dead(reach.mayEverywhere('read') ? null : within.map(({ id }) => id)),
          })
        : blindThen(await this.endpoints.gaps(ids, window.to, window.to), window.to),
      connections: this.usage.idsIn(reach, { in: EVERYTHING }).length,
      endpoints: { read: live.filter(({ state }) => state === 'read').length, all: live.length },
    };
  }
}
