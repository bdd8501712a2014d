/** A link as it is walked along: who calls whom, and how much. */
export interface WalkedLink {
  readonly from: string;
  readonly to: string;
  /** Per second. */
  readonly rate: number;
}
export interface Dependant {
  readonly key: string;
  /** How many links away. */
  readonly depth: number;
  /** Of what it sends in all, what goes the way that leads there; of what a need receives in all, what comes from here. 0 to 1. */
  readonly share: number;
}
const DEEPEST = 8;

/**
 * Who would be hit if something went (`callers`), or what it needs (`answerers`): nearest first. The share is the product along the way that
 * carries most: of each step what part of all that it sends (or receives) goes over it.
 */
export function dependants(links: readonly WalkedLink[], start: string, side: 'callers' | 'answerers'): Dependant[] {
  const [here, there] = side === 'callers' ? (['to', 'from'] as const) : (['from', 'to'] as const);
  const carried = links.filter(({ rate }) => rate > 0);
  const all = new Map<string, number>();
  for (const link of carried) all.set(link[there], (all.get(link[there]) ?? 0) + link.rate);
  const found = new Map<string, Dependant>();
  let edge: Dependant[] = [{ key: start, depth: 0, share: 1 }];
  for (let depth = 1; depth <= DEEPEST && edge.length > 0; depth++) {
    const next = new Map<string, Dependant>();
    const shares = new Map(edge.map(({ key, share }) => [key, share]));
    for (const link of carried) {
      const behind = shares.get(link[here]);
      const key = link[there];
      if (behind === undefined || key === start || found.has(key)) continue;
      const share = behind * Math.min(1, link.rate / all.get(key)!); // it was summed above
      const known = next.get(key);
      // several ways of one length lead there together
      next.set(key, { key, depth, share: Math.min(1, share + (known?.share ?? 0)) });
    }
    for (const one of next.values()) found.set(one.key, one);
    edge = [...next.values()];
  }
  return [...found.values()].sort((a, b) => a.depth - b.depth || b.share - a.share || (a.key < b.key ? -1 : 1));
}
