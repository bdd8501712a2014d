import type { Role, VitalMapping } from './mapping.ts';
import { factorOf, type ServedMetric } from './propose.ts';
import { HOST_LABELS, HOST_METRICS } from './wire-names.ts';

interface HostVitalDefinition {
  readonly counts: boolean;
  readonly unit: 'seconds' | 'bytes' | 'count' | 'bytes per second';
  readonly own: VitalMapping;
  /** Words that a metric's name must have to be proposed for it, each one of a few; and words that speak against it. */
  readonly words: { readonly all: readonly RegExp[]; readonly none: RegExp };
}
const named = (
  metric: string,
  labels: VitalMapping['labels'] = {},
  where: VitalMapping['where'] = {},
): VitalMapping => ({ metric, labels, where, factor: 1 });

/** What the figures of a machine outside clusters are read from, under our own names: the open telemetry semantic conventions. */
const HOST_VITALS = {
  'host.cpu.time': {
    counts: true,
    unit: 'seconds',
    own: named(HOST_METRICS.cpuTime, { mode: HOST_LABELS.cpuMode, processor: HOST_LABELS.cpuNumber }),
    words: { all: [/cpu|processor/, /time|usage|used|seconds|ns|nano/], none: /limit|throttl|guest|process_/ },
  },
  'host.cpu.count': {
    counts: false,
    unit: 'count',
    own: named(HOST_METRICS.cpuCount),
    words: { all: [/cpu|processor/, /count|number|cores|logical/], none: /time|second|usage/ },
  },
  'host.memory.usage': {
    counts: false,
    unit: 'bytes',
    own: named(HOST_METRICS.memory, { state: HOST_LABELS.memoryState }),
    words: { all: [/mem/, /us(age|ed)|work/], none: /limit|total|max|swap|process_/ },
  },
  'host.memory.limit': {
    counts: false,
    unit: 'bytes',
    own: named(HOST_METRICS.memoryLimit),
    words: { all: [/mem/, /limit|total|size|cap|max/], none: /us(age|ed)|free|avail|swap|process_/ },
  },
  'host.network.received': {
    counts: true,
    unit: 'bytes per second',
    own: named(HOST_METRICS.network, {}, { [HOST_LABELS.direction]: 'receive' }),
    words: { all: [/net/, /rec|rx|_in(_|$)/], none: /err|drop|packet/ },
  },
  'host.network.sent': {
    counts: true,
    unit: 'bytes per second',
    own: named(HOST_METRICS.network, {}, { [HOST_LABELS.direction]: 'transmit' }),
    words: { all: [/net/, /sent|trans|tx|_out(_|$)/], none: /err|drop|packet/ },
  },
  'host.filesystem.usage': {
    counts: false,
    unit: 'bytes',
    own: named(HOST_METRICS.files, { mount: HOST_LABELS.mount, state: HOST_LABELS.fileState }),
    words: { all: [/fs|file|disk/, /us(age|ed)/], none: /inode|limit|capacity|size|free|io/ },
  },
  'host.filesystem.limit': {
    counts: false,
    unit: 'bytes',
    own: named(HOST_METRICS.fileLimit, { mount: HOST_LABELS.mount }),
    words: { all: [/fs|file|disk/, /limit|cap|size|total/], none: /inode|us(age|ed)|free|io/ },
  },
} as const satisfies Record<string, HostVitalDefinition>;

export type HostVital = keyof typeof HOST_VITALS;
export const HOST_VITAL_NAMES = Object.keys(HOST_VITALS) as readonly HostVital[]; // its own keys
export const isHostVital = (name: string): name is HostVital => Object.hasOwn(HOST_VITALS, name);
export const ownHostMapping = (vital: HostVital): VitalMapping => HOST_VITALS[vital].own;

/** What a label's values look like that tells apart what the role does. */
const LOOKS: Readonly<Partial<Record<Role, (value: string) => boolean>>> = {
  mode: (value) => ['idle', 'user', 'system'].includes(value),
  processor: (value) => /^\d{1,4}$/.test(value),
  state: (value) => ['used', 'free'].includes(value),
  mount: (value) => value.startsWith('/'),
};
/** A label fits a role when some of its values look so; of where a machine is mounted, all of them. */
function labelFor(role: Role, { labels }: ServedMetric): string | undefined {
  const looks = LOOKS[role];
  if (!looks) return undefined;
  for (const [label, values] of labels)
    if (
      values.size > 0 &&
      (role === 'mount' || role === 'processor' ? [...values].every(looks) : [...values].some(looks))
    )
      return label;
  return undefined;
}

/** How machines' own metrics would be read, by the words in their names, by whether they count up, and by labels of known values. */
export function proposeHostVitals(
  served: readonly ServedMetric[],
): { vital: HostVital; mapping: VitalMapping; because: string }[] {
  return HOST_VITAL_NAMES.flatMap((vital) => {
    const { counts, own, words } = HOST_VITALS[vital];
    if (served.some(({ name }) => name === own.metric)) return [];
    const [best] = served
      .filter(
        ({ name, cumulative }) =>
          counts === cumulative && words.all.every((word) => word.test(name)) && !words.none.test(name),
      )
      .sort((a, b) => a.name.length - b.name.length || (a.name < b.name ? -1 : 1));
    if (!best) return [];
    const labels = Object.fromEntries(
      Object.keys(own.labels).flatMap((role) => {
        const label = labelFor(role as Role, best); // its own keys
        return label === undefined ? [] : [[role, label]];
      }),
    );
    const factor = factorOf(best.name);
    const told = Object.entries(labels).map(([role, label]) => `${label} names the ${role}`);
    return [
      {
        vital,
        mapping: { metric: best.name, labels, where: {}, factor },
        because: [
          `${best.name} has ${best.series} series`,
          ...told,
          ...(factor === 1 ? [] : [`its name ends in another unit, so it is multiplied by ${factor}`]),
        ].join('; '),
      },
    ];
  });
}
