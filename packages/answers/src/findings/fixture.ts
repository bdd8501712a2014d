import { FIXTURE_LINES, Fixture } from '@zetopsis/contract';
import type { Finding } from '@zetopsis/core/findings';
import {
  ClusterInventory,
  type InventoryKind,
  type InventoryObject,
  isReady,
  readEvent,
  readObject,
  WIRE_KINDS,
  workloadKey,
} from '@zetopsis/core/inventory';
import type { Samples } from '@zetopsis/core/samples';
import { HOUR, MINUTE, SECOND } from '@zetopsis/core/units';
import { gridFor, usageTree } from '@zetopsis/core/usage';
import { readVolumes } from '../cluster/index.ts';
import { clusterFindings } from './clusterFindings.ts';

/** One finding of a fixture, as it is printed. */
export interface FixtureFinding {
  /** `Kind/namespace/name`, or `Kind/name` for what belongs to no namespace. */
  readonly object: string;
  readonly code: Finding['code'];
  readonly severity: Finding['severity'];
  /** ISO time; null where nothing proves when it began. */
  readonly since: string | null;
  /** All that a person would read. */
  readonly text: string;
  /** Objects that it stands for, named as `object`. */
  readonly inside: readonly string[];
}

const KINDS = new Map(
  Object.entries(WIRE_KINDS).map(([kind, word]) => [word as string, kind as InventoryKind]), // keys of WIRE_KINDS
);
type Named = Pick<InventoryObject, 'kind' | 'namespace' | 'name'>;
const nameOf = ({ kind, namespace, name }: Named): string =>
  [WIRE_KINDS[kind], ...(namespace === null ? [] : [namespace]), name].join('/');

/** What holds in the inventory of a fixture; what cannot be read is left out. */
function inventoryOf({ objects }: Fixture, now: number): ClusterInventory {
  const inventory = new ClusterInventory('fixture', () => undefined);
  objects.forEach((object, place) => {
    const wire = { ...object, metadata: { uid: `object-${place}`, ...(object['metadata'] as object | undefined) } };
    if (object['kind'] === 'Event') {
      const event = readEvent(wire);
      if (event) inventory.events.note(event);
      return;
    }
    const kind = KINDS.get(String(object['kind']));
    const read = kind && readObject(kind, wire);
    if (read) inventory.restore(read, now);
  });
  return inventory;
}

const samplesOf = (rows: readonly { at: number; value: number | undefined }[]): Samples => {
  const read = rows.filter((row): row is { at: number; value: number } => row.value !== undefined);
  return { times: read.map(({ at }) => at), values: read.map(({ value }) => value) };
};
/** Every how much its volumes were read: half of all readings are no further apart. */
function intervalOf(times: readonly number[]): number {
  const sorted = [...new Set(times)].sort((a, b) => a - b);
  const gaps = sorted.slice(1).map((at, i) => at - sorted[i]!);
  const middle = gaps.sort((a, b) => a - b)[Math.floor(gaps.length / 2)];
  return Math.max(15 * SECOND, Math.min(HOUR, middle ?? MINUTE));
}

/** What would be found of a cluster that stands so, by the code that the server finds with. Throws when the fixture is none. */
export function findingsOfFixture(foreign: unknown): FixtureFinding[] {
  const fixture = Fixture.parse(foreign);
  const now = Date.parse(fixture.now);
  const inventory = inventoryOf(fixture, now);
  const interval = intervalOf(fixture.usage.map(({ at }) => Date.parse(at)));
  const grid = gridFor(now - HOUR / 2, now, interval);
  const pods = inventory
    .list('pod')
    .map((pod) => ({ pod, workload: inventory.workloadOf(pod), from: pod.createdAt, to: null }));
  const nodes = inventory.list('node').map((node) => ({ node, from: node.createdAt, to: null }));
  const nothing: Samples = { times: [], values: [] };
  const tree = usageTree({
    cluster: { name: 'fixture', uid: 'fixture' },
    grid,
    interval,
    pods,
    nodes,
    containerSamples: () => nothing,
    nodeSamples: () => nothing,
  });
  const volumes = readVolumes({
    pods,
    grid,
    interval,
    samplesOf: (uid, claim) => {
      const namespace = pods.find(({ pod }) => pod.uid === uid)?.workload.namespace;
      const own = fixture.usage
        .filter((row) => row.namespace === namespace && row.claim === claim)
        .map((row) => ({ ...row, at: Date.parse(row.at) }))
        .sort((a, b) => a.at - b.at);
      const of = (field: 'usedBytes' | 'capacityBytes' | 'usedInodes' | 'inodes') =>
        samplesOf(own.map((row) => ({ at: row.at, value: row[field] })));
      return { used: of('usedBytes'), size: of('capacityBytes'), entriesUsed: of('usedInodes'), entries: of('inodes') };
    },
  });
  const work = clusterFindings(
    {
      inventory,
      volumes,
      tree,
      grid,
      api: [],
      measuredOf: () => ({ entries: { used: null, count: null }, skew: null }),
      whole: true,
      lastLines: (pod, container, previous) =>
        fixture[FIXTURE_LINES].find(
          (one) => one.pod === pod && one.container === container && one.previous === previous,
        )?.lines ?? [],
    },
    now,
  );
  for (;;) {
    const step = work.next();
    if (step.done) return printed(inventory, step.value);
  }
}

type Found = ReturnType<typeof clusterFindings> extends Generator<void, infer T> ? T : never;
function printed(inventory: ClusterInventory, found: Found): FixtureFinding[] {
  const out: FixtureFinding[] = [];
  const tell = (object: string, findings: readonly Finding[], inside: readonly string[] = []) => {
    for (const { code, severity, since, reason, evidence, nextStep } of findings)
      out.push({
        object,
        code,
        severity,
        since: since === null ? null : new Date(since).toISOString(),
        text: [reason, evidence, nextStep].filter((part) => part !== '').join('\n'),
        inside,
      });
  };
  tell('Cluster', found.own);
  for (const [namespace, findings] of found.asking) tell(`Namespace/${namespace}`, findings);
  const away = (node: string) =>
    inventory.list('pod').filter((pod) => pod.node === node && !isReady(pod) && pod.phase !== 'succeeded');
  for (const { node, findings } of found.nodes)
    tell(nameOf(node), findings, findings.length === 0 ? [] : away(node.name).map(nameOf));
  for (const { namespace, kind, name, findings } of found.bounds)
    tell(nameOf({ kind, namespace: namespace === '' ? null : namespace, name }), findings);
  for (const { workload, findings, because } of found.workloads) {
    if (because !== null) continue; // it stands in the node's line
    const own = inventory.podsOf(workload.namespace ?? '', workloadKey(workload)).filter((pod) => !isReady(pod));
    tell(nameOf(workload), findings, own.map(nameOf));
  }
  for (const { workload, findings } of found.loose) {
    const own = inventory.podsOf(workload.namespace, workloadKey(workload));
    tell(own.length === 1 ? nameOf(own[0]!) : `${workload.name}`, findings, own.map(nameOf)); // there is one
  }
  return out;
}
