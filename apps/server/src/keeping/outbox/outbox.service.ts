import { Injectable } from '@nestjs/common';
import type { DeliveryAnswer } from '@zetopsis/contract';
import type { EntityManager } from 'typeorm';
import { Clock } from '../../ground/platform/settings.ts';
import { type OutboxRow, OutboxStore, type OutgoingMessage } from './outbox.store.ts';

export { digestKey, isDigest, type OutboxRow } from './outbox.store.ts';

const SHOWN = 50;
const PAGE = 200;
const MOST_PAGES = 20;
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
  sentSince(...of: Parameters<OutboxStore['sentSince']>): Promise<number> {
    return this.store.sentSince(...of);
  }
  waitingFor(...of: Parameters<OutboxStore['waitingFor']>): Promise<OutboxRow[]> {
    return this.store.waitingFor(...of);
  }
  fold(...of: Parameters<OutboxStore['fold']>): Promise<void> {
    return this.store.fold(...of);
  }
  /** As far as `sees` lets through; looked through in pages, so that what nobody may see ends nobody's search. */
  async search(
    { text, state, before }: Omit<Parameters<OutboxStore['search']>[0], 'limit'>,
    sees: (path: readonly string[] | null) => boolean,
  ): Promise<{ readonly deliveries: DeliveryAnswer[]; readonly more: boolean }> {
    const found: DeliveryAnswer[] = [];
    let last = before;
    for (let page = 0; page < MOST_PAGES; page++) {
      const rows = await this.store.search({ text, state, before: last, limit: PAGE });
      found.push(...rows.filter(({ path }) => sees(path)).map(toAnswer));
      if (found.length > SHOWN || rows.length < PAGE) break;
      last = rows.at(-1)!.id;
    }
    return { deliveries: found.slice(0, SHOWN), more: found.length > SHOWN };
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
  async sent(id: number, at: Date, answer: string | null): Promise<void> {
    await this.store.sent(id, at, answer);
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
    answer: row.answer,
    together: row.foldedInto !== null,
  };
}
