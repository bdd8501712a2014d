import { hashOf } from './chance.ts';
import type { ApiObject } from './objects.ts';
import type { Wire } from './scenario/plan.ts';
import type { World } from './world.ts';

/** What goes over one wire: from a pod of one workload to one of another. */
export interface WirePair {
  readonly wire: Wire;
  readonly from: ApiObject;
  readonly to: ApiObject;
  /** Both are there since. */
  readonly since: number;
}
const FLOOD = 6;
const bornAt = (pod: ApiObject) => Date.parse(pod.metadata.creationTimestamp);

/** Each pod of the caller talks to each pod of the answerer; of those on a node. */
export const wiresOn = (world: World, node: string | null): WirePair[] =>
  pairsOf(world, world.store.list('pods'), node);
function pairsOf(world: World, pods: readonly ApiObject[], node: string | null): WirePair[] {
  const { wires = [] } = world.options.plan;
  if (wires.length === 0) return [];
  const running = pods.filter((pod) => pod['status'].phase === 'Running');
  const of = (app: string) => running.filter((pod) => pod.metadata.labels?.['app'] === app);
  return wires.flatMap((wire) =>
    of(wire.from)
      .filter((pod) => node === null || pod['spec'].nodeName === node)
      .flatMap((from) => of(wire.to).map((to) => ({ wire, from, to, since: Math.max(bornAt(from), bornAt(to)) }))),
  );
}
/** Bytes that went over it up to a moment: evenly, but for what is the matter between the two. */
export function wireBytes(world: World, { wire, from, to, since }: WirePair, at: number): number {
  const perMs = wire.bytesPerSecond / 1000;
  let ms = Math.max(0, at - since);
  for (const trouble of world.calls.all) {
    if (trouble.from !== wire.from || trouble.to !== wire.to) continue;
    const overlap = Math.max(0, Math.min(at, trouble.until ?? at) - Math.max(since, trouble.since));
    if (trouble.how === 'cut') ms -= overlap;
    if (trouble.how === 'flood') ms += (FLOOD - 1) * overlap;
  }
  // what they had sent each other before anybody counted; those that came since began with nothing
  const before = since < world.options.start ? hashOf(`${from.metadata.uid} ${to.metadata.uid}`) % 100_000 : 0;
  return before + Math.round(ms * perMs);
}
const SECOND = 1000;
/** What went over the network between two moments, by pair of workloads, second by second: of the pods that were there then. */
export function wiresBetween(world: World, from: number, to: number): { from: string; to: string; bytes: number }[] {
  const sums = new Map<string, { from: string; to: string; bytes: number }>();
  const changing = world.store.changesBetween(from, to).length > 0;
  let pods: ApiObject[] | null = null;
  for (let at = from; at < to; at += SECOND) {
    const until = Math.min(to, at + SECOND);
    if (pods === null || changing)
      pods = [...world.store.at(at).values()].flatMap(({ kind, object }) => (kind === 'pods' ? [object] : []));
    for (const pair of pairsOf(world, pods, null)) {
      const key = `${pair.wire.from} → ${pair.wire.to}`;
      const sum = sums.get(key) ?? { from: pair.wire.from, to: pair.wire.to, bytes: 0 };
      sums.set(key, sum);
      sum.bytes += Math.max(0, wireBytes(world, pair, until) - wireBytes(world, pair, at));
    }
  }
  return [...sums.values()];
}
