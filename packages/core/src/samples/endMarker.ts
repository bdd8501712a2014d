/**
 * The mark "this series ended here": a quiet NaN with a tag in its low word. A signalling NaN would lose its bits on the
 * way through a JavaScript array (design/storage.md).
 */
const TAG = 0x5a45_0001;
const words = new Uint32Array(2);
const double = new Float64Array(words.buffer);
const HIGH = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1 ? 1 : 0;

words[HIGH] = 0x7ff8_0000;
words[1 - HIGH] = TAG;
export const END_MARKER: number = double[0]!;

export function isEndMarker(value: number): boolean {
  if (!Number.isNaN(value)) return false;
  double[0] = value;
  return words[1 - HIGH] === TAG && words[HIGH] === 0x7ff8_0000;
}
