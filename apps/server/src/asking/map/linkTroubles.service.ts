import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { troubledLinks } from '@zetopsis/answers/map';
import { Reach } from '@zetopsis/core/access';
import { MINUTE, SECOND } from '@zetopsis/core/units';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinksService } from '../../inflow/links/links.service.ts';
import { FoundLinks } from '../usage/foundLinks.ts';
import { MapService } from './map.service.ts';

const LOOK_EVERY = 5 * SECOND;
/** A minute is told by then. */
const TOLD_AFTER = 45 * SECOND;

/** Looks for links in trouble once a minute has been told. */
@Injectable()
export class LinkTroubles implements OnApplicationBootstrap, OnApplicationShutdown {
  private lookedAt = '';
  private readonly looking = new Repeated(() => this.look(), LOOK_EVERY);

  constructor(
    private readonly links: LinksService,
    private readonly map: MapService,
    private readonly found: FoundLinks,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {}

  onApplicationBootstrap(): void {
    this.looking.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.looking.stop();
  }

  private async look(): Promise<void> {
    const minute = Math.floor((this.clock.now() - TOLD_AFTER) / MINUTE);
    const told = `${minute} ${this.links.upTo}`;
    if (told === this.lookedAt) return;
    try {
      this.found.set(troubledLinks(await this.map.answer(Reach.ofZetopsis(), null)));
      this.lookedAt = told;
    } catch (error) {
      this.log.failure('linksNotJudged', error);
    }
  }
}
