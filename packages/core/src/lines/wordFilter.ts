const BITS_PER_WORD = 10;
const HASHES = 5;
const MOST_BYTES = 64 * 1024;

/** The words of a text as a search would ask for them: rows of letters and digits, lower case. */
export function* searchWords(text: string): Generator<string> {
  for (const [word] of text.toLowerCase().matchAll(/[\p{L}\p{N}_]{1,64}/gu)) yield word;
}
/** Two hashes of 32 bits in one walk (FNV-1a, with two beginnings). */
function hashes(word: string): [number, number] {
  let a = 0x811c9dc5;
  let b = 0x050c5d1f;
  for (let i = 0; i < word.length; i++) {
    const code = word.charCodeAt(i);
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ code, 0x01000193);
  }
  return [a >>> 0, (b | 1) >>> 0];
}

/** Which words occur, in ten bits a word: one that occurs is always found, another one in about one case in a hundred. */
export function wordFilter(words: ReadonlySet<string>): Uint8Array {
  const bytes = new Uint8Array(Math.min(MOST_BYTES, Math.max(8, Math.ceil((words.size * BITS_PER_WORD) / 8))));
  for (const word of words) for (const bit of bitsOf(word, bytes.length * 8)) bytes[bit >> 3]! |= 1 << (bit & 7);
  return bytes;
}
export const mayHold = (filter: Uint8Array, word: string): boolean =>
  bitsOf(word.toLowerCase(), filter.length * 8).every((bit) => (filter[bit >> 3]! & (1 << (bit & 7))) !== 0);

function bitsOf(word: string, bits: number): number[] {
  const [a, b] = hashes(word);
  return Array.from({ length: HASHES }, (_, i) => (a + i * b) % bits);
}
