const PIECE = 8192;
/** What is longer gets memory of its own. */
const LONG = PIECE / 8;

let piece = new Float64Array(0);
let used = 0;

/**
 * Zeros to write numbers into, out of a larger piece of memory. Tens of thousands of lists that each lie in memory of their
 * own keep whoever collects them busier than whoever fills them. A piece is free again once none of its lists is used; its
 * memory must not be handed to another thread.
 */
export function roomFor(length: number): Float64Array {
  if (length > LONG) return new Float64Array(length);
  if (used + length > piece.length) {
    piece = new Float64Array(PIECE);
    used = 0;
  }
  const room = piece.subarray(used, used + length);
  used += length;
  return room;
}
