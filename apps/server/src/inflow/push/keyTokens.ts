import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { DAY } from '@zetopsis/core/units';
import { Clock } from '../../ground/platform/settings.ts';
import { PushStore } from './push.store.ts';

const PREFIX = 'zetpush_';
const USED_EVERY = 60_000;
/** For so long the token before is valid beside a new one, so that senders change over one by one. */
const BOTH_VALID = DAY;
const digest = (token: string) => createHash('sha256').update(token).digest('base64url');

interface KeyState {
  readonly tokenHash: string;
  readonly tokenAt: number;
  lastUsedAt: number | null;
  /** The token before, and when it was last used since the start. */
  before: { readonly hash: string; readonly until: number; usedAt: number | null } | null;
  lastNotedAt: number;
}

/** Tokens of push keys: known by their hashes only. */
@Injectable()
export class KeyTokens {
  private readonly keys = new Map<string, KeyState>();
  constructor(
    private readonly store: PushStore,
    private readonly clock: Clock,
  ) {}

  async load(): Promise<void> {
    for (const { key, tokenHash, madeAt, lastUsedAt, beforeHash, beforeUntil } of await this.store.keys())
      this.keys.set(key, {
        tokenHash,
        tokenAt: madeAt.getTime(),
        lastUsedAt: lastUsedAt?.getTime() ?? null,
        before: beforeHash && beforeUntil ? { hash: beforeHash, until: beforeUntil.getTime(), usedAt: null } : null,
        lastNotedAt: 0,
      });
  }
  answer(key: string) {
    const state = this.keys.get(key);
    const before = state?.before ?? null;
    return {
      tokenAt: state?.tokenAt ?? null,
      lastUsedAt: state?.lastUsedAt ?? null,
      before:
        before !== null && before.until > this.clock.now() ? { until: before.until, usedAt: before.usedAt } : null,
    };
  }
  /** A new token, told this once; the one before is valid beside it for a day. */
  async make(key: string): Promise<string> {
    const token = `${PREFIX}${randomBytes(32).toString('base64url')}`;
    const now = this.clock.now();
    const until = now + BOTH_VALID;
    await this.store.keep(key, digest(token), new Date(now), new Date(until));
    const known = this.keys.get(key);
    this.keys.set(key, {
      tokenHash: digest(token),
      tokenAt: now,
      lastUsedAt: null,
      before: known ? { hash: known.tokenHash, until, usedAt: known.lastUsedAt } : null,
      lastNotedAt: 0,
    });
    return token;
  }
  async endBefore(key: string): Promise<void> {
    await this.store.endBefore(key);
    const known = this.keys.get(key);
    if (known) known.before = null;
  }
  async remove(key: string): Promise<void> {
    this.keys.delete(key);
    await this.store.remove(key);
  }

  /** Whose token it is, and what notes that it was used; null where it is nobody's. */
  keyOf(token: string): { readonly name: string; readonly used: () => Promise<void> } | null {
    const hash = digest(token);
    const now = this.clock.now();
    const isOf = ({ tokenHash, before }: KeyState) =>
      tokenHash === hash || (before !== null && before.hash === hash && before.until > now);
    const found = token.startsWith(PREFIX) ? [...this.keys].find(([, state]) => isOf(state)) : undefined;
    if (!found) return null;
    const [name, state] = found;
    return { name, used: () => this.used(name, state, hash) };
  }
  private async used(key: string, state: KeyState, hash: string): Promise<void> {
    const now = this.clock.now();
    if (state.tokenHash !== hash) {
      if (state.before) state.before.usedAt = now;
      return;
    }
    state.lastUsedAt = now;
    if (now - state.lastNotedAt <= USED_EVERY) return;
    state.lastNotedAt = now;
    await this.store.used(key, new Date(now));
  }
}
