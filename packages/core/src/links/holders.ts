import type { EpochMs } from '../units/index.ts';
import { endKey, type LinkEnd } from './link.ts';

/** Who has an address, since when. */
export interface Holder {
  readonly end: LinkEnd;
  readonly since: EpochMs;
}
/** So many earlier holders of one address are known. */
const MOST_EARLIER = 8;
/** So many addresses are known; of more, those that changed hands longest ago are forgotten, and found anew where they stand. */
const MOST_ADDRESSES = 100_000;

/** Who had which address when, as far as it was looked at. */
export class AddressHolders {
  /** By address, the newest last. */
  private readonly holders = new Map<string, Holder[]>();

  /** What stands now. A pod that came since has its address since it came; an address that nobody has stays with whoever had it last. */
  note(now: Iterable<readonly [address: string, holder: Holder]>, at: EpochMs): void {
    for (const [address, { end, since }] of now) {
      const known = this.holders.get(address);
      const last = known?.at(-1);
      if (last && endKey(last.end) === endKey(end)) continue;
      const from = last ? Math.min(at, Math.max(since, last.since + 1)) : Math.min(at, since);
      this.holders.delete(address);
      this.holders.set(address, [...(known ?? []).slice(1 - MOST_EARLIER), { end, since: from }]);
    }
    for (const [oldest] of this.holders) {
      if (this.holders.size <= MOST_ADDRESSES) return;
      this.holders.delete(oldest);
    }
  }
  /** Null of an address that nobody was seen to have. */
  at(address: string, moment: EpochMs): LinkEnd | null {
    const known = this.holders.get(address);
    return (known?.findLast(({ since }) => since <= moment) ?? known?.[0])?.end ?? null;
  }
  /** Whether it came to somebody else within (from, to]. */
  changedWithin(address: string, from: EpochMs, to: EpochMs): boolean {
    const known = this.holders.get(address) ?? [];
    return known.some(({ since }, i) => i > 0 && since > from && since <= to);
  }
}
