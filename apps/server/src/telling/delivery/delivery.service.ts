import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { type OutboxRow, OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { Channels } from './channels.service.ts';
import { HookRefused, Hooks } from './hooks.ts';
import { Mailer } from './mailer.ts';

const LOOK_EVERY = 1000;
const MINUTE = 60_000;
const AT_ONCE = 20;
const CONVERSATIONS = 4;
/** Waits between tries, in seconds; after the last one the message is a dead letter. */
const WAITS = [2, 5, 15, 60, 300, 900, 3600, 3600, 3600];

/** Sends what stands in the outbox, by email and to channels, again and again until it is taken or given up. */
@Injectable()
export class DeliveryService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly mailer: Mailer | null;
  private readonly hooks: Hooks;
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
    private readonly channels: Channels,
    guard: AddressGuard,
  ) {
    this.hooks = new Hooks(guard);
    const { smtpUrl } = settings.config;
    this.mailer = smtpUrl === null ? null : new Mailer(smtpUrl);
  }

  onApplicationBootstrap(): void {
    this.sending.begin();
  }
  async onApplicationShutdown(): Promise<void> {
    const stopped = this.sending.stop();
    this.mailer?.close();
    await this.hooks.close();
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
    const found = await this.outbox.due(new Date(this.clock.now()), AT_ONCE, this.mailer !== null);
    const due = await this.withinRates(found);
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

  /** What a channel may not take in this minute waits for the next. */
  private async withinRates(rows: readonly OutboxRow[]): Promise<OutboxRow[]> {
    const left = new Map<string, number>();
    const fit: OutboxRow[] = [];
    for (const row of rows) {
      const { channel } = row;
      if (channel !== null && !left.has(channel)) {
        const sent = await this.outbox.sentSince(channel, new Date(this.clock.now() - MINUTE));
        left.set(channel, (this.channels.get(channel)?.perMinute ?? Number.POSITIVE_INFINITY) - sent);
      }
      const room = channel === null ? 1 : left.get(channel)!;
      if (room <= 0) continue;
      if (channel !== null) left.set(channel, room - 1);
      fit.push(row);
    }
    return fit;
  }
  private async handOver(row: OutboxRow): Promise<void> {
    if (row.channel === null) {
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
      return;
    }
    const document = this.channels.get(row.channel);
    if (document === null) throw new HookRefused('This channel is not there any more.');
    if (document.use === 'off') throw new HookRefused('This channel is switched off.');
    const secret = this.channels.secretOf(row.channel, document);
    const { address } = document;
    await this.hooks.send({ address, key: row.stableKey, body: row.text, secret, now: this.clock.now() });
  }

  private async send(row: OutboxRow): Promise<void> {
    try {
      await this.handOver(row);
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
          detail: `${row.subject}: ${wordsOf(error)}`,
          outcome: 'failed',
        });
      await this.outbox.failed({ id: row.id, error: wordsOf(error), nextAt: next, at: new Date(now) });
      this.log.warning('messageNotSent', `message ${row.id} was not taken`, {
        attempts: row.attempts + 1,
        error: error instanceof Error ? error.message : String(error),
      });
    }
  }
}

/** What a channel answered is said in words already. */
const wordsOf = (error: unknown): string => (error instanceof HookRefused ? error.message : failureInWords(error));
/** Raised, worse and over stand together in whoever's inbox they come to. */
function threadOf(stableKey: string): { readonly references?: string; readonly inReplyTo?: string } {
  const [, alert, change, to] = /^(alert-\d+)-(.+?)-(mail-.+)$/.exec(stableKey) ?? [];
  if (alert === undefined || change === 'raised') return {};
  const first = `<${alert}-raised-${to}@zetopsis>`;
  return { references: first, inReplyTo: first };
}

function groups(rows: readonly OutboxRow[]): Map<string, OutboxRow[]> {
  const byRecipient = new Map<string, OutboxRow[]>();
  for (const row of rows) {
    const to = row.channel === null ? row.recipient : `channel ${row.channel}`;
    byRecipient.set(to, [...(byRecipient.get(to) ?? []), row]);
  }
  return byRecipient;
}
