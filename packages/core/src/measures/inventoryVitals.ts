import {
  type ContainerObject,
  hasEnded,
  type InventoryKind,
  type InventoryObject,
  type ObjectVersion,
  type PodObject,
} from '../inventory/index.ts';
import { END_MARKER } from '../samples/index.ts';
import { OBJECT_LABELS } from '../scouting/index.ts';
import { type DurationMs, type EpochMs, SECOND } from '../units/index.ts';
import type { MetricInfo } from './check.ts';
import { type Labels, PARTIAL, type SeriesIn } from './evaluate/lines.ts';

/** One value of an object, with what tells it apart from the object's others. */
interface Told {
  readonly labels: Labels;
  readonly value: number | null;
}
interface Definition {
  readonly unit: string | null;
  readonly kinds: readonly InventoryKind[];
  readonly of: (object: InventoryObject) => readonly Told[];
  /** As people wrote it: it held since the object was made, though nobody watched yet. What the cluster tells of its state may not have. */
  readonly written?: true;
}
const KEEPERS = ['deployment', 'stateful set', 'daemon set'] as const;

const podLabels = ({ namespace, name, uid, node }: PodObject): Labels => ({
  [OBJECT_LABELS.namespace]: namespace ?? '',
  [OBJECT_LABELS.pod]: name,
  [OBJECT_LABELS.podUid]: uid,
  ...(node === null ? {} : { [OBJECT_LABELS.node]: node }),
});
/** What a pod that ended asked for is nobody's any more. */
const asked =
  (pick: (container: ContainerObject) => number | null) =>
  (container: ContainerObject, pod: PodObject): number | null =>
    hasEnded(pod) ? null : pick(container);
const ofContainers = (
  unit: string | null,
  pick: (container: ContainerObject, pod: PodObject) => number | null,
  written?: true,
): Definition => ({
  ...(written ? { written } : {}),
  unit,
  kinds: ['pod'],
  of: (object) =>
    object.kind !== 'pod'
      ? []
      : object.containers
          .filter(({ role }) => role !== 'start-up')
          .map((container) => ({
            labels: { ...podLabels(object), [OBJECT_LABELS.container]: container.name },
            value: pick(container, object),
          })),
});
const ofWorkloads = (pick: 'desired' | 'ready' | 'updated'): Definition => ({
  ...(pick === 'desired' ? { written: true } : {}),
  unit: null,
  kinds: KEEPERS,
  of: (object) =>
    object.kind === 'deployment' || object.kind === 'stateful set' || object.kind === 'daemon set'
      ? [
          {
            labels: { [OBJECT_LABELS.namespace]: object.namespace ?? '', kind: object.kind, workload: object.name },
            value: object[pick],
          },
        ]
      : [],
});
const ofNodes = (unit: string | null, pick: 'cpu' | 'memory' | 'pods'): Definition => ({
  written: true,
  unit,
  kinds: ['node'],
  of: (object) =>
    object.kind === 'node' ? [{ labels: { [OBJECT_LABELS.node]: object.name }, value: object.allocatable[pick] }] : [],
});
const ofQuotas = (pick: 'hard' | 'used'): Definition => ({
  ...(pick === 'hard' ? { written: true } : {}),
  unit: null,
  kinds: ['quota'],
  of: (object) =>
    object.kind !== 'quota'
      ? []
      : object.rows.map((row) => ({
          labels: { [OBJECT_LABELS.namespace]: object.namespace ?? '', quota: object.name, resource: row.resource },
          value: row[pick],
        })),
});

/** What the inventory knows, read like a vital: gauges that hold as long as the object is in that state. */
const VITALS: Readonly<Record<string, Definition>> = {
  'container.cpu.request': ofContainers(
    'cores',
    asked(({ cpuRequest }) => cpuRequest),
    true,
  ),
  'container.cpu.limit': ofContainers(
    'cores',
    asked(({ cpuLimit }) => cpuLimit),
    true,
  ),
  'container.memory.request': ofContainers(
    'bytes',
    asked(({ memoryRequest }) => memoryRequest),
    true,
  ),
  'container.memory.limit': ofContainers(
    'bytes',
    asked(({ memoryLimit }) => memoryLimit),
    true,
  ),
  'container.restarts': ofContainers(null, ({ restarts }) => restarts),
  'pod.phase': {
    unit: null,
    kinds: ['pod'],
    of: (object) =>
      object.kind === 'pod' ? [{ labels: { ...podLabels(object), phase: object.phase }, value: 1 }] : [],
  },
  'workload.desired': ofWorkloads('desired'),
  'workload.ready': ofWorkloads('ready'),
  'workload.updated': ofWorkloads('updated'),
  'node.cpu.allocatable': ofNodes('cores', 'cpu'),
  'node.memory.allocatable': ofNodes('bytes', 'memory'),
  'node.pods.allocatable': ofNodes(null, 'pods'),
  'node.condition': {
    unit: null,
    kinds: ['node'],
    of: (object) =>
      object.kind === 'node'
        ? object.conditions.map(({ type, status }) => ({
            labels: { [OBJECT_LABELS.node]: object.name, condition: type },
            value: status === 'unknown' ? null : status === 'true' ? 1 : 0,
          }))
        : [],
  },
  'quota.hard': ofQuotas('hard'),
  'quota.used': ofQuotas('used'),
};
export const INVENTORY_VITALS: readonly string[] = Object.keys(VITALS);
export const isInventoryVital = (name: string): boolean => Object.hasOwn(VITALS, name);
export const inventoryVital = (name: string): MetricInfo => ({ type: 'gauge', unit: VITALS[name]?.unit ?? null });
export const kindsOfVital = (name: string): readonly InventoryKind[] => VITALS[name]?.kinds ?? [];

/** A state is told when it begins, at least so often, and when it ends: what holds is as good as read. */
export const TOLD_EVERY: DurationMs = 30 * SECOND;
interface Open {
  readonly labels: Labels;
  readonly times: number[];
  readonly values: number[];
  readonly marks: number[];
  /** Places of ends: an ordinary list may lose the tag of a marker. */
  readonly ends: number[];
  /** When its state ended; null: it holds. */
  to: EpochMs | null;
}
/**
 * Series of a vital in (from, to], out of versions of objects, oldest first, told `every` so often and at both ends. What goes ends with a
 * marker; `extra` labels are attached to all, and only what `fits` is made. Null where there would be more than `most` series
 * or samples. Yields after each version.
 */
export function* inventorySeries({
  name,
  versions,
  from,
  to,
  every = TOLD_EVERY,
  extra = {},
  fits = () => true,
  most,
}: {
  readonly name: string;
  readonly versions: Iterable<ObjectVersion>;
  readonly from: EpochMs;
  readonly to: EpochMs;
  readonly every?: DurationMs;
  readonly extra?: Labels;
  readonly fits?: (labels: Labels) => boolean;
  readonly most: { readonly series: number; readonly samples: number };
}): Generator<void, SeriesIn[] | null> {
  const definition = VITALS[name];
  const known = new Map<string, Open>();
  let samples = 0;
  for (const version of versions) {
    for (const { labels: own, value } of definition?.of(version.object) ?? []) {
      const labels = { ...extra, ...own };
      if (!fits(labels)) continue;
      const key = `${version.object.uid} ${JSON.stringify(own)}`;
      const series: Open = known.get(key) ?? { labels, times: [], values: [], marks: [], ends: [], to: null };
      known.set(key, series);
      // it was away between two of its states
      const since = definition?.written ? version.fromEarliest : version.from;
      if (series.to !== null && series.to < since) ended(series, series.to, from, to);
      if (value === null) ended(series, version.from, from, to);
      const begin = Math.max(from, since);
      // up to the last moment before the state behind it: what each sample stands for lies before it
      const end = version.to !== null && version.to <= to ? version.to - 1 : to;
      samples += Math.max(0, Math.floor((end - begin) / every) + 3);
      if (known.size > most.series || samples > most.samples) return null;
      if (value !== null) held(series, value, { begin, end, every, watched: version.from });
      series.to = version.to;
    }
    yield;
  }
  const all: SeriesIn[] = [];
  for (const series of known.values()) {
    if (series.to !== null) ended(series, series.to, from, to);
    if (series.times.length === 0) continue;
    const [times, values] = [Float64Array.from(series.times), Float64Array.from(series.values)];
    for (const place of series.ends) values[place] = END_MARKER;
    const marks = series.marks.some((mark) => mark !== 0) ? { marks: Uint8Array.from(series.marks) } : {};
    all.push({ labels: series.labels, interval: every, times, values, ...marks });
    yield;
  }
  return all;
}
/** `watched`: from when on it is certain; before that it is told as partial. */
function held(
  { times, values, marks }: Open,
  value: number,
  {
    begin,
    end,
    every,
    watched,
  }: { readonly begin: EpochMs; readonly end: EpochMs; readonly every: DurationMs; readonly watched: EpochMs },
): void {
  const tell = (at: EpochMs) => {
    if (at > end || at <= (times.at(-1) ?? Number.NEGATIVE_INFINITY)) return;
    times.push(at);
    values.push(value);
    marks.push(at < watched ? PARTIAL : 0);
  };
  tell(begin);
  for (let at = Math.ceil(begin / every) * every; at <= end; at += every) tell(at);
  tell(end);
}
function ended({ times, values, marks, ends }: Open, at: EpochMs, from: EpochMs, to: EpochMs): void {
  const last = times.at(-1);
  if (last === undefined || at <= from || at > to || at <= last || ends.at(-1) === times.length - 1) return;
  times.push(at);
  ends.push(values.length);
  values.push(0);
  marks.push(0);
}
