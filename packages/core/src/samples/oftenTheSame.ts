/** What is written of a list of numbers; of the same list as the last time it is not written again. */
export function oftenTheSame(write: (list: ArrayLike<number>) => Uint8Array): (list: ArrayLike<number>) => Uint8Array {
  let last: { readonly list: Float64Array; readonly bytes: Uint8Array } | null = null;
  return (list) => {
    if (last === null || !same(last.list, list)) last = { list: Float64Array.from(list), bytes: write(list) };
    return last.bytes;
  };
}
function same(one: Float64Array, other: ArrayLike<number>): boolean {
  if (one.length !== other.length) return false;
  for (let i = 0; i < one.length; i++) if (!Object.is(one[i], other[i])) return false;
  return true;
}
