import { Injectable } from '@nestjs/common';
import { fivesUpTo, mapBySteps, minutesUpTo, type ReadLine, type ReadLinks } from '@zetopsis/answers/map';
import type { MapAnswer } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { LINK_METRICS, type LinkEnd } from '@zetopsis/core/links';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinksService } from '../../inflow/links/links.service.ts';
import { MeasuresService } from '../measures/measures.service.ts';
import { OwnersService } from '../owners/owners.service.ts';

const PAIR = 'from_cluster, from_namespace, from_workload, to_cluster, to_namespace, to_workload';
const counted = (metric: string) => `read ${metric}_total\n  total for each ${PAIR}, protocol, seen_by\n`;
const TEXTS = {
  requests: counted(LINK_METRICS.requests),
  failures: counted(LINK_METRICS.failures),
  refused: counted(LINK_METRICS.refused),
  p95: `read ${LINK_METRICS.duration}\n  growth over 5m\n  percentile 95 of buckets for each ${PAIR}, seen_by\n`,
  own: `read ${LINK_METRICS.own}_total\n  growth over 5m\n  total for each ${PAIR}\n`,
  spent: `read ${LINK_METRICS.duration}_sum\n  where seen_by is "answerer"\n  treat as counter\n  growth over 5m\n  total for each ${PAIR}\n`,
  usual: `read ${LINK_METRICS.requests}_total\n  where seen_by is "caller"\n  per second over 5m\n  total for each ${PAIR}\n  usual from 14d\n`,
} as const;
/** What is told of a minute comes so long after its end. */
const TOLD_AFTER = 40 * SECOND;
const HELD = 20 * SECOND;

/** Who talks to whom at a moment, as far as somebody may see it. */
@Injectable()
export class MapService {
  private readonly read = new LRUCache<EpochMs, Promise<ReadLinks>>({ max: 20, ttl: HELD });

  constructor(
    private readonly links: LinksService,
    private readonly measures: MeasuresService,
    private readonly owners: OwnersService,
    private readonly clock: Clock,
  ) {}

  /** `to`: null for now. */
  async answer(reach: Reach, to: EpochMs | null): Promise<MapAnswer> {
    const now = this.clock.now();
    const asked = Math.min(to ?? now, now - TOLD_AFTER);
    // who sends what was before catches up: what is not told yet is not looked at
    const told = to === null && this.links.upTo > 0 ? this.links.upTo : Number.POSITIVE_INFINITY;
    const at = Math.floor(Math.min(asked, told) / MINUTE) * MINUTE;
    const read = await this.linksAt(at);
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
  private linksAt(at: EpochMs): Promise<ReadLinks> {
    const known = this.read.get(at);
    if (known) return known;
    const reading = this.readAt(at);
    this.read.set(at, reading);
    reading.catch(() => this.read.delete(at));
    return reading;
  }
  private async readAt(at: EpochMs): Promise<ReadLinks> {
    const of = async (text: string, times: Float64Array, high = false): Promise<ReadLine[]> => {
      // what each may see of it is chosen from this
      const { lines } = await this.measures.lines({ reach: Reach.ofZetopsis(), person: null }, text, times);
      return lines.map(({ labels, values, band }) => ({
        labels,
        values: Float64Array.from(high ? (band?.high ?? values) : values),
      }));
    };
    const minutes = minutesUpTo(at);
    const fives = fivesUpTo(at);
    const last = fives.subarray(-1);
    const [requests, failures, refused, p95, own, spent, usual] = await Promise.all([
      of(TEXTS.requests, minutes),
      of(TEXTS.failures, minutes),
      of(TEXTS.refused, minutes),
      of(TEXTS.p95, fives),
      of(TEXTS.own, last),
      of(TEXTS.spent, last),
      of(TEXTS.usual, last, true),
    ]);
    return { at, requests, failures, refused, p95, own, spent, usual };
  }
}
