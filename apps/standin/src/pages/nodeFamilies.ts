import { LABELS, METRICS } from '../wire-names.ts';
import type { ApiObject } from '../world/objects.ts';
import type { Container } from '../world/readings.ts';
import { type WirePair, wireBytes, wiresOn } from '../world/wires.ts';
import type { World } from '../world/world.ts';

type Direction = 'receive' | 'transmit';
/** One line of a node's page: labels beyond the node's own, and the value at a moment. */
interface Sample {
  readonly labels: Record<string, string>;
  readonly since: number;
  readonly value: (at: number) => number;
}
interface FamilyPlan {
  readonly name: string;
  readonly type: 'counter' | 'gauge';
  readonly unit: string;
  readonly help: string;
  readonly samples: (world: World, node: string, now: number) => Sample[];
}

const podLabels = (pod: ApiObject) => ({
  [LABELS.namespace]: pod.metadata.namespace ?? '',
  [LABELS.pod]: pod.metadata.name,
  [LABELS.podUid]: pod.metadata.uid,
});
const bornAt = (pod: ApiObject) => Date.parse(pod.metadata.creationTimestamp);
const podsOn = (world: World, node: string) =>
  world.store.list('pods').filter((pod) => pod['spec'].nodeName === node && pod['status'].phase === 'Running');

const nodeNamed = (world: World, name: string): ApiObject =>
  world.store.list('nodes').find(({ metadata }) => metadata.name === name)!; // its page is asked for

const ofContainers =
  (value: (world: World, container: Container, at: number) => number): FamilyPlan['samples'] =>
  (world, node) =>
    podsOn(world, node)
      .flatMap((pod) => world.readings.containersOf(pod))
      .map((container) => ({
        labels: { [LABELS.container]: container.name, ...podLabels(container.pod) },
        since: bornAt(container.pod),
        value: (at) => value(world, container, at),
      }));
const ofNode =
  (value: (world: World, node: string, at: number) => number): FamilyPlan['samples'] =>
  (world, node) => [{ labels: {}, since: 0, value: (at) => value(world, node, at) }];
const bothWays = (samples: (direction: Direction) => Sample[]): Sample[] =>
  (['receive', 'transmit'] as const).flatMap((direction) =>
    samples(direction).map((sample) => ({ ...sample, labels: { ...sample.labels, [LABELS.direction]: direction } })),
  );
const ofProcesses =
  (pick: 'cpuSeconds' | 'memory' | 'threads' | 'files'): FamilyPlan['samples'] =>
  (world, node, now) =>
    world.readings.nodeProcesses(node, now).map(({ name, pid }, i) => ({
      labels: { [LABELS.processName]: name, [LABELS.processPid]: String(pid) },
      since: 0,
      value: (at) => world.readings.nodeProcesses(node, at)[i]![pick],
    }));
const ofVolumes =
  (pick: 'used' | 'size' | 'entriesUsed' | 'entries'): FamilyPlan['samples'] =>
  (world, node, now) =>
    podsOn(world, node).flatMap((pod) =>
      world.readings.volumesOf(pod, now).map(({ volume, claim }, i) => ({
        labels: { ...podLabels(pod), [LABELS.volume]: volume, [LABELS.claim]: claim },
        since: bornAt(pod),
        value: (at) => world.readings.volumesOf(pod, at)[i]![pick],
      })),
    );

const wireLabels = ({ wire, from, to }: WirePair) => ({
  [LABELS.wireFrom]: String(from['status'].podIP),
  [LABELS.wireTo]: String(to['status'].podIP),
  [LABELS.wirePort]: String(wire.port),
});

export const FAMILIES: readonly FamilyPlan[] = [
  {
    name: METRICS.containerCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the container.',
    samples: ofContainers((world, container, at) => world.readings.cpuSeconds(container, at)),
  },
  {
    name: METRICS.containerThrottled,
    type: 'counter',
    unit: 'seconds',
    help: 'Total time the container was throttled at its CPU limit.',
    samples: ofContainers((world, container, at) => world.readings.throttledSeconds(container, at)),
  },
  {
    name: METRICS.containerMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the container.',
    samples: ofContainers((world, container, at) => world.readings.memoryBytes(container, at)),
  },
  {
    name: METRICS.containerFiles,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space the container uses in its writable layer and logs.',
    samples: ofContainers((world, container, at) => world.readings.fileBytes(container, at)),
  },
  {
    name: METRICS.podNetwork,
    type: 'counter',
    unit: 'bytes',
    help: 'Total bytes the pod received or transmitted.',
    samples: (world, node) =>
      bothWays((direction) =>
        podsOn(world, node).map((pod) => ({
          labels: podLabels(pod),
          since: bornAt(pod),
          value: (at) => world.readings.networkBytes(pod, direction, at),
        })),
      ),
  },
  {
    name: METRICS.volumeUsed,
    type: 'gauge',
    unit: 'bytes',
    help: 'Bytes used on the volume.',
    samples: ofVolumes('used'),
  },
  { name: METRICS.volumeSize, type: 'gauge', unit: 'bytes', help: 'Size of the volume.', samples: ofVolumes('size') },
  {
    name: METRICS.nodeCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'Total CPU time consumed by the node.',
    samples: ofNode((world, node, at) => world.readings.nodeCpuSeconds(node, at)),
  },
  {
    name: METRICS.nodeMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Working set of the node.',
    samples: ofNode((world, node, at) => world.readings.nodeMemoryBytes(node, at)),
  },
  {
    name: METRICS.nodeNetwork,
    type: 'counter',
    unit: 'bytes',
    help: 'Total bytes the node received or transmitted.',
    samples: (world, node) =>
      bothWays((direction) => [
        { labels: {}, since: 0, value: (at) => world.readings.nodeNetworkBytes(node, direction, at) },
      ]),
  },
  {
    name: METRICS.nodeNetworkErrors,
    type: 'counter',
    unit: '',
    help: 'Packets that the node received or transmitted wrongly.',
    samples: (world, node) =>
      bothWays((direction) => [
        { labels: {}, since: 0, value: (at) => world.readings.nodeNetworkErrors(node, direction, at) },
      ]),
  },
  {
    name: METRICS.deviceErrors,
    type: 'counter',
    unit: '',
    help: 'Errors of a disk of the node.',
    samples: (world, node) => [
      {
        labels: { [LABELS.deviceType]: 'physical_disk', [LABELS.deviceId]: 'disk-0' },
        since: 0,
        value: (at) => world.readings.deviceErrors(node, at),
      },
    ],
  },
  {
    name: METRICS.nodeFiles,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space used on the node.',
    samples: ofNode((world, node, at) => world.readings.nodeFiles(node, at).used),
  },
  {
    name: METRICS.nodeFilesSize,
    type: 'gauge',
    unit: 'bytes',
    help: 'Space on the node.',
    samples: ofNode((world, node, at) => world.readings.nodeFiles(node, at).size),
  },
  {
    name: METRICS.nodeUptime,
    type: 'gauge',
    unit: 'seconds',
    help: 'How long the node has been up.',
    samples: ofNode((world, node, at) => Math.max(0, (at - bornAt(nodeNamed(world, node))) / 1000)),
  },
  {
    name: METRICS.nodeEntriesUsed,
    type: 'gauge',
    unit: '',
    help: 'Entries used in the file system of the node.',
    samples: ofNode((world, node, at) => world.readings.nodeEntries(node, at).used),
  },
  {
    name: METRICS.nodeEntries,
    type: 'gauge',
    unit: '',
    help: 'Entries that the file system of the node has room for.',
    samples: ofNode((world, node, at) => world.readings.nodeEntries(node, at).count),
  },
  {
    name: METRICS.volumeEntriesUsed,
    type: 'gauge',
    unit: '',
    help: 'Entries used in the file system of the volume.',
    samples: ofVolumes('entriesUsed'),
  },
  {
    name: METRICS.volumeEntries,
    type: 'gauge',
    unit: '',
    help: 'Entries that the file system of the volume has room for.',
    samples: ofVolumes('entries'),
  },
  {
    name: METRICS.processCpu,
    type: 'counter',
    unit: 'seconds',
    help: 'CPU time of a process of the node itself.',
    samples: ofProcesses('cpuSeconds'),
  },
  {
    name: METRICS.processMemory,
    type: 'gauge',
    unit: 'bytes',
    help: 'Memory of a process of the node itself.',
    samples: ofProcesses('memory'),
  },
  {
    name: METRICS.processThreads,
    type: 'gauge',
    unit: '',
    help: 'Threads of a process of the node itself.',
    samples: ofProcesses('threads'),
  },
  {
    name: METRICS.processFiles,
    type: 'gauge',
    unit: '',
    help: 'Open files of a process of the node itself.',
    samples: ofProcesses('files'),
  },
  {
    name: METRICS.wireBytes,
    type: 'counter',
    unit: 'bytes',
    help: 'Bytes that went over connections that pods of this node opened, both ways.',
    samples: (world, node) =>
      bothWays((direction) =>
        wiresOn(world, node).map((pair) => ({
          labels: wireLabels(pair),
          since: pair.since,
          value: (at) => Math.round(wireBytes(world, pair, at) / (direction === 'transmit' ? 1 : 3)),
        })),
      ),
  },
  {
    name: METRICS.wireConnections,
    type: 'gauge',
    unit: '',
    help: 'Connections that pods of this node hold open.',
    samples: (world, node) =>
      wiresOn(world, node).map((pair) => ({ labels: wireLabels(pair), since: pair.since, value: () => 2 })),
  },
];
