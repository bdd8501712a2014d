import { createHash } from 'node:crypto';
import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { nothingMasked, partLine } from '@zetopsis/core/lines';
import type { Origin } from '@zetopsis/core/origins';
import { SECOND } from '@zetopsis/core/units';
import { ServerLog } from '../../ground/platform/logger.ts';
import { counter, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { OwnPatterns } from '../../inflow/push/ownPatterns.ts';
import { LinesService } from '../../keeping/records/lines.service.ts';

const EVERY = 2 * SECOND;
/** What waits while it cannot be kept; the oldest are given up. */
const MOST = 2000;
const KEY = 'own lines';
const OWN_HOST = 'zetopsis';
const OWN: Origin = {
  cluster: null,
  namespace: null,
  workload: null,
  pod: null,
  container: null,
  node: null,
  service: null,
  host: OWN_HOST,
  untied: null,
};

/** Keeps what Zetopsis writes itself as it keeps anybody's log lines: masked. */
@Injectable()
export class OwnLines implements OnApplicationBootstrap, OnApplicationShutdown {
  private waiting: { readonly at: number; readonly text: string }[] = [];
  private lost = 0;
  private number = 0;
  private readonly keeping = new Repeated(() => this.keep(), EVERY);

  constructor(
    private readonly lines: LinesService,
    private readonly patterns: OwnPatterns,
    private readonly clock: Clock,
    private readonly log: ServerLog,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => [
      counter({ name: 'own_lines_lost', help: 'Own log lines that could not be kept.', samples: this.lost }),
    ]);
  }
  onApplicationBootstrap(): void {
    this.log.onWritten((text) => this.note(text));
    this.keeping.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.keeping.stop();
    await this.keep();
  }
  private note(text: string): void {
    this.waiting.push({ at: this.clock.now(), text: text.trimEnd() });
    if (this.waiting.length <= MOST) return;
    this.waiting.shift();
    this.lost++;
  }
  /** What cannot be kept now waits: nothing is written about it, which would only make more. */
  private async keep(): Promise<void> {
    const some = this.waiting;
    if (some.length === 0) return;
    this.waiting = [];
    const own = this.patterns.of(OWN, null);
    const lines = some.map(({ at, text }) =>
      partLine({ at, severity: 0, text, fields: [], traceId: '', spanId: '' }, nothingMasked(), own),
    );
    const digest = createHash('sha256')
      .update(`${process.pid} ${this.number++} ${some[0]!.at}`)
      .digest(); // there are some
    try {
      await this.lines.take({ key: KEY, digest }, [{ origin: OWN, lines }]);
    } catch (error) {
      if (!(error instanceof Refusal)) this.lost += some.length;
      else this.waiting = [...some, ...this.waiting].slice(-MOST);
    }
  }
}
