import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { type OutboxRow, OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { Mailer } from './mailer.ts';

const LOOK_EVERY = 1000;
const AT_ONCE = 20;
const CONVERSATIONS = 4;
/** Waits between tries, in seconds; after the last one the message is a dead letter. */
const WAITS = [2, 5, 15, 60, 300, 900, 3600, 3600, 3600];

/** Sends what stands in the outbox by email, again and again until it is taken or given up. */
@Injectable()
export class DeliveryService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly mailer: Mailer | null;
  private readonly sending = new Repeated(
    () => this.sendDue().catch((error) => this.log.failure('outboxNotRead', error)),
    LOOK_EVERY,
  );

  constructor(
    private readonly outbox: OutboxService,
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
    if (this.mailer) this.sending.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    const stopped = this.sending.stop();
    this.mailer?.close();
    await stopped;
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

  private async sendDue(): Promise<void> {
    const due = await this.outbox.due(new Date(this.clock.now()), AT_ONCE);
    // to one recipient in their order, to several at once: who is slow holds up nobody else
    const byRecipient = [...groups(due).values()];
    const senders = Array.from({ length: CONVERSATIONS }, async () => {
      for (let rows = byRecipient.shift(); rows !== undefined; rows = byRecipient.shift())
        for (const row of rows) {
          if (this.sending.ending) return;
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
        ...threadOf(row.stableKey),
        headers: { 'X-Zetopsis-Key': row.stableKey },
      });
      await this.outbox.sent(row.id, new Date(this.clock.now()));
    } catch (error) {
      // not the mail server's doing: it is sent again after the next start
      if (this.sending.ending) return;
      const wait = WAITS[row.attempts];
      const now = this.clock.now();
      const next = wait === undefined ? null : new Date(now + wait * 1000 * (0.8 + Math.random() * 0.4));
      if (next === null)
        await this.audit.noteOwn({
          action: 'gave a message up',
          on: row.recipient,
          detail: `${row.subject}: ${failureInWords(error)}`,
          outcome: 'failed',
        });
      await this.outbox.failed({ id: row.id, error: failureInWords(error), nextAt: next, at: new Date(now) });
      this.log.warning('messageNotSent', `message ${row.id} was not taken`, {
        attempts: row.attempts + 1,
        error: error instanceof Error ? error.message : String(error),
      });
    }
  }
}

/** Raised, worse and over stand together in whoever's inbox they come to. */
function threadOf(stableKey: string): { readonly references?: string; readonly inReplyTo?: string } {
  const [, alert, change, to] = /^(alert-\d+)-(.+?)-(mail-.+)$/.exec(stableKey) ?? [];
  if (alert === undefined || change === 'raised') return {};
  const first = `<${alert}-raised-${to}@zetopsis>`;
  return { references: first, inReplyTo: first };
}

function groups(rows: readonly OutboxRow[]): Map<string, OutboxRow[]> {
  const byRecipient = new Map<string, OutboxRow[]>();
  for (const row of rows) byRecipient.set(row.recipient, [...(byRecipient.get(row.recipient) ?? []), row]);
  return byRecipient;
}
