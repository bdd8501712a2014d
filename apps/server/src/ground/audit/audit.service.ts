import { type BeforeApplicationShutdown, Injectable } from '@nestjs/common';
import type { AuditAnswer, AuditEntry, AuditQuery } from '@zetopsis/contract';
import { MINUTE } from '@zetopsis/core/units';
import { ServerLog } from '../platform/logger.ts';
import { AuditStore } from './audit.store.ts';

const PAGE = 100;
const LONGEST = 500;
/** Refused tries of strangers are summed up after so long. */
const SUMMED_UP = 10 * MINUTE;
/** Of those that are named in a sum. */
const ADDRESSES = 5;
/** Kinds of tries are bounded: actions are ours, and names only those of people. */
const KINDS = 1000;

interface Strangers {
  readonly entry: Omit<AuditEntry, 'id' | 'at'>;
  more: number;
  readonly from: Set<string>;
  timer: NodeJS.Timeout | null;
}
/** The database stores no NUL. */
const storable = (text: string, length: number) => text.replaceAll('\u0000', '\uFFFD').slice(0, length);

/** Who did what, on what, with which outcome, from where. Every change, every sign-in, refused ones too. */
@Injectable()
export class AuditService implements BeforeApplicationShutdown {
  private readonly strangers = new Map<string, Strangers>();

  constructor(
    private readonly store: AuditStore,
    private readonly log: ServerLog,
  ) {}

  /** A missing entry never undoes what was done; that it is missing stands in the server's log. */
  async note(entry: Omit<AuditEntry, 'id' | 'at'>): Promise<void> {
    try {
      await this.store.add({
        ...entry,
        on: storable(entry.on, LONGEST),
        detail: storable(entry.detail, LONGEST),
        who: storable(entry.who, 100),
      });
    } catch (error) {
      this.log.failure('auditNotWritten', error, { action: entry.action, outcome: entry.outcome });
    }
  }
  /**
   * What a stranger was refused: the first of a kind at once, the rest of the next ten minutes in one entry, so that a
   * stranger writes neither a row for each try nor for ever.
   */
  async noteStranger(entry: Omit<AuditEntry, 'id' | 'at'>): Promise<void> {
    const key = `${entry.action} ${entry.on}`;
    const known = this.strangers.get(key);
    if (known) {
      known.more++;
      if (known.from.size < ADDRESSES) known.from.add(entry.from);
      return;
    }
    if (this.strangers.size >= KINDS) return;
    const own: Strangers = { entry, more: 0, from: new Set([entry.from]), timer: null };
    this.strangers.set(key, own);
    own.timer = setTimeout(() => void this.sumUp(key), SUMMED_UP);
    await this.note(entry);
  }
  private async sumUp(key: string): Promise<void> {
    const own = this.strangers.get(key);
    if (!own) return;
    this.strangers.delete(key);
    if (own.timer) clearTimeout(own.timer);
    if (own.more === 0) return;
    const addresses = [...own.from].join(', ');
    const from = own.from.size === ADDRESSES ? `${addresses} and others` : addresses;
    await this.note({
      ...own.entry,
      detail: `${own.more} more within ${SUMMED_UP / MINUTE} min, from ${from}: ${own.entry.detail}`,
    });
  }
  async beforeApplicationShutdown(): Promise<void> {
    await Promise.all([...this.strangers.keys()].map((key) => this.sumUp(key)));
  }

  /** What Zetopsis did or found by itself. */
  async noteOwn({
    action,
    on,
    detail,
    outcome = 'done',
  }: {
    readonly action: string;
    readonly on: string;
    readonly detail: string;
    readonly outcome?: AuditEntry['outcome'];
  }): Promise<void> {
    await this.note({ by: 'zetopsis', who: 'Zetopsis', action, on, outcome, detail, from: '' });
  }
  /** What Zetopsis noted of itself under a kind of action, of one thing or of all, newest first. */
  ownOf(of: Parameters<AuditStore['ownOf']>[0]): Promise<AuditEntry[]> {
    return this.store.ownOf(of);
  }
  async search(query: AuditQuery): Promise<AuditAnswer> {
    const found = await this.store.search(query, PAGE + 1);
    return { entries: found.slice(0, PAGE), more: found.length > PAGE };
  }
}
