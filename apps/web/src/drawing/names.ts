import type { By } from '@zetopsis/contract';

/** A part of a path as a person reads it: "deployment:booking-front" is booking-front, "node:seaward-07" is seaward-07. */
export function partName(part: string, index: number): string {
  return index <= 2 && part.includes(':') ? part.slice(part.indexOf(':') + 1) : part;
}
/** Whether a path names a machine outside all clusters. */
const isHost = (path: readonly string[]): boolean => path[0]?.startsWith('host:') ?? false;
/** A team's share is a way to its namespaces, not a part of their path. */
export const pastTeam = (path: readonly string[]): readonly string[] =>
  path.length > 2 && path[1]?.startsWith('team:') ? [path[0]!, ...path.slice(2)] : path;
/** Whether a path goes over a node, to its pods. */
export const overNode = (path: readonly string[]): boolean => path[1]?.startsWith('node:') ?? false;
/** `from`: leave out the first parts, which the surroundings say already. */
export const pathWords = (path: readonly string[], from = 0): string => path.map(partName).slice(from).join(' › ');

const THINGS = /^(service|volume-claim|quota|limit-range|autoscaler|disruption-budget|config-map|secret):/;
/** Whether a path names something that has no parts and uses nothing itself. */
export const isThing = (path: readonly string[]): boolean =>
  isHost(path) || THINGS.test(path[2] ?? '') || (path[1]?.startsWith('persistent-volume:') ?? false);

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
  overNode(path) ? 'node' : path[1]?.startsWith('team:') ? 'team' : path.length > 1 ? 'namespace' : by;
