import { Injectable } from '@nestjs/common';
import {
  endingsOf,
  fivesOfDay,
  fivesUpTo,
  hoursOfFortnight,
  hoursOfLast,
  lastHeard,
  minutesOfHour,
  minutesUpTo,
  NO_USUAL,
  type ReadDay,
  type ReadLine,
  type ReadLinks,
  type ReadUsual,
  wholeHour,
} from '@zetopsis/answers/map';
import { Reach } from '@zetopsis/core/access';
import { LINK_METRICS, type LinkBirth } from '@zetopsis/core/links';
import { type EpochMs, HOUR, MINUTE, SECOND } from '@zetopsis/core/units';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { HeldWork } from '../../ground/platform/heldWork.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { MeasuresService } from '../measures/measures.service.ts';

const PAIR = 'from_cluster, from_namespace, from_workload, to_cluster, to_namespace, to_workload';
const bySide = (metric: string, step = '') => `read ${metric}_total\n${step}  total for each ${PAIR}, seen_by\n`;
const counted = (metric: string) => `read ${metric}_total\n  total for each ${PAIR}, protocol, seen_by\n`;
const TEXTS = {
  requests: counted(LINK_METRICS.requests),
  failures: counted(LINK_METRICS.failures),
  refused: counted(LINK_METRICS.refused),
  p95: `read ${LINK_METRICS.nearlyAll}\n`,
  own: `read ${LINK_METRICS.own}_total\n  growth over 5m\n  total for each ${PAIR}\n`,
  spent: `read ${LINK_METRICS.duration}_sum\n  where seen_by is "answerer"\n  treat as counter\n  growth over 5m\n  total for each ${PAIR}\n`,
  seen: `read ${LINK_METRICS.seen}_total\n  growth over 5m\n  total for each ${PAIR}, seen_by\n`,
  bytes: bySide(LINK_METRICS.bytes),
  connections: `read ${LINK_METRICS.connections}\n  total for each ${PAIR}\n`,
  uncertain: `read ${LINK_METRICS.uncertain}_total\n  growth over 5m\n  total for each ${PAIR}\n`,
} as const;
const usualOf = (metric: string) =>
  `read ${metric}_total\n  where seen_by is "caller"\n  per second over 5m\n  total for each ${PAIR}\n  usual from 14d\n`;
const USUAL_TEXTS = {
  requests: usualOf(LINK_METRICS.requests),
  failures: usualOf(LINK_METRICS.failures),
  refused: usualOf(LINK_METRICS.refused),
  p95: `read ${LINK_METRICS.nearlyAll}\n  where seen_by is "caller"\n  usual from 14d\n`,
  bytes: `read ${LINK_METRICS.bytes}_total\n  per second over 5m\n  total for each ${PAIR}\n  usual from 14d\n`,
} as const;
const GROWTH = '  growth over 5m\n';
const DAY_TEXTS = {
  requests: bySide(LINK_METRICS.requests, GROWTH),
  bytes: bySide(LINK_METRICS.bytes, GROWTH),
} as const;
const BY_HOUR = '  growth over 1h\n';
const FORTNIGHT_TEXTS = {
  requests: bySide(LINK_METRICS.requests, BY_HOUR),
  bytes: bySide(LINK_METRICS.bytes, BY_HOUR),
} as const;
const MINUTE_TEXTS = { requests: bySide(LINK_METRICS.requests), bytes: bySide(LINK_METRICS.bytes) } as const;
/** What is usual at an hour is looked up once for so long. */
const USUAL_HOLDS = 10 * MINUTE;
const HELD = 20 * SECOND;
/** What is over stays as it is, but for what comes late. */
const PAST_HELD = HOUR / 4;

/** What is known of all links at a moment, as it was counted: whoever may see which part of it. */
@Injectable()
export class LinksReading {
  private readonly read = new HeldWork<EpochMs, ReadLinks>('links', { max: 20, holds: HELD });
  private readonly usual = new HeldWork<EpochMs, ReadUsual>('usual of links', { max: 20, holds: USUAL_HOLDS });
  private readonly fives = new HeldWork<EpochMs, Omit<ReadDay, 'hours'>>('day of links', { max: 4, holds: PAST_HELD });
  private readonly heard = new HeldWork<EpochMs, ReadonlyMap<string, EpochMs>>('last of links', {
    max: 60,
    holds: PAST_HELD,
  });

  constructor(
    private readonly measures: MeasuresService,
    private readonly log: ServerLog,
  ) {}

  at(at: EpochMs): Promise<ReadLinks> {
    return this.read.get(at, () => this.readAt(at));
  }
  private async readAt(at: EpochMs): Promise<ReadLinks> {
    const minutes = minutesUpTo(at);
    const fives = fivesUpTo(at);
    const last = fives.subarray(-1);
    const [requests, failures, refused, p95, own, spent, seen, bytes, connections, uncertain, usual] =
      await Promise.all([
        this.lines(TEXTS.requests, minutes),
        this.lines(TEXTS.failures, minutes),
        this.lines(TEXTS.refused, minutes),
        this.lines(TEXTS.p95, fives),
        this.lines(TEXTS.own, last),
        this.lines(TEXTS.spent, last),
        this.lines(TEXTS.seen, last),
        this.lines(TEXTS.bytes, minutes),
        this.lines(TEXTS.connections, last),
        this.lines(TEXTS.uncertain, last),
        this.usualAt(Math.floor(at / USUAL_HOLDS) * USUAL_HOLDS),
      ]);
    const day = await this.dayBefore(at, [...requests, ...bytes]);
    return { at, requests, failures, refused, p95, own, spent, seen, bytes, connections, uncertain, usual, day };
  }
  /** Pairs that are gone by a whole hour. */
  async goneBy(upTo: EpochMs): Promise<LinkBirth[]> {
    const times = hoursOfFortnight(upTo);
    const [requests, bytes] = [
      await this.lines(FORTNIGHT_TEXTS.requests, times),
      await this.lines(FORTNIGHT_TEXTS.bytes, times),
    ];
    const read = { upTo, requests, bytes };
    const hours = new Map<EpochMs, ReadonlyMap<string, EpochMs>>();
    for (const { at } of await yieldedInPieces(endingsOf(read, hours)))
      if (!hours.has(at)) hours.set(at, await this.heard.get(at, () => this.heardIn(at)));
    return yieldedInPieces(endingsOf(read, hours));
  }
  /** With the minutes in which those were heard last that are not heard now. */
  private async dayBefore(at: EpochMs, now: readonly ReadLine[]): Promise<ReadDay | null> {
    try {
      const upTo = wholeHour(at);
      const fives = await this.fives.get(upTo, async () => {
        const times = fivesOfDay(upTo);
        const [requests, bytes] = await Promise.all([
          this.lines(DAY_TEXTS.requests, times),
          this.lines(DAY_TEXTS.bytes, times),
        ]);
        return { upTo, requests, bytes };
      });
      const hours = new Map<EpochMs, ReadonlyMap<string, EpochMs>>();
      for (const end of await yieldedInPieces(hoursOfLast(fives, now)))
        hours.set(end, await this.heard.get(end, () => this.heardIn(end)));
      return { ...fives, hours };
    } catch (error) {
      if (error instanceof AskerLeft) throw error;
      // what began within the hour is told all the same
      this.log.failure('dayOfLinksNotRead', error);
      return null;
    }
  }
  private async heardIn(end: EpochMs): Promise<ReadonlyMap<string, EpochMs>> {
    const times = minutesOfHour(end);
    const [requests, bytes] = await Promise.all([
      this.lines(MINUTE_TEXTS.requests, times),
      this.lines(MINUTE_TEXTS.bytes, times),
    ]);
    return yieldedInPieces(lastHeard([...requests, ...bytes], end));
  }
  private async lines(text: string, times: Float64Array): Promise<ReadLine[]> {
    return (await this.told(text, times)).map(valuesOf);
  }
  private async told(text: string, times: Float64Array) {
    // what each may see of it is chosen from this
    return (await this.measures.lines({ reach: Reach.ofZetopsis(), person: null }, text, times)).lines;
  }
  private usualAt(at: EpochMs): Promise<ReadUsual> {
    return this.usual.get(at, async () => {
      try {
        const times = Float64Array.of(at);
        const [requests, failures, refused, p95, bytes] = await Promise.all([
          this.told(USUAL_TEXTS.requests, times),
          this.told(USUAL_TEXTS.failures, times),
          this.told(USUAL_TEXTS.refused, times),
          this.told(USUAL_TEXTS.p95, times),
          this.told(USUAL_TEXTS.bytes, times),
        ]);
        const high = (lines: typeof requests): ReadLine[] =>
          lines.map(({ labels, values, band }) => valuesOf({ labels, values: band?.high ?? values }));
        return {
          requests: high(requests),
          typical: requests.map(valuesOf),
          failures: high(failures),
          refused: high(refused),
          p95: high(p95),
          bytes: high(bytes),
        };
      } catch (error) {
        // what is the matter now is told all the same, against the time before
        this.log.failure('usualOfLinksNotRead', error);
        return NO_USUAL;
      }
    });
  }
}
const valuesOf = ({
  labels,
  values,
}: {
  readonly labels: Readonly<Record<string, string>>;
  readonly values: ArrayLike<number>;
}): ReadLine => ({ labels, values: Float64Array.from(values) });
