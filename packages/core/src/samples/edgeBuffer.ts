import type { EpochMs } from '../units/index.ts';

const ROOM = 16;

/**
 * Samples of one series in order of time; the first of two at one time counts. Typed, since an ordinary list may lose
 * the tag of an end marker. Grows at its end. What was handed out stays as it was: appending writes behind it, and everything else makes new lists.
 */
export class EdgeBuffer {
  private times = new Float64Array(ROOM);
  private values = new Float64Array(ROOM);
  private length = 0;

  get series(): { readonly times: Float64Array; readonly values: Float64Array } {
    return { times: this.times.subarray(0, this.length), values: this.values.subarray(0, this.length) };
  }
  add(at: EpochMs, value: number): void {
    let place = this.length;
    while (place > 0 && this.times[place - 1]! > at) place--;
    if (place > 0 && this.times[place - 1] === at) return;
    if (place < this.length || this.length === this.times.length) this.move(0, this.length, place);
    this.times[place] = at;
    this.values[place] = value;
    this.length++;
  }
  /** How many are left. */
  cut(before: EpochMs): number {
    let first = 0;
    while (first < this.length && this.times[first]! < before) first++;
    if (first > 0) {
      const { length } = this;
      this.length -= first;
      this.move(first, length, this.length);
    }
    return this.length;
  }
  /** New lists with the samples `from` … `to`, and a place left free at `gap`. */
  private move(from: number, to: number, gap: number): void {
    const room = Math.max(ROOM, (to - from) * 2);
    const moved = (list: Float64Array) => {
      const next = new Float64Array(room);
      next.set(list.subarray(from, from + gap));
      next.set(list.subarray(from + gap, to), gap + 1);
      return next;
    };
    this.times = moved(this.times);
    this.values = moved(this.values);
  }
}
