import { hintsOf } from './containerHints.ts';
import type { ContainerEnd, ContainerObject, ContainerRole, ContainerState, PodObject } from './objects.ts';
import { quantityNumber } from './quantity.ts';
import { annotations, checkWords, claimVolumes, common, conditions, taint } from './readCommon.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

function containerEnd(state: Wire): ContainerEnd {
  return {
    reason: wire.text(state, 'reason'),
    message: wire.text(state, 'message'),
    exitCode: wire.optionalCount(state, 'exitCode'),
    signal: wire.optionalCount(state, 'signal'),
    startedAt: wire.time(state, 'startedAt'),
    endedAt: wire.time(state, 'finishedAt'),
  };
}

function containerState(state: Wire): ContainerState {
  if (wire.has(state, 'running')) return { is: 'running', since: wire.time(wire.child(state, 'running'), 'startedAt') };
  if (wire.has(state, 'terminated')) return { is: 'ended', ...containerEnd(wire.child(state, 'terminated')) };
  if (wire.has(state, 'waiting')) {
    const waiting = wire.child(state, 'waiting');
    return { is: 'waiting', reason: wire.text(waiting, 'reason'), message: wire.text(waiting, 'message') };
  }
  return { is: 'unknown' };
}

function readContainer(
  spec: Wire,
  {
    statuses,
    volumes,
    role,
  }: { readonly statuses: Wire[]; readonly volumes: readonly Wire[]; readonly role: ContainerRole },
): ContainerObject {
  const resources = wire.child(spec, 'resources');
  const requests = wire.texts(resources, 'requests');
  const limits = wire.texts(resources, 'limits');
  const name = wire.text(spec, 'name');
  const status = statuses.find((candidate) => wire.text(candidate, 'name') === name) ?? {};
  const last = wire.child(wire.child(status, 'lastState'), 'terminated');
  const hints = hintsOf(spec, volumes);
  return {
    name,
    role,
    ...(hints && { hints }),
    image: wire.text(spec, 'image'),
    ports: wire.list(spec, 'ports').map((port) => wire.count(port, 'containerPort')),
    portNames: wire.list(spec, 'ports').map((port) => wire.text(port, 'name')),
    cpuRequest: quantityNumber(requests['cpu']),
    cpuLimit: quantityNumber(limits['cpu']),
    memoryRequest: quantityNumber(requests['memory']),
    memoryLimit: quantityNumber(limits['memory']),
    ready: wire.flag(status, 'ready'),
    restarts: wire.count(status, 'restartCount'),
    state: containerState(wire.child(status, 'state')),
    lastEnd: Object.keys(last).length > 0 ? containerEnd(last) : null,
    started: typeof status['started'] === 'boolean' ? status['started'] : null,
    checks: checksOf(spec),
  };
}

function checksOf(spec: Wire): NonNullable<ContainerObject['checks']> {
  const ready = checkWords(spec, 'readinessProbe');
  const live = checkWords(spec, 'livenessProbe');
  const start = checkWords(spec, 'startupProbe');
  return {
    ...(ready === null ? {} : { ready }),
    ...(live === null ? {} : { live }),
    ...(start === null ? {} : { start }),
  };
}

const PHASES: Record<string, PodObject['phase']> = {
  Pending: 'pending',
  Running: 'running',
  Succeeded: 'succeeded',
  Failed: 'failed',
};
/** A tenant's word may be one that every object of the language knows. */
const phaseOf = (word: string): PodObject['phase'] => (Object.hasOwn(PHASES, word) ? PHASES[word]! : 'unknown');

export function readPod(object: Wire): PodObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const overhead = wire.texts(spec, 'overhead');
  const startUp = wire.list(status, 'initContainerStatuses');
  const lasting = wire.list(status, 'containerStatuses');
  const mains = wire.list(spec, 'containers');
  const volumes = wire.list(spec, 'volumes');
  return {
    kind: 'pod',
    ...common(object),
    phase: phaseOf(wire.text(status, 'phase')),
    reason: wire.text(status, 'reason'),
    message: wire.text(status, 'message'),
    node: wire.optionalText(spec, 'nodeName'),
    overhead: { cpu: quantityNumber(overhead['cpu']) ?? 0, memory: quantityNumber(overhead['memory']) ?? 0 },
    containers: [
      ...mains.map((container) => readContainer(container, { statuses: lasting, volumes, role: 'main' })),
      ...wire.list(spec, 'initContainers').map((container) =>
        // a start-up container that is always restarted lasts beside the main ones: a helper
        readContainer(container, {
          statuses: startUp,
          volumes,
          role: wire.text(container, 'restartPolicy') === 'Always' ? 'helper' : 'start-up',
        }),
      ),
    ],
    conditions: conditions(status),
    volumes: claimVolumes(spec),
    address: wire.host(status, 'podIP'),
    annotations: annotations(object),
    placing: {
      selector: wire.texts(spec, 'nodeSelector'),
      tolerations: wire
        .list(spec, 'tolerations')
        .map((one) => ({ ...taint(one), operator: wire.text(one, 'operator', 'Equal') })),
    },
  };
}
