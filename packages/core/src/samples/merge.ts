import type { Samples } from './chunk.ts';

export interface Merged {
  /** Samples that are stored now and were not before. */
  readonly added: number;
  /** Samples of a moment that had one already: of the same value, and of another one. The first counts. */
  readonly same: number;
  readonly other: number;
}

/** Two lists in order of time as one; where both have a moment, `before` counts. */
export function mergeSamples(before: Samples, more: Samples): { samples: Samples } & Merged {
  const times = new Float64Array(before.times.length + more.times.length);
  const values = new Float64Array(times.length);
  let count = 0;
  let same = 0;
  let other = 0;
  let b = 0;
  for (let m = 0; m <= more.times.length; m++) {
    const until = m < more.times.length ? more.times[m]! : Number.POSITIVE_INFINITY;
    for (; b < before.times.length && before.times[b]! <= until; b++) {
      times[count] = before.times[b]!;
      values[count++] = before.values[b]!;
    }
    if (m === more.times.length) break;
    if (count > 0 && times[count - 1] === until) {
      if (Object.is(values[count - 1], more.values[m]!)) same++;
      else other++;
      continue;
    }
    times[count] = until;
    values[count++] = more.values[m]!;
  }
  return {
    samples: { times: times.subarray(0, count), values: values.subarray(0, count) },
    added: count - before.times.length,
    same,
    other,
  };
}
