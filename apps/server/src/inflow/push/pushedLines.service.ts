import { Injectable } from '@nestjs/common';
import { type MaskedCounts, maskedAttributes, nothingMasked, type PartedLine, partLine } from '@zetopsis/core/lines';
import { readLogsBySteps } from '@zetopsis/core/telemetry';
import { Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinesService, type TiedLines } from '../../keeping/records/lines.service.ts';
import { Forwards, type From } from '../forwarding/forwards.service.ts';
import { LineQuotas, type Quota } from './lineQuotas.service.ts';
import { OriginsService } from './origins.service.ts';
import { OwnPatterns } from './ownPatterns.ts';
import type { Left } from './push.service.ts';
import { PushCounts } from './pushCounts.ts';
import type { PushedBy } from './pushRequest.ts';

/** Takes log lines that are pushed: parted, masked and tied to what they come from before anything of them is kept. */
@Injectable()
export class PushedLines {
  constructor(
    private readonly counts: PushCounts,
    private readonly origins: OriginsService,
    private readonly lines: LinesService,
    private readonly patterns: OwnPatterns,
    private readonly quotas: LineQuotas,
    private readonly forwards: Forwards,
    private readonly clock: Clock,
  ) {}

  /** Answers once what was taken is durable. The same push once more counts once. */
  async take(by: PushedBy, body: unknown, digest: Buffer): Promise<Left> {
    const { key, document } = by;
    const pushed = await yieldedInPieces(readLogsBySteps(body, this.clock.now()));
    let { refused, problem } = pushed;
    const masked: MaskedCounts = nothingMasked();
    const tied: (TiedLines & From<PartedLine>)[] = [];
    const counted: { readonly quota: Quota; readonly lines: number }[] = [];
    const pieces = new Pieces();
    for (const { attributes, items: sent } of pushed.resources) {
      const origin = await this.origins.of(attributes, by);
      const own = this.patterns.of(origin, document.team);
      const quota = this.quotas.of(origin, document.team);
      const taken = quota === null ? sent.length : this.quotas.take(quota, sent.length);
      if (quota !== null) counted.push({ quota, lines: taken });
      if (quota !== null && taken < sent.length) {
        refused += sent.length - taken;
        problem ??= `${quota.name} takes ${quota.most} log lines a day (UTC), and has them`;
      }
      const lines: PartedLine[] = [];
      for (const line of sent.slice(0, taken)) {
        lines.push(partLine(line, masked, own));
        if (pieces.due) await pieces.pause();
      }
      if (lines.length > 0)
        tied.push({
          origin,
          lines,
          items: lines,
          attributes: () => maskedAttributes(attributes, nothingMasked(), own),
        });
    }
    let fresh = true;
    try {
      fresh =
        tied.length === 0 ||
        (await this.lines.take({ key, digest, forwards: await this.forwards.ofLines(key, tied) }, tied));
    } catch (error) {
      for (const { quota, lines } of counted) this.quotas.giveBack(quota, lines);
      throw error;
    }
    this.counts.pushed(key, refused, problem);
    if (!fresh) {
      for (const { quota, lines } of counted) this.quotas.giveBack(quota, lines);
      this.counts.again(key);
    } else {
      for (const { origin, lines } of tied) this.counts.untied(key, origin.untied, lines.length);
      this.counts.taken(
        key,
        'lines',
        tied.reduce((sum, { lines }) => sum + lines.length, 0),
        masked,
      );
    }
    return { refused, problem };
  }
}
