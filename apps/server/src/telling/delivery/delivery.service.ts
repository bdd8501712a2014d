import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { digestMessage } from '@zetopsis/core/rules';
import { type EpochMs, MINUTE } from '@zetopsis/core/units';
import { AuditService } from '../../ground/audit/audit.service.ts';
import { LiveService } from '../../ground/live/live.service.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { failureInWords } from '../../ground/platform/failureWords.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Durations, OwnFigures } from '../../ground/platform/ownFigures.ts';
import { Repeated } from '../../ground/platform/repeated.ts';
import { Clock, Settings } from '../../ground/platform/settings.ts';
import { digestKey, isDigest, type OutboxRow, OutboxService } from '../../keeping/outbox/outbox.service.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { Channels } from './channels.service.ts';
import { HookRefused, Hooks } from './hooks.ts';
import { Mailer } from './mailer.ts';

const LOOK_EVERY = 1000;
const AT_ONCE = 20;
/** More in a minute to one mailbox is sent together. */
const MAILS_A_MINUTE = 30;
const MOST_TOGETHER = 200;
const CONVERSATIONS = 4;
/** Waits between tries, in seconds; after the last one the message is a dead letter. */
const WAITS = [2, 5, 15, 60, 300, 900, 3600, 3600, 3600];

/** Sends what stands in the outbox, by email and to channels, again and again until it is taken or given up. */
@Injectable()
export class DeliveryService implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly mailer: Mailer | null;
  private readonly hooks: Hooks;
  private readonly times = new Durations('delivery_duration', 'How long it took to hand a message over.');
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
    private readonly lease: LeaseService,
    guard: AddressGuard,
    figures: OwnFigures,
  ) {
    figures.onAsked(() => [this.times.family]);
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

  /** Handed over at once, without the outbox: what is old by the next try anyway. */
  async sendNow(channel: string, key: string, body: string): Promise<void> {
    const document = this.channels.get(channel);
    if (document === null || this.lease.epoch === 0) return;
    const secret = this.channels.secretOf(channel, document);
    await this.hooks.send({ address: document.address, key, body, secret, now: this.clock.now() });
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

  private movedAt: EpochMs | null = null;
  /** When messages last moved: it was looked whether any is to be sent, or one was tried. */
  get lastMovedAt(): EpochMs | null {
    return this.movedAt;
  }
  /** What is due, as far as it fits into this minute. */
  async sendDue(): Promise<void> {
    // another process sends
    if (this.lease.epoch === 0) return;
    const found = await this.outbox.due(new Date(this.clock.now()), AT_ONCE, this.mailer !== null);
    const due = await this.withinRates(found);
    // to one recipient in their order, to several at once: who is slow holds up nobody else
    const byRecipient = [...groups(due).values()];
    const senders = Array.from({ length: CONVERSATIONS }, async () => {
      for (let rows = byRecipient.shift(); rows !== undefined; rows = byRecipient.shift())
        for (const row of rows) {
          if (this.sending.ending || !(await this.lease.isStillHeld())) return;
          await this.send(row);
          this.movedAt = this.clock.now();
          this.live.touch('rules');
        }
    });
    await Promise.all(senders);
    this.movedAt = this.clock.now();
  }

  /**
   * What fits into this minute, for each who is told. Where more waits than does, what is left is sent together in one message; an
   * action is nobody's message, and waits for the next minute.
   */
  private async withinRates(rows: readonly OutboxRow[]): Promise<OutboxRow[]> {
    const fit: OutboxRow[] = [];
    for (const own of groups(rows).values()) {
      const { channel, recipient } = own[0]!; // no group is empty
      const document = channel === null ? null : this.channels.get(channel);
      const most = channel === null ? MAILS_A_MINUTE : (document?.perMinute ?? Number.POSITIVE_INFINITY);
      const sent = await this.outbox.sentSince(channel, recipient, new Date(this.clock.now() - MINUTE));
      const room = Math.max(0, most - sent);
      // several in one go first: it is never folded again
      const digests = own.filter(isDigest);
      const left = room - digests.length;
      if (own.length <= room || left <= 0 || document?.does === 'act') {
        fit.push(...[...digests, ...own.filter((row) => !isDigest(row))].slice(0, room));
        continue;
      }
      const singly = own.filter((row) => !isDigest(row)).slice(0, left - 1);
      fit.push(...digests, ...singly);
      const waiting = await this.outbox.waitingFor(channel, recipient, MOST_TOGETHER);
      await this.foldTogether(waiting.filter(({ id }) => !singly.some((row) => row.id === id)));
    }
    return fit;
  }
  private async foldTogether(rows: readonly OutboxRow[]): Promise<void> {
    const [first] = rows;
    if (!first || rows.length < 2) return;
    const { channel, recipient } = first;
    const stableKey = digestKey(rows, channel === null ? `mail-${recipient}` : `hook-${channel}`);
    const message =
      channel === null ? digestMessage(rows) : { ...this.channels.digestOf(channel, stableKey, rows), html: '' };
    await this.outbox.fold(
      rows.map(({ id }) => id),
      { ...message, stableKey, alertId: null, recipient, channel },
    );
  }
  /** What a program answered to an action; null: nothing that is kept. */
  private async handOver(row: OutboxRow): Promise<string | null> {
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
      return null;
    }
    const document = this.channels.get(row.channel);
    if (document === null) throw new HookRefused('This channel is not there any more.');
    if (document.use === 'off') throw new HookRefused('This channel is switched off.');
    const secret = this.channels.secretOf(row.channel, document);
    const { address } = document;
    const answered = await this.hooks.send({
      address,
      key: row.stableKey,
      body: row.text,
      secret,
      now: this.clock.now(),
    });
    return document.does === 'act' ? answered : null;
  }

  private async send(row: OutboxRow): Promise<void> {
    const began = performance.now();
    const to = row.channel === null ? 'mailbox' : 'channel';
    const took = (outcome: string) => this.times.note({ to, outcome }, (performance.now() - began) / 1000);
    try {
      const answer = await this.handOver(row);
      took('taken');
      await this.outbox.sent(row.id, new Date(this.clock.now()), answer);
    } catch (error) {
      took('not taken');
      // not the mail server's doing: it is sent again after the next start
      if (this.sending.ending) return;
      // what is not there any more never comes back
      const wait = row.channel !== null && this.channels.get(row.channel) === null ? undefined : WAITS[row.attempts];
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
