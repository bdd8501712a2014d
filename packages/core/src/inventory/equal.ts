/** Whether two plain values say the same, in whichever order their fields stand: a database may keep them in its own. */
export function equal(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a) || Array.isArray(b)) {
    if (!Array.isArray(a) || !Array.isArray(b) || a.length !== b.length) return false;
    return a.every((value, i) => equal(value, b[i]));
  }
  const left = a as Record<string, unknown>; // no list, no null: an object
  const right = b as Record<string, unknown>;
  let count = 0;
  for (const key in left) {
    if (left[key] === undefined) continue;
    count++;
    if (!equal(left[key], right[key])) return false;
  }
  for (const key in right) if (right[key] !== undefined) count--;
  return count === 0;
}
