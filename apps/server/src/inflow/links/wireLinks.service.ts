import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { WireTotals } from '@zetopsis/core/links';
import { MINUTE, SECOND } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { WIRES_SENDER } from '../scraping/plans.ts';
import { ReadingsService } from '../scraping/readings.service.ts';
import { CountedFlows } from './countedFlows.service.ts';
import { LinkSender } from './linkSender.ts';

/** A minute is told so long after its end: what was read in it has come by then. */
const TOLD_AFTER = 30 * SECOND;
const EVERY = 5 * SECOND;

/** Links between workloads by what their machines count, as series: of each minute once it is over. */
@Injectable()
export class WireLinks implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly totals = new WireTotals();
  private toldUpTo = 0;
  private readonly sender: LinkSender;
  private readonly telling = new Repeated(() => this.tell(), EVERY);

  constructor(
    private readonly flows: CountedFlows,
    endpoints: EndpointsService,
    readings: ReadingsService,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    this.sender = new LinkSender(WIRES_SENDER, endpoints, readings);
    figures.onAsked(() => [
      counter({
        name: 'link_flows_left_out',
        help: 'Flows that were in no link, as too many are counted.',
        samples: this.totals.left,
      }),
    ]);
  }
  async onApplicationBootstrap(): Promise<void> {
    await this.sender.begin();
    this.telling.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.telling.stop();
  }

  private async tell(): Promise<void> {
    const now = this.clock.now();
    const until = Math.floor((now - TOLD_AFTER) / MINUTE) * MINUTE;
    if (this.lease.epoch === 0 || until <= this.toldUpTo) return;
    try {
      await this.flows.noteHolders(now);
      this.totals.add(await this.flows.upTo(until));
      // what was counted is in the next page where this one is not taken
      this.toldUpTo = until;
      if (this.totals.size === 0) return;
      await this.sender.tell(this.totals.families(), until);
      this.live.touch('links');
    } catch (error) {
      this.log.failure('linksNotTold', error);
    }
  }
}
