import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import type { DeliveryAnswer } from '@zetopsis/contract';
import type { EntityManager } from 'typeorm';
import { AuditService } from '../audit/audit.service.ts';
import { LiveService } from '../live/live.service.ts';
import { failureInWords } from '../platform/failureWords.ts';
import { ServerLog } from '../platform/logger.ts';
import { Clock, Settings } from '../platform/settings.ts';
import { Mailer } from './mailer.ts';
import { type OutboxRow, OutboxStore, type OutgoingMessage } from './outbox.store.ts';

const LOOK_EVERY = 1000;
const AT_ONCE = 20;
const CONVERSATIONS = 4;
/** Waits between tries, in seconds; after the last one the message is a dead letter. */
const WAITS = [2, 5, 15, 60, 300, 900, 3600, 3600, 3600];

/** Sends what stands in the outbox by email, again and again until it is taken or given up. */
@Injectable()
export class DeliveryService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly mailer: Mailer | null;
  private timer: NodeJS.Timeout | null = null;
  private running: Promise<void> = Promise.resolve();
  private stopped = false;

  constructor(
    private readonly store: OutboxStore,
    private readonly settings: Settings,
    private readonly clock: Clock,
    private readonly live: LiveService,
    private readonly audit: AuditService,
    private readonly log: ServerLog,
  ) {
    const { smtpUrl } = settings.config;
    this.mailer = smtpUrl === null ? null : new Mailer(smtpUrl);
  }

  onApplicationBootstrap(): void {
    this.schedule();
  }
  async onApplicationShutdown(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
    this.mailer?.close();
    await this.running;
  }

  get configured(): { configured: boolean; text: string } {
    const { smtpUrl, mailFrom } = this.settings.config;
    if (smtpUrl === null)
      return {
        configured: false,
        text: 'No mail server is set: messages wait. Set ZETOPSIS_SMTP_URL and start again.',
      };
    return { configured: true, text: `Messages go out over ${new URL(smtpUrl).host} as ${mailFrom}.` };
  }

  /** In the caller's transaction: the message exists exactly when the state it tells of does. */
  async enqueue(manager: EntityManager, message: OutgoingMessage): Promise<void> {
    await this.store.add(manager, message);
  }
  async enqueueAlone(message: OutgoingMessage): Promise<void> {
    await this.store.addAlone(message);
  }
  counts(): Promise<{ waiting: number; dead: number }> {
    return this.store.counts();
  }
  async retry(id: number): Promise<boolean> {
    return this.store.retry(id, new Date(this.clock.now()));
  }
  /** Of these alerts, or all when null. */
  async newest(alertIds: readonly number[] | null): Promise<DeliveryAnswer[]> {
    return (await this.store.newest(alertIds, 50)).map(toAnswer);
  }
  async dead(alertIds: readonly number[] | null): Promise<DeliveryAnswer[]> {
    return (await this.store.dead(alertIds)).map(toAnswer);
  }
  async alertOf(id: number): Promise<number | null> {
    return this.store.alertOf(id);
  }
  async ofAlerts(ids: readonly number[]): Promise<Map<number, DeliveryAnswer[]>> {
    const result = new Map<number, DeliveryAnswer[]>();
    for (const row of await this.store.ofAlerts(ids)) {
      const alert = row.alertId!; // selected by it
      result.set(alert, [...(result.get(alert) ?? []), toAnswer(row)]);
    }
    return result;
  }

  private schedule(): void {
    if (this.stopped || !this.mailer) return;
    this.timer = setTimeout(() => {
      this.running = this.sendDue().catch((error) => this.log.failure('outboxNotRead', error));
      void this.running.then(() => this.schedule());
    }, LOOK_EVERY);
  }

  private async sendDue(): Promise<void> {
    const due = await this.store.due(new Date(this.clock.now()), AT_ONCE);
    // to one recipient in their order, to several at once: who is slow holds up nobody else
    const byRecipient = [...groups(due).values()];
    const senders = Array.from({ length: CONVERSATIONS }, async () => {
      for (let rows = byRecipient.shift(); rows !== undefined; rows = byRecipient.shift())
        for (const row of rows) {
          if (this.stopped) return;
          await this.send(row);
          this.live.touch('rules');
        }
    });
    await Promise.all(senders);
  }

  private async send(row: OutboxRow): Promise<void> {
    try {
      await this.mailer?.send({
        from: this.settings.config.mailFrom,
        to: row.recipient,
        subject: row.subject,
        text: row.text,
        html: row.html,
        messageId: `<${row.stableKey}@zetopsis>`,
        headers: { 'X-Zetopsis-Key': row.stableKey },
      });
      await this.store.sent(row.id, new Date(this.clock.now()));
    } catch (error) {
      // not the mail server's doing: it is sent again after the next start
      if (this.stopped) return;
      const wait = WAITS[row.attempts];
      const now = this.clock.now();
      const next = wait === undefined ? null : new Date(now + wait * 1000 * (0.8 + Math.random() * 0.4));
      if (next === null)
        await this.audit.noteOwn(
          'gave a message up',
          row.recipient,
          `${row.subject}: ${failureInWords(error)}`,
          'failed',
        );
      await this.store.failed(row.id, failureInWords(error), next, new Date(now));
      this.log.warning('messageNotSent', `message ${row.id} was not taken`, {
        attempts: row.attempts + 1,
        error: error instanceof Error ? error.message : String(error),
      });
    }
  }
}

function groups(rows: readonly OutboxRow[]): Map<string, OutboxRow[]> {
  const byRecipient = new Map<string, OutboxRow[]>();
  for (const row of rows) byRecipient.set(row.recipient, [...(byRecipient.get(row.recipient) ?? []), row]);
  return byRecipient;
}

const ms = (at: Date | null) => at?.getTime() ?? null;
function toAnswer(row: OutboxRow): DeliveryAnswer {
  const state = row.sentAt ? 'sent' : row.deadAt ? 'dead' : 'waiting';
  return {
    id: row.id,
    to: row.recipient,
    subject: row.subject,
    state,
    createdAt: row.createdAt.getTime(),
    sentAt: ms(row.sentAt),
    attempts: row.attempts,
    nextAt: state === 'waiting' ? ms(row.nextAt) : null,
    error: row.error,
  };
}
