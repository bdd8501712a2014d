import { Refusal } from '../../ground/platform/refusals.ts';

/** Pushes with one key that are taken in at once: each may be some megabytes. */
const MOST = 16;

/** Pushes that are being taken in, by their key. */
export class InHand {
  private readonly counts = new Map<string, number>();

  /** Answers what is to be called once the push was answered. Throws a refusal when there are too many. */
  take(key: string): () => void {
    const count = this.counts.get(key) ?? 0;
    if (count >= MOST)
      throw new Refusal('tooMany', `${MOST} pushes with this key are in hand already. Send it again.`, [], 1);
    this.counts.set(key, count + 1);
    let open = true;
    return () => {
      if (!open) return;
      open = false;
      const left = this.counts.get(key)! - 1; // it was counted
      if (left > 0) this.counts.set(key, left);
      else this.counts.delete(key);
    };
  }
}
