import { Injectable } from '@nestjs/common';
import {
  type BoxState,
  boxStatesBySteps,
  fivesUpTo,
  mapBySteps,
  mapDifference,
  minutesUpTo,
  NO_USUAL,
  type ReadLine,
  type ReadLinks,
  type ReadUsual,
  withStates,
} from '@zetopsis/answers/map';
import type { Window } from '@zetopsis/answers/usage';
import type { MapAnswer, WindowQuery } from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { LINK_METRICS, type LinkEnd } from '@zetopsis/core/links';
import { type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { AskerLeft } from '../../ground/platform/askerLeft.ts';
import { HeldWork } from '../../ground/platform/heldWork.ts';
import { yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { ConnectionsService } from '../../inflow/connections/connections.service.ts';
import { LinksService } from '../../inflow/links/links.service.ts';
import { MeasuresService } from '../measures/measures.service.ts';
import { OwnersService } from '../owners/owners.service.ts';
import { UsageService } from '../usage/usage.service.ts';
import { TracedLinksService } from './tracedLinks.service.ts';

const PAIR = 'from_cluster, from_namespace, from_workload, to_cluster, to_namespace, to_workload';
const counted = (metric: string) => `read ${metric}_total\n  total for each ${PAIR}, protocol, seen_by\n`;
const TEXTS = {
  requests: counted(LINK_METRICS.requests),
  failures: counted(LINK_METRICS.failures),
  refused: counted(LINK_METRICS.refused),
  p95: `read ${LINK_METRICS.nearlyAll}\n`,
  own: `read ${LINK_METRICS.own}_total\n  growth over 5m\n  total for each ${PAIR}\n`,
  spent: `read ${LINK_METRICS.duration}_sum\n  where seen_by is "answerer"\n  treat as counter\n  growth over 5m\n  total for each ${PAIR}\n`,
  seen: `read ${LINK_METRICS.seen}_total\n  growth over 5m\n  total for each ${PAIR}, seen_by\n`,
  bytes: `read ${LINK_METRICS.bytes}_total\n  total for each ${PAIR}\n`,
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
/** What is usual at an hour is looked up once for so long. */
const USUAL_HOLDS = 10 * MINUTE;
/** What is told of a minute comes so long after its end. */
const TOLD_AFTER = 40 * SECOND;
const HELD = 20 * SECOND;

/** Who talks to whom at a moment, as far as somebody may see it. */
@Injectable()
export class MapService {
  private readonly read = new HeldWork<EpochMs, ReadLinks>('links', { max: 20, holds: HELD });
  private readonly usual = new HeldWork<EpochMs, ReadUsual>('usual of links', { max: 20, holds: USUAL_HOLDS });

  constructor(
    private readonly links: LinksService,
    private readonly measures: MeasuresService,
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
    return { at, requests, failures, refused, p95, own, spent, seen, bytes, connections, uncertain, usual };
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
