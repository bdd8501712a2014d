import type { DurationMs } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { SharedWork } from './question.ts';

/** What was worked out lately, by key: once for all who ask meanwhile; what failed, or what nobody waited for any more, is worked out anew. */
export class HeldWork<K extends string | number, V> {
  private readonly held: LRUCache<K, SharedWork<V>>;
  constructor(
    private readonly what: string,
    { max, holds }: { readonly max: number; readonly holds: DurationMs },
  ) {
    this.held = new LRUCache({ max, ttl: holds });
  }
  get(key: K, work: () => Promise<V>): Promise<V> {
    const known = this.held.get(key);
    if (known && !known.abandoned) return known.wait();
    const begun: SharedWork<V> = new SharedWork(this.what, async () => {
      try {
        return await work();
      } catch (error) {
        if (this.held.peek(key) === begun) this.held.delete(key);
        throw error;
      }
    });
    this.held.set(key, begun);
    return begun.wait();
  }
}
