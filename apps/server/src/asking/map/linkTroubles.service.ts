import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { troubledLinks, wholeHour } from '@zetopsis/answers/map';
import { Reach } from '@zetopsis/core/access';
import type { TroubledLink } from '@zetopsis/core/findings';
import { birthsOf, LINK_METRICS, pairKey, type ToldLink } from '@zetopsis/core/links';
import { MINUTE, SECOND, type SeriesId } from '@zetopsis/core/units';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinksService } from '../../inflow/links/links.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { FoundLinks } from '../usage/foundLinks.ts';
import { LinksReading } from './linksReading.service.ts';
import { MapService } from './map.service.ts';

const LOOK_EVERY = 5 * SECOND;
/** A minute is told by then. */
const TOLD_AFTER = 45 * SECOND;

/** Looks for links in trouble once a minute has been told. */
@Injectable()
export class LinkTroubles implements OnApplicationBootstrap, OnApplicationShutdown {
  private lookedAt = '';
  private goneUpTo = 0;
  private troubled: readonly TroubledLink[] = [];
  /** When each series of a link was told first. */
  private readonly known = new Map<SeriesId, ToldLink>();
  private readonly looking = new Repeated(() => this.look(), LOOK_EVERY);

  constructor(
    private readonly links: LinksService,
    private readonly map: MapService,
    private readonly reading: LinksReading,
    private readonly found: FoundLinks,
    private readonly samples: SamplesService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
  }

  /** Of series that came since: which pairs they are of, and when they were told first. */
  private async lookForNew(): Promise<void> {
    const fresh = [LINK_METRICS.requests, LINK_METRICS.bytes].flatMap((by) =>
      this.samples.select(`${by}_total`).flatMap((id) => (this.known.has(id) ? [] : [{ id, by }])),
    );
    if (fresh.length === 0) return;
    const born = await this.samples.bornOf(fresh.map(({ id }) => id));
    await inPieces(fresh, ({ id, by }) => {
      const at = born.get(id);
      if (at === undefined) return;
      const [from, to] = (['from', 'to'] as const).map((side) => ({
        cluster: this.samples.label(id, `${side}_cluster`),
        namespace: this.samples.label(id, `${side}_namespace`),
        workload: this.samples.label(id, `${side}_workload`),
      }));
      this.known.set(id, { from: from!, to: to!, at, by }); // one of each side
    });
    this.found.setNew(birthsOf(this.known.values()));
  }
  private async lookForGone(): Promise<void> {
    const hour = wholeHour(this.clock.now() - TOLD_AFTER);
    if (hour === this.goneUpTo) return;
    this.goneUpTo = hour;
    this.found.setGone(await this.reading.goneBy(hour));
  }
  private async look(): Promise<void> {
    const minute = Math.floor((this.clock.now() - TOLD_AFTER) / MINUTE);
    const told = `${minute} ${this.links.upTo}`;
    if (told === this.lookedAt) return;
    try {
      await this.lookForNew();
      const answer = await this.map.answer(Reach.ofZetopsis(), null);
      // whoever is not heard any more is no better for it
      const blind = new Set(
        answer.links.flatMap((one) => (one.blindSince !== null && one.state === null ? [one.key] : [])),
      );
      this.troubled = [...troubledLinks(answer), ...this.troubled.filter((one) => blind.has(pairKey(one)))];
      this.found.set(this.troubled);
      this.lookedAt = told;
      await this.lookForGone();
    } catch (error) {
      this.log.failure('linksNotJudged', error);
    }
  }
}
