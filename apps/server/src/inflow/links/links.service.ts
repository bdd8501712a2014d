import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { LinkFolder, type LinkRequest, LinkTotals } from '@zetopsis/core/links';
import type { Origin } from '@zetopsis/core/origins';
import type { Span } from '@zetopsis/core/spans';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LiveService } from '../../ground/live/live.service.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, gauge, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { LINKS_SENDER } from '../scraping/plans.ts';
import { ReadingsService } from '../scraping/readings.service.ts';
import { LinkEnds } from './linkEnds.service.ts';
import { LinkSender } from './linkSender.ts';

/** A minute is told so long after its end: what ended in it has come by then. */
const TOLD_AFTER = 30 * SECOND;
const EVERY = 5 * SECOND;
/** So long after the last span nothing more is waited for; longer where its sender was behind. */
const WAITS = { even: MINUTE, behind: 10 * MINUTE } as const;
const BEHIND = 3 * MINUTE;
/** What is told later than that is told with the oldest minute that the store still takes. */
const OLDEST = 58 * MINUTE;
/** What comes later than that is in no link: it would make now what was not. */
const LATE = 5 * MINUTE;

/** Links between workloads, as series: of each minute once it is over, worked out from spans of both ends. */
@Injectable()
export class LinksService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly folder: LinkFolder;
  private readonly totals = new LinkTotals();
  /** The end of the last minute that was told. */
  private toldUpTo = 0;
  private folded = 0;
  private late = 0;
  private readonly sender: LinkSender;
  /** Folded, and in no total yet. */
  private untold: readonly LinkRequest[] = [];
  private readonly telling = new Repeated(() => this.tell(), EVERY);

  constructor(
    private readonly ends: LinkEnds,
    endpoints: EndpointsService,
    readings: ReadingsService,
    private readonly lease: LeaseService,
    private readonly live: LiveService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    this.sender = new LinkSender(LINKS_SENDER, endpoints, readings);
    this.folder = new LinkFolder({ named: (whom, from) => ends.named(whom, from) });
    figures.onAsked(() => [
      counter({ name: 'link_requests_folded', help: 'Requests that were put into links.', samples: this.folded }),
      counter({ name: 'link_requests_late', help: 'Requests that came too late for their link.', samples: this.late }),
      gauge({ name: 'links', help: 'Links, by side, since the start.', samples: this.totals.size }),
      counter({
        name: 'link_spans_let_go',
        help: 'Spans that were let go before their other end came.',
        samples: this.folder.overflowed,
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

  /** The end of the last minute that is told; 0 before there is one. */
  get upTo(): EpochMs {
    return this.toldUpTo;
  }
  add(origin: Origin, spans: readonly Span[]): void {
    this.folder.add(this.ends.of(origin), spans, this.clock.now());
  }

  /** The minutes that are over, in their order. */
  private async tell(): Promise<void> {
    if (this.lease.epoch === 0) return;
    const now = this.clock.now();
    const { newest } = this.folder;
    // who sends what was before catches up: nothing is told that is not there yet
    const upTo = newest === null || isOver(newest, now) ? now : Math.min(now, newest.endedAt);
    const until = Math.floor((upTo - TOLD_AFTER) / MINUTE) * MINUTE;
    // what the store takes no more is told with the first minute that it does
    const earliest = Math.max(this.toldUpTo, Math.floor((now - OLDEST) / MINUTE) * MINUTE);
    if (until <= earliest) return;
    try {
      const requests = await yieldedInPieces(this.folder.foldBySteps(until, now));
      // before anything came nothing is told: what was before may come yet
      if (this.totals.size === 0 && requests.length === 0) return;
      this.folded += requests.length;
      const inTime = requests.filter(({ minute }) => minute >= earliest - LATE);
      this.late += requests.length - inTime.length;
      const minutes = [...byMinute([...this.untold, ...inTime], earliest)];
      this.untold = [];
      for (const [i, [minute, own]] of minutes.entries()) {
        for (const request of own) this.totals.add(request, minute);
        try {
          // what came late goes with the minute that is told now
          if (minute + MINUTE <= until) await this.write(minute + MINUTE);
        } catch (error) {
          this.untold = minutes.slice(i + 1).flatMap(([, later]) => later);
          throw error;
        }
      }
      if (this.toldUpTo < until) await this.write(until);
    } catch (error) {
      this.log.failure('linksNotTold', error);
    }
  }
  /** What is not taken is in the next one: totals are of all that came. */
  private async write(at: EpochMs): Promise<void> {
    if (this.totals.size === 0 || at <= this.toldUpTo) return;
    await this.sender.tell(this.totals.families(at), at);
    this.toldUpTo = at;
    this.live.touch('links');
  }
}
/** Whether nothing more of what was before is waited for. */
const isOver = ({ endedAt, cameAt }: { readonly endedAt: EpochMs; readonly cameAt: EpochMs }, now: EpochMs): boolean =>
  now - cameAt > (cameAt - endedAt > BEHIND ? WAITS.behind : WAITS.even);
/** Of each minute, the earliest first; those before `earliest` count with the first one after it. */
function byMinute(requests: readonly LinkRequest[], earliest: EpochMs): Map<EpochMs, LinkRequest[]> {
  const minutes = new Map<EpochMs, LinkRequest[]>();
  for (const request of requests) {
    const minute = Math.max(request.minute, earliest);
    const own = minutes.get(minute) ?? [];
    own.push(request);
    minutes.set(minute, own);
  }
  return new Map([...minutes].sort(([a], [b]) => a - b));
}
