import { Injectable } from '@nestjs/common';
import { maskedAttributes, nothingMasked } from '@zetopsis/core/lines';
import { EVERYTHING_KEPT, maskedSpan, type SamplingChoice, type Span } from '@zetopsis/core/spans';
import { readSpansBySteps } from '@zetopsis/core/telemetry';
import { SECOND } from '@zetopsis/core/units';
import { Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { type TiedSpans, TracesService } from '../../keeping/records/traces.service.ts';
import { Forwards, type From } from '../forwarding/forwards.service.ts';
import { LinksService } from '../links/links.service.ts';
import { OriginsService } from './origins.service.ts';
import { OwnPatterns } from './ownPatterns.ts';
import type { Left } from './push.service.ts';
import { PushCounts } from './pushCounts.ts';
import type { PushedBy } from './pushRequest.ts';
import { SpanRequests } from './spanRequests.service.ts';

/** Takes spans that are pushed: masked and tied to what they come from before anything of them is kept. */
@Injectable()
export class PushedSpans {
  constructor(
    private readonly counts: PushCounts,
    private readonly origins: OriginsService,
    private readonly traces: TracesService,
    private readonly requests: SpanRequests,
    private readonly links: LinksService,
    private readonly patterns: OwnPatterns,
    private readonly forwards: Forwards,
    private readonly clock: Clock,
  ) {}

  /** Answers once what was taken is durable. The same push once more counts once. */
  async take(by: PushedBy, body: unknown, digest: Buffer): Promise<Left> {
    const { key, document } = by;
    const { resources, refused, problem } = await yieldedInPieces(readSpansBySteps(body, this.clock.now()));
    const masked = nothingMasked();
    const tied: (TiedSpans & From<Span> & { readonly sender: ReadonlyMap<string, string> })[] = [];
    const pieces = new Pieces();
    for (const { attributes, items: sent } of resources) {
      const origin = await this.origins.of(attributes, by);
      const own = this.patterns.of(origin, document.team);
      const spans: Span[] = [];
      for (const span of sent) {
        spans.push(maskedSpan(span, masked, own));
        if (pieces.due) await pieces.pause();
      }
      tied.push({
        origin,
        sender: attributes,
        attributes: () => maskedAttributes(attributes, nothingMasked(), own),
        spans,
        items: spans,
      });
    }
    const choice: SamplingChoice =
      document.sampling === null
        ? EVERYTHING_KEPT
        : { oneIn: document.sampling.oneIn, slow: document.sampling.slowSeconds * SECOND };
    const fresh =
      tied.length === 0 ||
      (await this.traces.take({ key, digest, forwards: await this.forwards.ofSpans(key, tied) }, tied, choice));
    this.counts.pushed(key, refused, problem);
    if (!fresh) this.counts.again(key);
    else {
      for (const { origin, sender, spans } of tied) {
        this.requests.count(key, origin, sender, spans);
        this.links.add(origin, spans);
        this.counts.untied(key, origin.untied, spans.length);
      }
      this.counts.taken(
        key,
        'spans',
        tied.reduce((sum, { spans }) => sum + spans.length, 0),
        masked,
      );
    }
    return { refused, problem };
  }
}
