import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { writePageBySteps } from '@zetopsis/core/exposition';
import { WireTotals } from '@zetopsis/core/links';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { linksPlan, WIRES_SENDER } from '../scraping/plans.ts';
import { ReadingsService } from '../scraping/readings.service.ts';
import { writtenPage } from '../scraping/writtenPage.ts';
import { CountedFlows } from './countedFlows.service.ts';

/** A minute is told so long after its end: what was read in it has come by then. */
const TOLD_AFTER = 30 * SECOND;
const EVERY = 5 * SECOND;

/** Links between workloads by what their machines count, as series: of each minute once it is over. */
@Injectable()
export class WireLinks implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly totals = new WireTotals();
  private toldUpTo = 0;
  private known = false;
  private readonly telling = new Repeated(() => this.tell(), EVERY);

  constructor(
    private readonly flows: CountedFlows,
    private readonly endpoints: EndpointsService,
    private readonly readings: ReadingsService,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => [
      counter({
        name: 'link_flows_left_out',
        help: 'Flows that were in no link, as too many are counted.',
        samples: this.totals.left,
      }),
    ]);
  }
  async onApplicationBootstrap(): Promise<void> {
    if ((await this.endpoints.namesInUse('pushed')).includes(WIRES_SENDER)) await this.know();
    this.telling.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.telling.stop();
  }

  /** It is among the sources once there is something to tell. */
  private async know(): Promise<void> {
    if (this.known) return;
    await this.endpoints.match(
      ({ plan }) => plan.kind === 'pushed' && plan.name === WIRES_SENDER,
      [linksPlan(MINUTE, WIRES_SENDER)],
    );
    this.known = true;
  }
  private async tell(): Promise<void> {
    const until = Math.floor((this.clock.now() - TOLD_AFTER) / MINUTE) * MINUTE;
    if (this.lease.epoch === 0 || until <= this.toldUpTo) return;
    try {
      this.totals.add(await this.flows.upTo(until));
      // what was counted is in the next page where this one is not taken
      this.toldUpTo = until;
      if (this.totals.size > 0) await this.write(until);
    } catch (error) {
      this.log.failure('linksNotTold', error);
    }
  }
  private async write(at: EpochMs): Promise<void> {
    await this.know();
    const text = await yieldedInPieces(writePageBySteps(this.totals.families()));
    const pushed = await this.readings.push(WIRES_SENDER, at, (memory) =>
      writtenPage(text, this.readings.pageLimits, memory),
    );
    if (!pushed) {
      this.known = false;
      throw new Error('The links by address have no place among the sources.');
    }
    if (!pushed.result.ok) throw new Error(pushed.result.reason);
    this.live.touch('links');
  }
}
