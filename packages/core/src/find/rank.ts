/**
 * How well a name answers what somebody typed, 0 … 1; 0: not at all. The whole name, its beginning, the beginning of one
 * of its words, somewhere inside, every word typed somewhere, one or two letters wrong, in this order; of those alike the
 * shorter name.
 */
export function rankOf(typed: string, name: string): number {
  const wanted = plain(typed);
  const own = plain(name);
  if (wanted === '' || own === '') return 0;
  const shorter = 1 / (1 + own.length / 40);
  if (own === wanted) return 1;
  if (own.startsWith(wanted)) return 0.85 + 0.1 * shorter;
  const at = own.indexOf(wanted);
  if (at > 0) return (own[at - 1] === ' ' ? 0.7 : 0.55) + 0.1 * shorter;
  const words = wanted.split(' ');
  if (words.length > 1 && words.every((word) => own.includes(word))) return 0.45 + 0.1 * shorter;
  const most = wanted.length >= 8 ? 2 : wanted.length >= 4 ? 1 : 0;
  if (most === 0) return 0;
  const off = nearest(wanted, own, most);
  return off === null ? 0 : 0.3 - 0.1 * off + 0.05 * shorter;
}

/** Small letters; whatever parts words is one blank. */
const plain = (text: string): string =>
  text
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** Letters that are wrong, missing, too many or swapped (Damerau 1964), to the nearest beginning of a word; null: more than `most`. */
function nearest(wanted: string, own: string, most: number): number | null {
  let best: number | null = null;
  for (let start = 0; start < own.length; start++) {
    if (start > 0 && own[start - 1] !== ' ') continue;
    const off = distanceToBeginning(wanted, own.slice(start, start + wanted.length + most), most);
    if (off !== null && (best === null || off < best)) best = off;
    if (best === 0) break;
  }
  return best;
}
/** The least distance of `wanted` to any beginning of `own`. */
function distanceToBeginning(wanted: string, own: string, most: number): number | null {
  // the first letter is seldom wrong: most names are told apart by it at once
  if (wanted[0] !== own[0] && wanted[1] !== own[0] && wanted[0] !== own[1]) return null;
  let before: number[] = [];
  let last = Array.from({ length: own.length + 1 }, (_, i) => i);
  for (let i = 1; i <= wanted.length; i++) {
    const row = [i];
    for (let n = 1; n <= own.length; n++) {
      const same = wanted[i - 1] === own[n - 1] ? 0 : 1;
      let off = Math.min(last[n]! + 1, row[n - 1]! + 1, last[n - 1]! + same);
      if (i > 1 && n > 1 && wanted[i - 1] === own[n - 2] && wanted[i - 2] === own[n - 1])
        off = Math.min(off, before[n - 2]! + 1);
      row.push(off);
    }
    if (Math.min(...row) > most) return null;
    before = last;
    last = row;
  }
  const off = Math.min(...last);
  return off <= most ? off : null;
}

/** The best of many, best first. What is gone stands behind what is there and answers as well. Looked at one by one. */
export class Ranking<T extends { readonly name: string; readonly gone?: boolean }> {
  private readonly found: { candidate: T; rank: number }[] = [];
  private readonly typed: string;
  constructor(typed: string) {
    this.typed = typed;
  }

  add(candidate: T): void {
    const rank = rankOf(this.typed, candidate.name) * (candidate.gone === true ? 0.9 : 1);
    if (rank > 0) this.found.push({ candidate, rank });
  }
  best(most: number): T[] {
    return this.found
      .sort((a, b) => b.rank - a.rank || (a.candidate.name < b.candidate.name ? -1 : 1))
      .slice(0, most)
      .map(({ candidate }) => candidate);
  }
}
/** The same of few. */
export function ranked<T extends { readonly name: string; readonly gone?: boolean }>(
  typed: string,
  candidates: Iterable<T>,
  most: number,
): T[] {
  const ranking = new Ranking<T>(typed);
  for (const candidate of candidates) ranking.add(candidate);
  return ranking.best(most);
}
