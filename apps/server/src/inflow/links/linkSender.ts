import { type FamilyOut, writePageBySteps } from '@zetopsis/core/exposition';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import type { EndpointsService } from '../scraping/endpoints.service.ts';
import { linksPlan } from '../scraping/plans.ts';
import type { ReadingsService } from '../scraping/readings.service.ts';
import { writtenPage } from '../scraping/writtenPage.ts';

/** Tells pages of links as one of the sources, which it is among once there is something to tell. */
export class LinkSender {
  private known = false;

  constructor(
    private readonly name: string,
    private readonly endpoints: EndpointsService,
    private readonly readings: ReadingsService,
  ) {}

  /** Where it was one of them before. */
  async begin(): Promise<void> {
    if ((await this.endpoints.namesInUse('pushed')).includes(this.name)) await this.know();
  }
  /** The number under which its pages are kept. */
  async place(): Promise<number> {
    await this.know();
    const plan = this.endpoints.plans().find(({ kind, name }) => kind === 'pushed' && name === this.name);
    if (!plan) throw new Error('The links have no place among the sources.');
    return plan.id;
  }
  /** Throws where the page was not taken. */
  async tell(families: readonly FamilyOut[], at: EpochMs): Promise<void> {
    await this.know();
    const text = await yieldedInPieces(writePageBySteps(families));
    const pushed = await this.readings.push(this.name, at, (memory) =>
      writtenPage(text, this.readings.pageLimits, memory),
    );
    if (!pushed) {
      this.known = false;
      throw new Error('The links have no place among the sources.');
    }
    if (!pushed.result.ok) throw new Error(pushed.result.reason);
  }
  private async know(): Promise<void> {
    if (this.known) return;
    const isOwn = ({ plan }: { readonly plan: { readonly kind: string; readonly name: string } }) =>
      plan.kind === 'pushed' && plan.name === this.name;
    await this.endpoints.match(isOwn, [linksPlan(MINUTE, this.name)]);
    this.known = true;
  }
}
