import { Injectable } from '@nestjs/common';
import { type MaskedCounts, nothingMasked, type OwnPattern, type PartedLine, partLine } from '@zetopsis/core/lines';
import type { Origin, Untied } from '@zetopsis/core/origins';
import { readLogsBySteps } from '@zetopsis/core/telemetry';
import { Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { LinesService, type TiedLines } from '../../keeping/lines/lines.service.ts';
import { OriginsService } from './origins.service.ts';
import type { Left } from './push.service.ts';
import { PushCounts } from './pushCounts.ts';
import type { PushedBy } from './pushRequest.ts';

/** Takes log lines that are pushed: parted, masked and tied to what they come from before anything of them is kept. */
@Injectable()
export class PushedLines {
  private readonly askers: Parameters<PushedLines['onPatterns']>[0][] = [];

  constructor(
    private readonly counts: PushCounts,
    private readonly origins: OriginsService,
    private readonly lines: LinesService,
    private readonly clock: Clock,
  ) {}

  /** Who knows what else is masked: in lines of a namespace, or pushed with a key of a team. */
  onPatterns(ask: (of: Pick<Origin, 'cluster' | 'namespace'>, team: string | null) => readonly OwnPattern[]): void {
    this.askers.push(ask);
  }

  /** Answers once what was taken is durable. The same push once more counts once. */
  async take({ key, document }: PushedBy, body: unknown, digest: Buffer): Promise<Left> {
    const { resources, refused, problem } = await yieldedInPieces(readLogsBySteps(body, this.clock.now()));
    const masked: MaskedCounts = nothingMasked();
    const untied = new Map<Untied, number>();
    const tied: TiedLines[] = [];
    const pieces = new Pieces();
    for (const { attributes, lines: sent } of resources) {
      const origin = await this.origins.of(attributes, document);
      if (origin.untied !== null) untied.set(origin.untied, (untied.get(origin.untied) ?? 0) + sent.length);
      const own = this.askers.flatMap((ask) => ask(origin, document.team));
      const lines: PartedLine[] = [];
      for (const line of sent) {
        lines.push(partLine(line, masked, own));
        if (pieces.due) await pieces.pause();
      }
      tied.push({ origin, lines });
    }
    const fresh = tied.length === 0 || (await this.lines.take({ key, digest }, tied));
    this.counts.pushed(key, refused, problem);
    if (fresh)
      this.counts.lines(key, { lines: tied.reduce((sum, { lines }) => sum + lines.length, 0), masked, untied });
    else this.counts.again(key);
    return { refused, problem };
  }
}
