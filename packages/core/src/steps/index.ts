/** Runs to the end what yields on its way. */
export function toTheEnd<T>(steps: Generator<unknown, T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

/** The first of many in an order, found step by step: never more than twice as many are sorted at once. */
export function* firstOf<T>(
  items: Iterable<T>,
  most: number,
  order: (a: T, b: T) => number,
): Generator<void, readonly T[]> {
  let kept: T[] = [];
  for (const item of items) {
    kept.push(item);
    if (kept.length >= 2 * most) kept = kept.sort(order).slice(0, most);
    yield;
  }
  return kept.sort(order).slice(0, most);
}

/** Two lists that are each in an order as one in that order, step by step; of equals the first list's come first. */
export function* merged<T>(
  first: readonly T[],
  second: readonly T[],
  order: (a: T, b: T) => number,
): Generator<void, T[]> {
  const all: T[] = [];
  let i = 0;
  for (const item of first) {
    for (let next = second[i]; next !== undefined && order(next, item) < 0; next = second[i]) {
      all.push(next);
      i++;
    }
    all.push(item);
    yield;
  }
  for (; i < second.length; i++) all.push(second[i]!);
  return all;
}
