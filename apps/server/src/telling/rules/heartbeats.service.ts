import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { ChannelDocument } from '@zetopsis/contract';
import type { HookBody } from '@zetopsis/core/rules';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { Channels, testBody } from '../delivery/channels.service.ts';
import { DeliveryService } from '../delivery/delivery.service.ts';
import { RulesService } from './rules.service.ts';

const LOOK_EVERY = 1000;
/** Judging or sending that was not seen for so long has stopped. */
const STOPPED_AFTER = 2 * MINUTE;

/** Says again and again that rules are judged and messages sent, so that somebody outside notices when they are not. */
@Injectable()
export class Heartbeats implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly last = new Map<string, EpochMs>();
  private readonly beating = new Repeated(() => this.beat(), LOOK_EVERY);
  constructor(
    private readonly channels: Channels,
    private readonly delivery: DeliveryService,
    private readonly rules: RulesService,
    private readonly outbox: OutboxService,
    private readonly clock: Clock,
  ) {}

  onApplicationBootstrap(): void {
    this.beating.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    await this.beating.stop();
  }

  /** Why there is no beat; null while there is. */
  stopped(): string | null {
    const now = this.clock.now();
    const late = (at: EpochMs | null) => at === null || now - at > STOPPED_AFTER;
    if (late(this.rules.judgedAt)) return 'rules are not judged';
    return late(this.delivery.lastMovedAt) ? 'messages are not sent' : null;
  }
  private async beat(): Promise<void> {
    const now = this.clock.now();
    if (this.stopped() !== null) return;
    const due = this.channels
      .heartbeats()
      .filter(({ key, document }) => now - (this.last.get(key) ?? 0) >= document.everyMinutes * MINUTE);
    for (const { key } of due) this.last.set(key, now);
    // who is slow holds up nobody else
    await Promise.all(due.map(({ key, document }) => this.send(key, document, now)));
  }
  private async send(key: string, document: ChannelDocument, now: EpochMs): Promise<void> {
    try {
      const { waiting, dead } = await this.outbox.counts();
      const stableKey = `beat-${now}-hook-${key}`;
      const body: HookBody = {
        ...testBody(now, stableKey),
        change: 'heartbeat',
        title: 'Rules are judged and messages are sent',
        value: `${waiting} waiting, ${dead} given up`,
      };
      await this.delivery.sendNow(key, stableKey, this.channels.written(document, body));
      this.channels.noteBeat(key, now, null);
    } catch (error) {
      // the next beat is the next try
      this.channels.noteBeat(key, now, error instanceof Error ? error.message : String(error));
    }
  }
}
