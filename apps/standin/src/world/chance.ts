/** Deterministic numbers from a text: same text, same numbers, on every machine. */
export function hashOf(text: string): number {
  let hash = 2166136261;
  for (let i = 0; i < text.length; i++) {
    hash ^= text.charCodeAt(i);
    hash = Math.imul(hash, 16777619);
  }
  hash ^= hash >>> 16;
  hash = Math.imul(hash, 0x85ebca6b);
  hash ^= hash >>> 13;
  return hash >>> 0;
}

/** 0 … 1, from a text. */
export const shareOf = (text: string): number => hashOf(text) / 4294967296;

export function dice(seed: string): () => number {
  let state = hashOf(seed);
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed = (mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed)) ^ mixed;
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
  };
}

const ALPHABET = 'bcdfghjklmnpqrstvwxz2456789';
export function nameSuffix(seed: string, length: number): string {
  const roll = dice(seed);
  return Array.from({ length }, () => ALPHABET[Math.floor(roll() * ALPHABET.length)]).join('');
}

export function uidOf(seed: string): string {
  const hex = [0, 1, 2, 3].map((part) => hashOf(`${seed}#${part}`).toString(16).padStart(8, '0')).join('');
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-4${hex.slice(13, 16)}-8${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}
