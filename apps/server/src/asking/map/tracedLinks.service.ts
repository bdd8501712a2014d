import { Injectable } from '@nestjs/common';
import type { LinkAnswer, LinkQuery } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { type LinkEnd, LinkTracing, readEndKey, type TracedLinks } from '@zetopsis/core/links';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { HeldWork } from '../../ground/platform/heldWork.ts';
import { Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { LinkEnds } from '../../inflow/links/linkEnds.service.ts';
import { TraceReader } from '../../keeping/records/traceReader.ts';

interface ReadTraces extends TracedLinks {
  /** All traces from then on were looked through. */
  readonly from: EpochMs;
}
/** So many spans are looked through for one answer, the newest first. */
const MOST_SPANS = 30_000;
/** Which share of people's requests went over a link is told of so long before its moment. */
const LATELY = 15 * MINUTE;
const HELD = MINUTE;

/** What goes over links, as traces that are kept tell: operations, examples, what people asked for. */
@Injectable()
export class TracedLinksService {
  private readonly held = new HeldWork<string, ReadTraces>('traces of links', { max: 10, holds: HELD });

  constructor(
    private readonly reader: TraceReader,
    private readonly ends: LinkEnds,
  ) {}

  /** Of one link, both of whose ends somebody may see. */
  async link(
    reach: Reach,
    { caller, answerer }: LinkQuery,
    { from, to }: { readonly from: EpochMs; readonly to: EpochMs },
  ): Promise<LinkAnswer> {
    if (!mayName(reach, readEndKey(caller)) || !mayName(reach, readEndKey(answerer)))
      throw new Refusal('notFound', 'There is no such link, or not both of its ends may be seen.');
    const read = await this.read(from, to);
    const link = read.links.get(`${caller} → ${answerer}`);
    return {
      from: read.from,
      to,
      requests: link?.requests ?? 0,
      people: shareOf(read, link),
      operations: [...(link?.operations ?? [])],
      ways: [...(link?.ways ?? [])],
      slowest: [...(link?.slowest ?? [])],
      failed: [...(link?.failed ?? [])],
    };
  }
  /** By the key of a link: of what people started lately, the share that went over it. */
  async people(at: EpochMs): Promise<(key: string) => number | null> {
    const read = await this.read(at - LATELY, at);
    return (key) => shareOf(read, read.links.get(key));
  }

  private read(from: EpochMs, to: EpochMs): Promise<ReadTraces> {
    return this.held.get(`${Math.floor(from / MINUTE)} ${Math.floor(to / MINUTE)}`, () => this.work(from, to));
  }
  private async work(from: EpochMs, to: EpochMs): Promise<ReadTraces> {
    const tracing = new LinkTracing({ named: (whom, end) => this.ends.named(whom, end) });
    const pieces = new Pieces();
    const read = await this.reader.whole({ from, to, spans: MOST_SPANS }, async ({ traceId, spans, weight }) => {
      tracing.add({
        traceId,
        weight,
        spans: spans.map((span) => ({ end: this.ends.of(span.from), pod: span.from.pod ?? '', span })),
      });
      if (pieces.due) await pieces.pause();
    });
    return { ...(await yieldedInPieces(tracing.toldBySteps(), pieces)), from: read.from };
  }
}
const shareOf = ({ people }: TracedLinks, link: { readonly people: number } | undefined): number | null =>
  people === 0 ? null : (link?.people ?? 0) / people;
const mayName = (reach: Reach, { cluster, namespace }: LinkEnd): boolean =>
  cluster === '' ? reach.mayEverywhere('read') : reach.reads(cluster, namespace);
