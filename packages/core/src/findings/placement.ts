import { formatBytes, formatCores, formatCount } from '../format/index.ts';
import type { NodeObject, PodObject, Taint, Toleration } from '../inventory/index.ts';
import { conditionOf, hasEnded, podAmounts } from '../inventory/index.ts';

/** A node and what is left of it for new pods. */
export interface Room {
  readonly node: NodeObject;
  readonly cpu: number | null;
  readonly memory: number | null;
  readonly pods: number | null;
}

/** Allocatable less what the pods placed on each node ask for. */
export function roomsOf(nodes: readonly NodeObject[], pods: readonly PodObject[]): Room[] {
  const asked = new Map<string, { cpu: number; memory: number; pods: number }>();
  for (const pod of pods) {
    if (pod.node === null || hasEnded(pod)) continue;
    const own = asked.get(pod.node) ?? { cpu: 0, memory: 0, pods: 0 };
    own.cpu += podAmounts(pod, 'cpu').request;
    own.memory += podAmounts(pod, 'memory').request;
    own.pods++;
    asked.set(pod.node, own);
  }
  return nodes.map((node) => {
    const { cpu, memory, pods: slots } = node.allocatable;
    const own = asked.get(node.name) ?? { cpu: 0, memory: 0, pods: 0 };
    const left = (all: number | null, taken: number) => (all === null ? null : all - taken);
    return { node, cpu: left(cpu, own.cpu), memory: left(memory, own.memory), pods: left(slots, own.pods) };
  });
}

const tolerated = (taint: Taint, tolerations: readonly Toleration[]): boolean =>
  tolerations.some(
    ({ key, operator, value, effect }) =>
      (effect === '' || effect === taint.effect) &&
      (key === '' ? operator === 'Exists' : key === taint.key && (operator === 'Exists' || value === taint.value)),
  );

/**
 * Why a node does not take a pod, the first reason that holds; null when nothing known keeps it off. Counted as the
 * scheduler counts, as far as the objects tell it.
 */
export function whyNot(pod: PodObject, { node, cpu, memory, pods }: Room): string | null {
  const ready = conditionOf(node.conditions, 'Ready');
  if (ready?.status === 'unknown') return 'does not report';
  if (ready && ready.status !== 'true') return 'is not ready';
  if (!node.acceptsPods) return 'takes no new pods';
  const taint = node.taints?.find(
    (one) => one.effect !== 'PreferNoSchedule' && !tolerated(one, pod.placing?.tolerations ?? []),
  );
  if (taint) return `is kept for others (${taint.key}${taint.value === '' ? '' : ` ${taint.value}`})`;
  for (const [key, value] of Object.entries(pod.placing?.selector ?? {}))
    if (node.labels[key] !== value) return `is not labelled ${key} ${value}`;
  if (pods !== null && pods < 1) return 'has no pod slot left';
  const wants = podAmounts(pod, 'cpu').request;
  if (cpu !== null && wants > cpu + 1e-9) return `has too little CPU left to ask for (${formatCores(wants)} asked)`;
  const bytes = podAmounts(pod, 'memory').request;
  if (memory !== null && bytes > memory) return `has too little memory left to ask for (${formatBytes(bytes)} asked)`;
  return null;
}

const shortNodes = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more`;

/**
 * "9 of 14 nodes: too little CPU left … (seaward-01, …); 3: …", the most frequent reason first: what the objects themselves
 * tell. Empty where they tell nothing of any node.
 */
export function placementInWords(pod: PodObject, rooms: readonly Room[]): string {
  if (rooms.length === 0) return 'there are no nodes';
  const reasons = new Map<string, string[]>();
  for (const room of rooms) {
    const why = whyNot(pod, room);
    if (why === null) continue; // the scheduler knows more than we do
    const own = reasons.get(why);
    if (own) own.push(room.node.name);
    else reasons.set(why, [room.node.name]);
  }
  const [most, ...others] = [...reasons].sort(([, a], [, b]) => b.length - a.length);
  if (!most) return '';
  const words = ([why, names]: [string, string[]]) => `${why} (${shortNodes(names)})`;
  const best = [...rooms].sort((a, b) => (b.cpu ?? 0) - (a.cpu ?? 0))[0];
  const room =
    best && /too little/.test(most[0])
      ? `; most is left on ${best.node.name}: ${formatCores(best.cpu)}, ${formatBytes(best.memory)}`
      : '';
  return `${most[1].length} of ${formatCount(rooms.length, 'node')} ${words(most)}${others
    .map((one) => `; ${one[1].length} ${words(one)}`)
    .join('')}${room}`;
}
