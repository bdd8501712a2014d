import type { AlertAnswer, FlowLines, SheetAnswer } from '@zetopsis/contract';
import { podFindings } from '@zetopsis/core/findings';
import { formatClock } from '@zetopsis/core/format';
import { type ClusterEvent, type ContainerObject, restartsOf } from '@zetopsis/core/inventory';
import { changesOf, changesOfThing } from './changes.ts';
import type { ClusterColumns } from './columns.ts';
import type { Counterpart, Found } from './found.ts';
import { linesOf } from './lines.ts';
import { marksOf, touches } from './marks.ts';
import { nodeKey } from './objectPaths.ts';
import { neighbours, nodeStrata } from './onNode.ts';
import { around, nodeUsagesOf, type Telling } from './related.ts';
import { rolloutOf } from './rollout.ts';
import { rowOf } from './rows.ts';
import { nextDue, runLines } from './runs.ts';
import type { Thing } from './things.ts';
import type { SeenUsage } from './usage.service.ts';

export interface SheetInput {
  readonly usage: SeenUsage;
  readonly path: readonly string[];
  readonly window: { readonly from: number; readonly to: number };
  readonly owner: string | null;
  readonly alerts: readonly AlertAnswer[];
  readonly telling: Telling;
  readonly events: readonly ClusterEvent[];
  readonly eventsMissing: string | null;
  readonly runningOut: SheetAnswer['runningOut'];
  readonly elsewhere: readonly string[];
  readonly requests: FlowLines[];
  /** Processes in it, where something tells of them. */
  readonly processes: SheetAnswer['tables'];
  /** File system of the node that a pod is on. */
  readonly nodeDisk: FlowLines | null;
}

/** What every sheet has. */
function common(input: SheetInput) {
  const { usage, path, window, owner, alerts, events, eventsMissing, runningOut, elsewhere, requests } = input;
  return {
    path: [...path],
    owner,
    grid: usage.input.grid,
    raised: alerts
      .filter(
        (alert) =>
          touches(alert.path, path) &&
          alert.path.length >= 2 &&
          alert.raisedAt <= window.to &&
          (alert.endedAt === null || alert.endedAt > window.to),
      )
      .map(({ severity, title, reason, since, nextStep }) => ({ severity, title, reason, since, nextStep })),
    marks: marksOf(usage, alerts, path, window.from, window.to),
    events: events.map((event) => ({
      at: event.lastAt,
      type: event.type,
      reason: event.reason,
      message: event.message,
      count: event.count,
      about: event.about.name,
    })),
    eventsMissing,
    runningOut,
    elsewhere: [...elsewhere],
    requests,
  };
}

/** Everything known about something that uses nothing itself. */
export function thingSheet(input: SheetInput, thing: Thing): SheetAnswer {
  const { object } = thing;
  return {
    ...common(input),
    level: 'object',
    name: object.name,
    kind: object.kind,
    createdAt: object.createdAt,
    endedAt: null,
    facts: [...thing.facts],
    findings: [...thing.findings],
    usage: null,
    against: null,
    throttled: null,
    cpu: null,
    memory: null,
    flows: thing.flows,
    restarts: 0,
    containers: [],
    nodes: [],
    volumes: thing.volumes,
    quotas: thing.quotas,
    runs: null,
    nextDueAt: null,
    related: thing.related,
    rollout: null,
    changes: changesOfThing(thing),
    logs: [],
    tables: thing.tables,
    left: 0,
  };
}

/** Everything known about an object that uses something, at the end of a window. */
export function usageSheet(
  input: SheetInput,
  columns: ClusterColumns,
  found: Found,
  flows: FlowLines[],
  then: Counterpart | null,
): SheetAnswer {
  const { usage, window, telling } = input;
  const { node } = found;
  const [pod] = found.level === 'pod' || found.level === 'container' ? found.pods : [];
  const onNode = pod?.node ?? null;
  const uids = new Set(found.pods.map(({ uid }) => uid));
  const restarts = restartsOf(usage.view.podStates.filter(({ uid }) => uids.has(uid))).filter(
    ({ at, container }) =>
      at >= window.from && at <= window.to && (found.level !== 'container' || container === node.name),
  );
  return {
    ...common(input),
    level: found.level,
    name: node.name,
    kind: found.kind,
    createdAt: found.createdAt,
    endedAt: found.endedAt,
    facts: [...found.facts],
    findings: [...found.findings],
    usage: node.usage,
    against: then?.figures ?? null,
    throttled: node.throttled,
    cpu: linesOf(node.lines.cpu, then?.cpu ?? null),
    memory: linesOf(node.lines.memory, then?.memory ?? null),
    flows: [...flows, ...(onNode === null ? [] : nodeStrata(columns, onNode, input.nodeDisk))],
    restarts: restarts.length,
    containers: found.containers.map((container) => containerLine(container, telling)),
    nodes:
      found.level === 'cluster'
        ? nodeUsagesOf(columns).map((own) =>
            rowOf(own, {
              key: nodeKey(own.name),
              findings: columns.nodes.find(({ node: { uid } }) => uid === own.uid)?.findings ?? [],
            }),
          )
        : [],
    ...around(usage, columns, found, telling),
    runs: runLines(usage.view, found.workload),
    nextDueAt: nextDue(found.workload, window.to),
    rollout: found.level === 'workload' ? rolloutOf(usage, found, window.to) : null,
    changes: changesOf(found),
    logs: logsOf(found, window.to),
    tables: [...input.processes, ...(onNode === null || !pod ? [] : neighbours(columns, onNode, pod.uid))],
  };
}

/** Containers of a pod, or of the pods of a workload that fail: those that have written something. */
function logsOf(found: Found, at: number): SheetAnswer['logs'] {
  const pods =
    found.level === 'pod' || found.level === 'container'
      ? found.endedAt === null || found.endedAt > at
        ? found.pods
        : []
      : found.level === 'workload'
        ? found.pods.filter((pod) => podFindings(pod, at).length > 0).slice(0, 3)
        : [];
  const named = found.level === 'container' ? found.node.name : null;
  return pods.flatMap((pod) =>
    pod.containers
      .filter(({ name }) => named === null || name === named)
      .map(({ name, lastEnd }) => ({ pod: pod.name, container: name, previous: lastEnd !== null })),
  );
}

function containerLine(container: ContainerObject, { at, zone }: Telling): SheetAnswer['containers'][number] {
  const { state, lastEnd } = container;
  const clock = (time: number | null) => (time === null ? 'an unknown time' : formatClock(time, at, { zone }));
  const words = {
    running: () => (state.is === 'running' ? `runs since ${clock(state.since)}` : ''),
    waiting: () => (state.is === 'waiting' ? `waits: ${state.reason || 'no reason given'}` : ''),
    ended: () =>
      state.is === 'ended' ? `ended with code ${state.exitCode ?? 'unknown'} at ${clock(state.endedAt)}` : '',
    unknown: () => 'state unknown',
  };
  return {
    name: container.name,
    role: container.role,
    image: container.image,
    ports: [...container.ports],
    state: words[state.is](),
    restarts: container.restarts,
    lastEnd: lastEnd
      ? `code ${lastEnd.exitCode ?? 'unknown'}${lastEnd.reason ? `, ${lastEnd.reason}` : ''}, at ${clock(lastEnd.endedAt)}`
      : null,
  };
}
