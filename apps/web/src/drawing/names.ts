/** A part of a path as a person reads it: "deployment:booking-front" is booking-front. */
export function partName(part: string, index: number): string {
  return index === 2 && part.includes(':') ? part.slice(part.indexOf(':') + 1) : part;
}
export const pathWords = (path: readonly string[]): string => path.map(partName).join(' › ');

/** Pods of one workload share the front of their names: what differs, and the end of the hash before it, is what one reads. */
export function shortPodName(name: string, workload: string): string {
  if (!name.startsWith(`${workload}-`)) return name;
  const parts = name.slice(workload.length + 1).split('-');
  const last = parts.pop() ?? '';
  const before = parts.pop();
  return before === undefined ? `…${last}` : `…${before.slice(-4)}-${last}`;
}
