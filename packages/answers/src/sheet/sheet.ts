import {
  type AlertAnswer,
  type Finding,
  type FlowLines,
  type ObjectPath,
  partOf,
  readPath,
  type SheetAnswer,
  touches,
  writePath,
} from '@zetopsis/contract';
import { type EmptyCode, emptyBecause } from '@zetopsis/core/emptiness';
import { formatClock } from '@zetopsis/core/format';
import {
  type ClusterEvent,
  type ContainerObject,
  type PodObject,
  restartsOf,
  workloadKey,
} from '@zetopsis/core/inventory';
import { purposeOf } from '@zetopsis/core/purposes';
import { linesOf } from '../cluster/index.ts';
import type { ClusterColumns } from '../columns/index.ts';
import { rowOf } from '../columns/index.ts';
import { nextDue, runLines } from '../findings/index.ts';
import { marksOf } from '../marks/index.ts';
import type { SeenUsage } from '../usage/index.ts';
import type { Accessory } from './accessories.ts';
import { changesOf, changesOfAccessory } from './changes.ts';
import { containerStates } from './containerStates.ts';
import type { Counterpart, MeasuredObject } from './measured.ts';
import { neighbours, nodeStrata } from './onNode.ts';
import { around, nodeUsagesOf, type Telling } from './related.ts';
import { rolloutOf } from './rollout.ts';
import { requestsAndPods, scaledKey } from './scaledFlows.ts';
import { sheetMeasures } from './sheetMeasures.ts';

export interface SheetInput {
  readonly usage: SeenUsage;
  readonly path: ObjectPath;
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

/** What a workload lacks pods for. */
const LACKS: ReadonlySet<Finding['code']> = new Set(['fewerReady', 'rolloutStuck', 'cannotCreate']);
/**
 * The finding that tells what was raised; -1: none. What was raised bears the words of that moment, while a finding has those of
 * now: of a workload both tell that it lacks pods. In the sheet of a whole, a finding names the part it is of before it.
 */
function toldBy(findings: readonly Finding[], reason: string, place: ObjectPath | null): number {
  const same = findings.findIndex((one) => one.reason === reason || one.reason.endsWith(`: ${reason}`));
  if (same >= 0 || place?.is !== 'workload') return same;
  const begins = `${place.workload.name}: `;
  const lacks = (one: Finding) => LACKS.has(one.code);
  const named = findings.findIndex((one) => lacks(one) && one.reason.startsWith(begins));
  return named >= 0 ? named : findings.findIndex((one) => lacks(one) && !/^\S+: /.test(one.reason));
}

/** What every sheet has. */
function common(input: SheetInput, findings: readonly Finding[]) {
  const { usage, path, window, owner, alerts, events, eventsMissing, runningOut, elsewhere, requests } = input;
  return {
    path: writePath(path),
    owner,
    grid: usage.input.grid,
    raised: alerts
      .filter((alert) => {
        const place = readPath(alert.path);
        return (
          place !== null &&
          alert.path.length >= 2 &&
          touches(place, path) &&
          alert.raisedAt <= window.to &&
          (alert.endedAt === null || alert.endedAt > window.to)
        );
      })
      .map(({ severity, title, reason, since, nextStep, path: of }) => {
        const told = toldBy(findings, reason, readPath(of));
        return { severity, title, reason, since, nextStep, toldBy: told < 0 ? null : told };
      }),
    marks: marksOf({ usage, alerts, path, from: window.from, to: window.to }),
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
export function accessorySheet(input: SheetInput, thing: Accessory): SheetAnswer {
  const { object } = thing;
  return {
    ...common(input, thing.findings),
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
    measures: null,
    flows: [
      ...(object.kind === 'autoscaler' ? [requestsAndPods(input.usage, object, input.requests) ?? []].flat() : []),
      ...thing.flows,
    ],
    restarts: 0,
    containers: [],
    nodes: [],
    volumes: thing.volumes,
    quotas: thing.quotas,
    runs: null,
    nextDueAt: null,
    related: thing.related,
    rollout: null,
    changes: changesOfAccessory(thing),
    logs: [],
    tables: thing.tables,
    left: 0,
  };
}

/** Everything known about an object that uses something, at the end of a window. */
export function usageSheet({
  input,
  columns,
  found,
  flows,
  against: then,
}: {
  readonly input: SheetInput;
  readonly columns: ClusterColumns;
  readonly found: MeasuredObject;
  readonly flows: FlowLines[];
  readonly against: Counterpart | null;
}): SheetAnswer {
  const { usage, window, telling } = input;
  const { node } = found;
  const [pod] = found.level === 'pod' || found.level === 'container' ? found.pods : [];
  const onNode = pod?.node ?? null;
  const uids = new Set(found.pods.map(({ uid }) => uid));
  const restarts = restartsOf(usage.view.podStates.flatMap(({ pod: own }) => (uids.has(own.uid) ? [own] : []))).filter(
    ({ at, container }) =>
      at >= window.from && at <= window.to && (found.level !== 'container' || container === node.name),
  );
  const runs = runLines(usage.view, found.workload);
  const why = emptyBecause(whyUnread(found, { runs: runs !== null, restarts: restarts.length }));
  return {
    ...common(input, found.findings),
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
    cpu: linesOf(node.lines.cpu, then?.cpu ?? null, why),
    memory: linesOf(node.lines.memory, then?.memory ?? null, why),
    measures: sheetMeasures(usage, input.path, input.owner, node),
    flows: [
      ...scaledBy(input, found),
      ...flows,
      ...statesOf(usage, found),
      ...(onNode === null ? [] : nodeStrata(columns, onNode, input.nodeDisk)),
    ],
    restarts: restarts.length,
    containers: found.pods
      .slice(0, 1)
      .flatMap((pod) =>
        found.containers.map((container) => containerLine({ container, pod, workload: found.of?.name ?? '' }, telling)),
      ),
    nodes: found.level === 'cluster' ? nodeRows(columns) : [],
    ...around({ usage, columns, found, telling }),
    runs,
    nextDueAt: nextDue(found.workload, window.to),
    rollout: found.level === 'workload' ? rolloutOf(usage, found, { at: window.to, judge: columns.judge }) : null,
    changes: changesOf(found),
    logs: logsOf(found, columns, window.to),
    tables: [...input.processes, ...(onNode === null || !pod ? [] : neighbours(columns, onNode, pod.uid))],
  };
}

const nodeRows = (columns: ClusterColumns) =>
  nodeUsagesOf(columns).map((own) =>
    rowOf(own, {
      key: partOf.node(own.name),
      findings: columns.nodes.find(({ node: { uid } }) => uid === own.uid)?.findings ?? [],
    }),
  );

/** Containers of its pods by state; of a cluster those of all. */
function statesOf({ view, input: { grid } }: SeenUsage, found: MeasuredObject): FlowLines[] {
  if (found.level === 'container' || found.level === 'host') return [];
  if (found.level === 'cluster') return containerStates(view.pods, view.podStates, grid);
  const own = new Set(found.pods.map(({ uid }) => uid));
  const ofIt = ({ pod }: { readonly pod: PodObject }) => own.has(pod.uid);
  return containerStates(view.pods.filter(ofIt), view.podStates.filter(ofIt), grid);
}
/** Requests and pods of what is scaled, on one axis. */
function scaledBy({ usage, requests }: SheetInput, { level, workload }: MeasuredObject): FlowLines[] {
  if (level !== 'workload' || workload === null) return [];
  const scaler = usage.view.inventory
    .list('autoscaler')
    .find((own) => own.namespace === workload.namespace && scaledKey(own) === workloadKey(workload));
  return scaler ? [requestsAndPods(usage, scaler, requests) ?? []].flat() : [];
}

/** Why nothing of it was read in a window, were it so. */
function whyUnread(found: MeasuredObject, { runs, restarts }: { runs: boolean; restarts: number }): EmptyCode {
  const [only, ...others] = found.containers;
  if (found.containers.some(({ state }) => state.is === 'waiting')) return 'neverRan';
  if (only?.role === 'start-up' && others.length === 0) return 'startUp';
  if (runs) return 'noRun';
  return restarts === 0 && found.level === 'workload' && found.pods.length === 0 ? 'nothingRan' : 'notRead';
}

/** Containers of a pod, or of the pods of a workload that fail: those that have written something. */
function logsOf(found: MeasuredObject, columns: ClusterColumns, at: number): SheetAnswer['logs'] {
  const pods =
    found.level === 'pod' || found.level === 'container'
      ? found.endedAt === null || found.endedAt > at
        ? found.pods
        : []
      : found.level === 'workload'
        ? found.pods.filter((pod) => columns.judge.pod(pod).length > 0).slice(0, 3)
        : [];
  const named = found.level === 'container' ? found.node.name : null;
  return pods.flatMap((pod) =>
    pod.containers
      .filter(({ name }) => named === null || name === named)
      .map(({ name, lastEnd }) => ({ pod: pod.name, container: name, previous: lastEnd !== null })),
  );
}

function containerLine(
  { container, pod, workload }: { container: ContainerObject; pod: PodObject; workload: string },
  { at, zone }: Telling,
): SheetAnswer['containers'][number] {
  const { state, lastEnd } = container;
  const clock = (time: number | null) => (time === null ? 'an unknown time' : formatClock(time, at, { zone }));
  const purpose = purposeOf(pod, container, workload);
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
    purpose: purpose && { ...purpose, signs: [...purpose.signs] },
    image: container.image,
    ports: [...container.ports],
    state: words[state.is](),
    restarts: container.restarts,
    lastEnd: lastEnd
      ? `code ${lastEnd.exitCode ?? 'unknown'}${lastEnd.reason ? `, ${lastEnd.reason}` : ''}, at ${clock(lastEnd.endedAt)}`
      : null,
  };
}
