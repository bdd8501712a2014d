import type { SeriesId } from '../units/index.ts';
import type { Labels } from './seriesKey.ts';

export type LabelMatch =
  | { readonly label: string; readonly is: string }
  | { readonly label: string; readonly isOneOf: ReadonlySet<string> };

export interface SeriesEntry {
  readonly id: SeriesId;
  /** The endpoint it was read from: two endpoints may serve series of the same name and labels. */
  readonly endpoint: number;
  readonly metric: string;
  readonly labels: Labels;
  readonly cumulative: boolean;
}

/** Ascending ids, at the front of a list with room for more. */
class Posting {
  ids = new Int32Array(4);
  length = 0;
  add(id: SeriesId): void {
    if (this.length === this.ids.length) this.ids = grownTo(this.ids, this.length * 2);
    let place = this.length++;
    // ids mostly come in ascending order
    while (place > 0 && this.ids[place - 1]! > id) {
      this.ids[place] = this.ids[place - 1]!;
      place--;
    }
    this.ids[place] = id;
  }
  get list(): Int32Array {
    return this.ids.subarray(0, this.length);
  }
}
const NONE = new Int32Array(0);

function grownTo(list: Int32Array, length: number): Int32Array<ArrayBuffer> {
  const larger = new Int32Array(length);
  larger.set(list);
  return larger;
}

const GONE = -1;

/**
 * All series by number, by identity, and by their labels, in typed lists: about a hundred bytes a series.
 *   row of series id: rows[id] - 1 (0: none) · row r: ids[r], endpoints[r] (GONE when it was removed), metrics[r],
 *   its label pairs: pool[starts[r] .. starts[r + 1]) · pair p: pairNames[p], pairValues[p]
 *   places: hash table by endpoint, metric and pairs, each entry a row + 1
 */
export class SeriesTable {
  private rows = new Int32Array(1024);
  private ids = new Int32Array(1024);
  private endpoints = new Int32Array(1024);
  private metrics = new Int32Array(1024);
  private cumulative = new Uint8Array(1024);
  private starts = new Int32Array(1025);
  private pool = new Int32Array(8192);
  private length = 0;
  private removed = 0;
  private places = new Int32Array(4096);

  private readonly metricNumbers = new Map<string, number>();
  private readonly metricNames: string[] = [];
  private readonly metricPostings: Posting[] = [];
  /** By label name, then value: the number of the pair. */
  private readonly pairNumbers = new Map<string, Map<string, number>>();
  private readonly pairNames: string[] = [];
  private readonly pairValues: string[] = [];
  private readonly pairPostings: Posting[] = [];
  private readonly perEndpoint = new Map<number, number>();

  get size(): number {
    return this.length - this.removed;
  }
  /** Every series, in the order in which they came. */
  *all(): Generator<{ id: SeriesId; endpoint: number; metric: string }> {
    for (let row = 0; row < this.length; row++)
      if (this.endpoints[row] !== GONE)
        yield { id: this.ids[row]!, endpoint: this.endpoints[row]!, metric: this.metricNames[this.metrics[row]!]! };
  }
  /** Of the metrics that some series have, or had, the one that came at this place, from 0 on. */
  metricAt(place: number): string | undefined {
    return this.metricNames[place];
  }
  countOf(endpoint: number): number {
    return this.perEndpoint.get(endpoint) ?? 0;
  }

  /** A series that is known already stays as it is. */
  add({ id, endpoint, metric, labels, cumulative }: SeriesEntry): void {
    if (this.has(id)) return;
    this.makeRoom(id, labels.length);
    const row = this.length++;
    this.rows[id] = row + 1;
    this.ids[row] = id;
    this.endpoints[row] = endpoint;
    this.cumulative[row] = cumulative ? 1 : 0;
    const metricNumber = this.metricNumber(metric);
    this.metrics[row] = metricNumber;
    this.metricPostings[metricNumber]!.add(id);
    let at = this.starts[row]!;
    for (const [name, value] of labels) {
      const pair = this.pairNumber(name, value);
      this.pool[at++] = pair;
      this.pairPostings[pair]!.add(id);
    }
    this.starts[row + 1] = at;
    this.place(row);
    this.perEndpoint.set(endpoint, this.countOf(endpoint) + 1);
  }

  /** The series of an endpoint with just these labels. */
  find(endpoint: number, metric: string, labels: Labels): SeriesId | undefined {
    const metricNumber = this.metricNumbers.get(metric);
    if (metricNumber === undefined) return undefined;
    const pairs: number[] = [];
    for (const [name, value] of labels) {
      const pair = this.pairNumbers.get(name)?.get(value);
      if (pair === undefined) return undefined;
      pairs.push(pair);
    }
    const mask = this.places.length - 1;
    for (let at = hashOf(endpoint, metricNumber, pairs, 0, pairs.length) & mask; ; at = (at + 1) & mask) {
      const row = this.places[at]! - 1;
      if (row < 0) return undefined;
      if (this.isRow(row, endpoint, metricNumber, pairs)) return this.ids[row]!;
    }
  }
  private isRow(row: number, endpoint: number, metric: number, pairs: readonly number[]): boolean {
    if (this.endpoints[row] !== endpoint || this.metrics[row] !== metric) return false;
    const start = this.starts[row]!;
    if (this.starts[row + 1]! - start !== pairs.length) return false;
    for (let i = 0; i < pairs.length; i++) if (this.pool[start + i] !== pairs[i]) return false;
    return true;
  }

  has(id: SeriesId): boolean {
    return this.rowOf(id) >= 0;
  }
  private rowOf(id: SeriesId): number {
    const row = (this.rows[id] ?? 0) - 1;
    return row >= 0 && this.endpoints[row] !== GONE ? row : -1;
  }
  endpointOf(id: SeriesId): number | undefined {
    const row = this.rowOf(id);
    return row < 0 ? undefined : this.endpoints[row];
  }
  metricOf(id: SeriesId): string {
    const row = this.rowOf(id);
    return row < 0 ? '' : this.metricNames[this.metrics[row]!]!;
  }
  isCumulative(id: SeriesId): boolean {
    const row = this.rowOf(id);
    return row >= 0 && this.cumulative[row] === 1;
  }
  /** Empty where the series does not bear it. */
  label(id: SeriesId, name: string): string {
    const row = this.rowOf(id);
    if (row < 0) return '';
    for (let at = this.starts[row]!; at < this.starts[row + 1]!; at++)
      if (this.pairNames[this.pool[at]!] === name) return this.pairValues[this.pool[at]!]!;
    return '';
  }
  labels(id: SeriesId): Labels {
    const row = this.rowOf(id);
    if (row < 0) return [];
    return Array.from(
      this.pool.subarray(this.starts[row], this.starts[row + 1]),
      (pair) => [this.pairNames[pair]!, this.pairValues[pair]!] as const,
    );
  }

  remove(id: SeriesId): void {
    const row = this.rowOf(id);
    if (row < 0) return;
    const endpoint = this.endpoints[row]!;
    this.perEndpoint.set(endpoint, this.countOf(endpoint) - 1);
    this.endpoints[row] = GONE;
    this.removed++;
  }
  /** Removes all series of an endpoint. */
  forget(endpoint: number): void {
    for (let row = 0; row < this.length; row++) if (this.endpoints[row] === endpoint) this.remove(this.ids[row]!);
    this.perEndpoint.delete(endpoint);
  }

  /** Each value of a label with each endpoint whose series bear it. */
  *withLabel(name: string): Generator<{ value: string; endpoint: number }> {
    for (const [value, pair] of this.pairNumbers.get(name) ?? []) {
      const told = new Set<number>();
      for (const id of this.pairPostings[pair]!.list) {
        const endpoint = this.endpointOf(id);
        if (endpoint === undefined || told.has(endpoint)) continue;
        told.add(endpoint);
        yield { value, endpoint };
      }
    }
  }
  /** Ascending ids of the series of this metric for which every match is true. */
  select(metric: string, matches: readonly LabelMatch[] = []): SeriesId[] {
    const number = this.metricNumbers.get(metric);
    if (number === undefined) return [];
    const lists = [this.metricPostings[number]!.list];
    for (const match of matches) {
      if ('is' in match) lists.push(this.posting(match.label, match.is));
      else lists.push(union([...match.isOneOf].map((value) => this.posting(match.label, value))));
    }
    lists.sort((a, b) => a.length - b.length);
    const found: SeriesId[] = [];
    for (const id of lists.slice(1).reduce(intersect, lists[0]!)) if (this.rowOf(id) >= 0) found.push(id);
    return found;
  }
  private posting(name: string, value: string): Int32Array {
    const pair = this.pairNumbers.get(name)?.get(value);
    return pair === undefined ? NONE : this.pairPostings[pair]!.list;
  }

  private metricNumber(metric: string): number {
    let number = this.metricNumbers.get(metric);
    if (number === undefined) {
      number = this.metricNames.length;
      this.metricNumbers.set(metric, number);
      this.metricNames.push(metric);
      this.metricPostings.push(new Posting());
    }
    return number;
  }
  private pairNumber(name: string, value: string): number {
    let values = this.pairNumbers.get(name);
    if (!values) {
      values = new Map();
      this.pairNumbers.set(name, values);
    }
    let number = values.get(value);
    if (number === undefined) {
      number = this.pairNames.length;
      values.set(value, number);
      this.pairNames.push(name);
      this.pairValues.push(value);
      this.pairPostings.push(new Posting());
    }
    return number;
  }

  private makeRoom(id: SeriesId, labels: number): void {
    if (id >= this.rows.length) this.rows = grownTo(this.rows, Math.max(id + 1, this.rows.length * 2));
    if (this.length === this.ids.length) {
      const length = this.length * 2;
      this.ids = grownTo(this.ids, length);
      this.endpoints = grownTo(this.endpoints, length);
      this.metrics = grownTo(this.metrics, length);
      this.starts = grownTo(this.starts, length + 1);
      const cumulative = new Uint8Array(length);
      cumulative.set(this.cumulative);
      this.cumulative = cumulative;
    }
    const end = this.starts[this.length]! + labels;
    if (end > this.pool.length) this.pool = grownTo(this.pool, Math.max(end, this.pool.length * 2));
    if ((this.length + 1) * 2 > this.places.length) {
      this.places = new Int32Array(this.places.length * 2);
      for (let row = 0; row < this.length; row++) this.place(row);
    }
  }
  private place(row: number): void {
    const mask = this.places.length - 1;
    const hash = hashOf(this.endpoints[row]!, this.metrics[row]!, this.pool, this.starts[row]!, this.starts[row + 1]!);
    let at = hash & mask;
    while (this.places[at] !== 0) at = (at + 1) & mask;
    this.places[at] = row + 1;
  }
}

function hashOf(endpoint: number, metric: number, pairs: ArrayLike<number>, from: number, to: number): number {
  let hash = Math.imul(endpoint ^ 0x811c9dc5, 0x01000193);
  hash = Math.imul(hash ^ metric, 0x85ebca6b);
  for (let i = from; i < to; i++) hash = Math.imul((hash ^ pairs[i]!) + 0x9e3779b9, 0x01000193) ^ (hash >>> 15);
  return (hash ^ (hash >>> 13)) >>> 0;
}

function union(lists: readonly Int32Array[]): Int32Array {
  const all = new Set<number>();
  for (const list of lists) for (const id of list) all.add(id);
  return Int32Array.from(all).sort();
}

/** Both ascending; the shorter one leads, and the longer one is searched in growing steps. */
function intersect(short: Int32Array, long: Int32Array): Int32Array {
  const both = new Int32Array(short.length);
  let count = 0;
  let low = 0;
  for (const id of short) {
    let step = 1;
    while (low + step < long.length && long[low + step]! < id) step *= 2;
    let high = Math.min(long.length, low + step + 1);
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (long[middle]! < id) low = middle + 1;
      else high = middle;
    }
    if (long[low] === id) both[count++] = id;
  }
  return both.subarray(0, count);
}
