import type { SeriesId } from '../units/index.ts';
import type { Labels } from './seriesKey.ts';

export type LabelMatch =
  | { readonly label: string; readonly is: string }
  | { readonly label: string; readonly isOneOf: ReadonlySet<string> };

const METRIC = '\u0000metric';

/**
 * Finds series by metric and labels: for every label value the ascending list of series that bear it. Ids
 * mostly come in ascending order, which keeps each list sorted by appending.
 */
export class LabelIndex {
  private readonly postings = new Map<string, Map<string, SeriesId[]>>();

  add(id: SeriesId, metric: string, labels: Labels): void {
    this.post(METRIC, metric, id);
    for (const [name, value] of labels) this.post(name, value, id);
  }

  /** Ascending ids of the series of this metric for which every match is true. */
  select(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    const lists: SeriesId[][] = [this.list(METRIC, metric)];
    for (const match of matches) {
      if ('is' in match) lists.push(this.list(match.label, match.is));
      else lists.push(union([...match.isOneOf].map((value) => this.list(match.label, value))));
    }
    lists.sort((a, b) => a.length - b.length);
    return lists.slice(1).reduce(intersect, lists[0] ?? []);
  }

  values(label: string): string[] {
    return [...(this.postings.get(label)?.keys() ?? [])];
  }

  private post(name: string, value: string, id: SeriesId): void {
    let values = this.postings.get(name);
    if (!values) {
      values = new Map();
      this.postings.set(name, values);
    }
    const list = values.get(value);
    if (!list) values.set(value, [id]);
    else {
      const late = list.length > 0 && list.at(-1)! > id;
      list.push(id);
      if (late) list.sort((a, b) => a - b);
    }
  }

  private list(name: string, value: string): SeriesId[] {
    return this.postings.get(name)?.get(value) ?? [];
  }
}

function union(lists: SeriesId[][]): SeriesId[] {
  return [...new Set(lists.flat())].sort((a, b) => a - b);
}

/** Both ascending; the shorter one leads and the longer one is searched. */
function intersect(short: SeriesId[], long: SeriesId[]): SeriesId[] {
  const both: SeriesId[] = [];
  let low = 0;
  for (const id of short) {
    let high = long.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (long[middle]! < id) low = middle + 1;
      else high = middle;
    }
    if (long[low] === id) both.push(id);
  }
  return both;
}
