import { type ClusterRole, ownMapping, rolesOf, type VitalMapping } from './mapping.ts';
import { VITAL_NAMES, type Vital, vitalOf } from './vitals.ts';

/** A metric that the nodes' pages of a cluster serve. */
export interface ServedMetric {
  readonly name: string;
  readonly cumulative: boolean;
  readonly series: number;
  /** Some values of each of its labels. */
  readonly labels: ReadonlyMap<string, ReadonlySet<string>>;
}
/** What is called how in the inventory. */
export type KnownNames = Readonly<Record<Exclude<ClusterRole, 'direction'>, ReadonlySet<string>>>;

export interface Proposal {
  readonly vital: Vital;
  readonly mapping: VitalMapping;
  /** Why it is thought to be the one. */
  readonly because: string;
}

/** Endings of names, and what makes seconds or bytes of them. */
const UNITS: readonly [RegExp, number][] = [
  [/(nanoseconds|nanos|_ns)(_total)?$/, 1e-9],
  [/(microseconds|micros|_us)(_total)?$/, 1e-6],
  [/(milliseconds|millis|_ms)(_total)?$/, 1e-3],
  [/(kibibytes|kib)(_total)?$/i, 1024],
  [/(mebibytes|mib)(_total)?$/i, 1024 ** 2],
  [/(kilobytes|kb)(_total)?$/i, 1000],
  [/(megabytes|mb)(_total)?$/i, 1e6],
];
const DIRECTIONS = new Set(['receive', 'transmit']);
/** Share of a label's values that the inventory must know. */
const ENOUGH = 0.6;

export const factorOf = (metric: string): number => UNITS.find(([ending]) => ending.test(metric))?.[1] ?? 1;

/** The label whose values are the inventory's names of a role, if there is one. */
function labelFor(role: ClusterRole, metric: ServedMetric, known: KnownNames): string | null {
  let best: { label: string; share: number } | null = null;
  for (const [label, values] of metric.labels) {
    const names = role === 'direction' ? DIRECTIONS : known[role];
    let found = 0;
    for (const value of values) if (names.has(value)) found++;
    const share = values.size === 0 ? 0 : found / values.size;
    // of two that fit alike the one whose name speaks of it
    const better =
      best === null ||
      share > best.share ||
      (share === best.share &&
        label.includes(role.replace('Uid', '')) &&
        !best.label.includes(role.replace('Uid', '')));
    if (share >= ENOUGH && better) best = { label, share };
  }
  return best?.label ?? null;
}

/**
 * How a cluster's own metrics would be read as vitals: by the words in their names, by whether they count up, and by
 * labels whose values are names of the cluster's own objects. Our own names need no proposal.
 */
export function proposeVitals(served: readonly ServedMetric[], known: KnownNames): Proposal[] {
  const names = new Set(served.map(({ name }) => name));
  return VITAL_NAMES.flatMap((vital): Proposal[] => {
    if (names.has(ownMapping(vital).metric)) return [];
    const fitting = served
      .filter((metric) => fits(vital, metric))
      .flatMap((metric) => {
        const mapping = mapped(vital, metric, known);
        return mapping === null ? [] : [{ metric, mapping }];
      })
      // the plainest name: what is more special says more
      .sort((a, b) => b.metric.series - a.metric.series || a.metric.name.length - b.metric.name.length);
    const [best] = fitting;
    if (!best) return [];
    const labels = Object.entries(best.mapping.labels).map(
      ([role, label]) => `${label} names ${role === 'podUid' ? 'pods by uid' : `${role}s`}`,
    );
    return [
      {
        vital,
        mapping: best.mapping,
        because: `${best.metric.name} has ${best.metric.series} series; ${labels.join(', ')}${best.mapping.factor === 1 ? '' : `; its name ends in another unit, so it is multiplied by ${best.mapping.factor}`}`,
      },
    ];
  });
}

function fits(vital: Vital, { name, cumulative }: ServedMetric): boolean {
  const { counts, words } = vitalOf(vital);
  const { all, none } = words;
  return counts === cumulative && all.every((word) => word.test(name)) && !none.test(name);
}
function mapped(vital: Vital, metric: ServedMetric, known: KnownNames): VitalMapping | null {
  const labels: Partial<Record<ClusterRole, string>> = {};
  const container = labelFor('container', metric, known);
  const uid = labelFor('podUid', metric, known);
  const pod = uid === null ? labelFor('pod', metric, known) : null;
  const namespace = labelFor('namespace', metric, known);
  // what speaks of containers or pods is not the node's own
  const { of } = vitalOf(vital);
  if (of === 'node' && (container !== null || uid !== null || pod !== null)) return null;
  if (of === 'pod' && container !== null) return null;
  for (const role of rolesOf(vital)) {
    if (role === 'podUid') {
      if (uid !== null) labels.podUid = uid;
      else if (pod !== null && namespace !== null) labels.pod = pod;
      else return null;
      continue;
    }
    const label = role === 'container' ? container : role === 'namespace' ? namespace : labelFor(role, metric, known);
    // a pod's uid is enough
    if (label === null && role === 'namespace' && uid !== null) continue;
    if (label === null) return null;
    labels[role] = label;
  }
  return { metric: metric.name, labels, where: {}, factor: factorOf(metric.name) };
}
