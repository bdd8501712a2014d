import { Injectable } from '@nestjs/common';
import type { AuditAnswer, AuditEntry, AuditQuery } from '@zetopsis/contract';
import { ServerLog } from '../platform/logger.ts';
import { AuditStore } from './audit.store.ts';

const PAGE = 100;
const LONGEST = 500;
/** The database stores no NUL. */
const storable = (text: string, length: number) => text.replaceAll('\u0000', '\uFFFD').slice(0, length);

/** Who did what, on what, with which outcome, from where. Every change, every sign-in, refused ones too. */
@Injectable()
export class AuditService {
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
  /** What Zetopsis did or found by itself. */
  async noteOwn(action: string, on: string, detail: string, outcome: AuditEntry['outcome'] = 'done'): Promise<void> {
    await this.note({ by: 'zetopsis', who: 'Zetopsis', action, on, outcome, detail, from: '' });
  }
  async search(query: AuditQuery): Promise<AuditAnswer> {
    const found = await this.store.search(query, PAGE + 1);
    return { entries: found.slice(0, PAGE), more: found.length > PAGE };
  }
}
