import { type By, namesOf, type ObjectPath, readPath } from '@zetopsis/contract';

const isOf = (path: readonly string[]): ObjectPath['is'] | undefined => readPath(path)?.is;

/** The parts of a path as a person reads them: "deployment:booking-front" is booking-front, "node:seaward-07" is seaward-07. */
export function namesIn(parts: readonly string[]): readonly string[] {
  const path = readPath(parts);
  return path === null ? parts : namesOf(path);
}
export const lastName = (path: readonly string[]): string => namesIn(path).at(-1) ?? '';
/** `from`: leave out the first parts, which the surroundings say already. */
export const pathWords = (path: readonly string[], from = 0): string => namesIn(path).slice(from).join(' › ');

/** As far as an object can stand there: an address may have been cut, or written by hand. */
export function readableFront(path: readonly string[]): readonly string[] {
  let front = path;
  while (readPath(front) === null) front = front.slice(0, -1);
  return front;
}
/** A team's share is a way to its namespaces, not a part of their path. */
export const pastTeam = (path: readonly string[]): readonly string[] =>
  path.length > 2 && isOf(path.slice(0, 2)) === 'team' ? [path[0]!, ...path.slice(2)] : path;
/** Whether a path goes over a node, to its pods. */
export function overNode(parts: readonly string[]): boolean {
  const path = readPath(parts);
  return path !== null && 'node' in path && path.node !== null;
}
/** Whether a path names something that has no parts and uses nothing itself. */
export const isThing = (path: readonly string[]): boolean =>
  ['host', 'accessory', 'persistent volume'].includes(isOf(path) ?? '');

const LONG = 10;
const SHORTEST_END = 4;
const LONGEST_END = 11;
/** Front and end of a name: the end is its last part, or two where that is short; a short name has none. Both together are the name. */
export function nameParts(name: string): readonly [front: string, end: string] {
  if (name.length <= LONG) return [name, ''];
  let at = name.length;
  while (name.length - at < SHORTEST_END) {
    const next = Math.max(...['-', '.', '/', ' '].map((mark) => name.lastIndexOf(mark, at - 1)));
    if (next <= 0 || name.length - next > LONGEST_END) break;
    at = next;
  }
  const end = name.length - at < SHORTEST_END ? name.length - 6 : at;
  return [name.slice(0, end), name.slice(end)];
}

/** Pods of one workload share the front of their names: what differs is what one reads. `hash` where they differ in that, too. */
export function shortPodName(name: string, workload: string, hash: boolean): string {
  if (!name.startsWith(`${workload}-`)) return name;
  const parts = name.slice(workload.length + 1).split('-');
  const last = parts.pop() ?? '';
  const before = parts.pop();
  return before === undefined || !hash ? `…${last}` : `…${before.slice(-4)}-${last}`;
}

/** Whether these pods come from more than one version of their workload. */
export const differInHash = (names: readonly string[]): boolean =>
  new Set(names.map((name) => name.slice(0, name.lastIndexOf('-')))).size > 1;

/** What stands below the clusters: a path that is chosen says it itself. */
export const byOf = ({ path, by }: { readonly path: readonly string[]; readonly by: By }): By =>
  overNode(path) ? 'node' : isOf(path) === 'team' ? 'team' : path.length > 1 ? 'namespace' : by;
