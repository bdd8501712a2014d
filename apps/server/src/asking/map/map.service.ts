import { Injectable } from '@nestjs/common';
import { type BoxState, boxStatesBySteps, mapBySteps, mapDifference, withStates } from '@zetopsis/answers/map';
import type { Window } from '@zetopsis/answers/usage';
import type { MapAnswer, WindowQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { LinkEnd } from '@zetopsis/core/links';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { LinksService } from '../../inflow/links/links.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { UsageService } from '../usage/usage.service.ts';
import { LinksReading } from './linksReading.service.ts';
import { TracedLinksService } from './tracedLinks.service.ts';

/** What is told of a minute comes so long after its end. */
const TOLD_AFTER = 40 * SECOND;

/** Who talks to whom at a moment, as far as somebody may see it. */
@Injectable()
export class MapService {
  constructor(
    private readonly links: LinksService,
    private readonly reading: LinksReading,
    private readonly owners: OwnersService,
    private readonly usage: UsageService,
    private readonly connections: ConnectionsService,
    private readonly traced: TracedLinksService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  /** Beside what it was `shift` ms earlier; null: beside nothing. */
  async compared(reach: Reach, { from, to }: WindowQuery, shift: number | null): Promise<MapAnswer> {
    const answer = await this.withPeople(
      await this.withStates(reach, await this.answer(reach, to ?? null), this.usage.window(from, to)),
    );
    // later than now there is nothing to compare with
    if (shift === null || answer.at - shift > this.clock.now()) return answer;
    return mapDifference(answer, await this.answer(reach, answer.at - shift));
  }
  /** With the share of what people started that goes over links in trouble. */
  private async withPeople(answer: MapAnswer): Promise<MapAnswer> {
    if (answer.trouble.length === 0) return answer;
    try {
      const shareOf = await this.traced.people(answer.at);
      const trouble = answer.trouble.map((one) => ({ ...one, people: shareOf(one.link) }));
      return { ...answer, trouble };
    } catch (error) {
      // what is the matter is told all the same
      if (error instanceof AskerLeft) throw error;
      this.log.failure('tracesOfLinksNotRead', error);
      return answer;
    }
  }
  /** With how its workloads stood over the window. */
  private async withStates(reach: Reach, answer: MapAnswer, window: Window): Promise<MapAnswer> {
    const states = new Map<string, BoxState>();
    for (const cluster of new Set(answer.boxes.map((box) => box.cluster))) {
      const id = cluster === '' ? undefined : this.connections.idOf(cluster);
      if (id === undefined || !reach.touches(cluster)) continue;
      try {
        const usage = await this.usage.seen(reach, id, window);
        for (const [key, state] of await yieldedInPieces(boxStatesBySteps(usage, window.to))) states.set(key, state);
      } catch (error) {
        // who talks to whom is told all the same
        if (!(error instanceof Refusal)) throw error;
      }
    }
    return withStates(answer, states);
  }
  /** `to`: null for now. */
  async answer(reach: Reach, to: EpochMs | null): Promise<MapAnswer> {
    const now = this.clock.now();
    const asked = Math.min(to ?? now, now - TOLD_AFTER);
    // who sends what was before catches up: what is not told yet is not looked at
    const told = to === null && this.links.upTo > 0 ? this.links.upTo : Number.POSITIVE_INFINITY;
    const at = Math.floor(Math.min(asked, told) / MINUTE) * MINUTE;
    const read = await this.reading.at(at);
    const steps = mapBySteps(read, {
      sees: ({ cluster, namespace }) =>
        cluster === '' ? reach.mayEverywhere('read') : reach.reads(cluster, namespace),
      teamOf: (end) => this.teamOf(end),
    });
    const answer = await yieldedInPieces(steps);
    if (answer.links.length > 0) return answer;
    return {
      ...answer,
      nothing:
        read.requests.length > 0
          ? 'No link that you may see carried anything within the hour.'
          : 'No program tells whom it calls: links are worked out of spans that are pushed (Sources, Push keys). A minute is told half a minute after its end.',
    };
  }
  private teamOf({ cluster, namespace }: LinkEnd): string | null {
    return namespace === '' ? null : (this.owners.ownerOf(cluster, namespace)?.name ?? null);
  }
}
