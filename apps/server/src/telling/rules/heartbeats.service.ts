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
    return late(this.delivery.lookedAt) ? 'messages are not sent' : null;
  }
  private async beat(): Promise<void> {
    const now = this.clock.now();
    if (this.stopped() !== null) return;
    for (const { key, document } of this.channels.heartbeats()) {
      if (now - (this.last.get(key) ?? 0) < document.everyMinutes * MINUTE) continue;
      this.last.set(key, now);
      await this.send(key, document, now);
    }
  }
  private async send(key: string, document: ChannelDocument, now: EpochMs): Promise<void> {
    const before = this.channels.beats.get(key);
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
      this.channels.beats.set(key, { sentAt: now, error: null });
    } catch (error) {
      // the next beat is the next try
      const words = error instanceof Error ? error.message : String(error);
      this.channels.beats.set(key, { sentAt: before?.sentAt ?? null, error: words });
    }
  }
}
