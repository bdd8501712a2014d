import type { EndpointStore } from './endpoint.store.ts';

interface Unsaid {
  readonly from: number;
  readonly reason: string;
  /** It was Zetopsis itself that read or kept nothing. */
  readonly own: boolean;
  /** It tells more than what is kept of this gap already. */
  readonly instead: boolean;
}

/**
 * Keeps why nothing was read of an endpoint. What cannot be kept, since PostgreSQL is away, is remembered and kept once it is
 * back: else the gap would bear the reason that one thinks of afterwards.
 */
export class Gaps {
  private readonly unsaid = new Map<number, Unsaid>();
  /** Nothing is open of these: most endpoints are read again and again. */
  private readonly shut = new Set<number>();
  /** Readings given up since the newest one that was kept. */
  private readonly lost = new Map<number, number>();
  constructor(
    private readonly store: Pick<EndpointStore, 'openGap' | 'reopenGap' | 'closeGap'>,
    private readonly failed: (endpointId: number, error: unknown) => void,
  ) {}

  /** The first reason of a gap is the one that counts. */
  async open(
    endpointId: number,
    { from, reason, own = false }: { readonly from: number; readonly reason: string; readonly own?: boolean },
  ): Promise<void> {
    await this.say(endpointId, { from, reason, own, instead: false });
  }
  /** A reading was taken and could not be kept. */
  async givenUp(endpointId: number, from: number, why: string): Promise<void> {
    const count = (this.lost.get(endpointId) ?? 0) + 1;
    this.lost.set(endpointId, count);
    const readings = count === 1 ? 'One reading was' : `${count} readings were`;
    const reason = `${readings} given up: PostgreSQL did not take what was read (${why}), and no more of it could wait.`;
    await this.say(endpointId, { from, reason, own: true, instead: true });
  }
  /** A reading was kept: what is to be said of the time before it is said first. */
  async close(endpointId: number, at: number): Promise<void> {
    this.lost.delete(endpointId);
    const unsaid = this.unsaid.get(endpointId);
    if (unsaid && unsaid.from < at) {
      await this.keep(endpointId, unsaid);
      this.unsaid.delete(endpointId);
    } else if (this.shut.has(endpointId)) return;
    // said before it is done: one that opens meanwhile is open
    this.shut.add(endpointId);
    try {
      await this.store.closeGap(endpointId, at);
    } catch (error) {
      this.shut.delete(endpointId);
      throw error;
    }
  }
  /** Somebody else may have left one open. */
  maybeOpen(endpointId: number): void {
    this.shut.delete(endpointId);
  }
  /** Whether there is a reason already for a gap that ends now. */
  known(endpointId: number): boolean {
    return this.unsaid.has(endpointId);
  }
  forget(endpointId: number): void {
    this.shut.delete(endpointId);
    this.unsaid.delete(endpointId);
    this.lost.delete(endpointId);
  }

  private async say(endpointId: number, gap: Unsaid): Promise<void> {
    this.shut.delete(endpointId);
    const before = this.unsaid.get(endpointId);
    const own = before ? { ...(gap.instead ? gap : before), from: Math.min(before.from, gap.from) } : gap;
    try {
      await this.keep(endpointId, own);
      this.unsaid.delete(endpointId);
    } catch (error) {
      this.unsaid.set(endpointId, own);
      this.failed(endpointId, error);
    }
  }
  private keep(endpointId: number, { from, reason, own, instead }: Unsaid): Promise<void> {
    return instead
      ? this.store.reopenGap(endpointId, from, reason)
      : this.store.openGap({ endpointId, from, reason, own });
  }
}
