import { Injectable } from '@nestjs/common';
import type { DeliveryAnswer } from '@zetopsis/contract';
import type { EntityManager } from 'typeorm';
import { Clock } from '../../ground/platform/settings.ts';
import { type OutboxRow, OutboxStore, type OutgoingMessage } from './outbox.store.ts';

export type { OutboxRow } from './outbox.store.ts';

/** Messages that are to be sent, were sent, or were given up. */
@Injectable()
export class OutboxService {
  constructor(
    private readonly store: OutboxStore,
    private readonly clock: Clock,
  ) {}

  /** In the caller's transaction: the message exists exactly when the state it tells of does. */
  async enqueue(manager: EntityManager, message: OutgoingMessage): Promise<void> {
    await this.store.add(manager, message);
  }
  hasOf(manager: EntityManager, alertId: number): Promise<boolean> {
    return this.store.hasOf(manager, alertId);
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

  async byChannel(): Promise<ReadonlyMap<string, { waiting: number; sentAt: number | null; error: string | null }>> {
    const rows = await this.store.byChannel();
    return new Map(rows.map(({ channel, sentAt, ...own }) => [channel, { ...own, sentAt: ms(sentAt) }]));
  }
  sentSince(channel: string, at: Date): Promise<number> {
    return this.store.sentSince(channel, at);
  }
  secrets(): Promise<Map<string, string>> {
    return this.store.secrets();
  }
  async setSecret(channel: string, secret: string): Promise<void> {
    await this.store.setSecret(channel, secret);
  }

  // ---- for who sends them -------------------------------------------------------------------------------------------

  due(...of: Parameters<OutboxStore['due']>): Promise<OutboxRow[]> {
    return this.store.due(...of);
  }
  async sent(id: number, at: Date): Promise<void> {
    await this.store.sent(id, at);
  }
  /** `nextAt` null: it is given up. */
  async failed(of: Parameters<OutboxStore['failed']>[0]): Promise<void> {
    await this.store.failed(of);
  }
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
