import { Injectable } from '@nestjs/common';
import { type MaskedCounts, nothingMasked, type PartedLine, partLine } from '@zetopsis/core/lines';
import { readLogsBySteps } from '@zetopsis/core/telemetry';
import { Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinesService, type TiedLines } from '../../keeping/records/lines.service.ts';
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
    private readonly clock: Clock,
  ) {}

  /** Answers once what was taken is durable. The same push once more counts once. */
  async take({ key, document }: PushedBy, body: unknown, digest: Buffer): Promise<Left> {
    const { resources, refused, problem } = await yieldedInPieces(readLogsBySteps(body, this.clock.now()));
    const masked: MaskedCounts = nothingMasked();
    const tied: TiedLines[] = [];
    const pieces = new Pieces();
    for (const { attributes, lines: sent } of resources) {
      const origin = await this.origins.of(attributes, document);
      const own = this.patterns.of(origin, document.team);
      const lines: PartedLine[] = [];
      for (const line of sent) {
        lines.push(partLine(line, masked, own));
        if (pieces.due) await pieces.pause();
      }
      tied.push({ origin, lines });
    }
    const fresh = tied.length === 0 || (await this.lines.take({ key, digest }, tied));
    this.counts.pushed(key, refused, problem);
    if (!fresh) this.counts.again(key);
    else {
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
