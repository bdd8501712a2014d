import type { AlertAnswer, SheetAnswer, UsageRow } from '@zetopsis/contract';
import { type Finding, nodeFindings, podFindings } from '@zetopsis/core/findings';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { type ClusterEvent, type ContainerObject, type PodObject, restartsOf } from '@zetopsis/core/inventory';
import { byTightness, nodeUsage, type UsageLines, type UsageNode } from '@zetopsis/core/usage';
import { findingsOfPods } from './clusterView.ts';
import { ClusterColumns, rowOf } from './columns.ts';
import { marksOf, touches } from './marks.ts';
import type { SeenUsage } from './usage.service.ts';

const LEVELS = ['cluster', 'namespace', 'workload', 'pod', 'container'] as const;

export interface SheetInput {
  readonly usage: SeenUsage;
  readonly path: readonly string[];
  readonly window: { readonly from: number; readonly to: number };
  readonly owner: string | null;
  readonly alerts: readonly AlertAnswer[];
  readonly zone: string;
}

interface Found {
  readonly node: UsageNode;
  readonly pods: readonly PodObject[];
  readonly kind: string | null;
  readonly createdAt: number | null;
  readonly endedAt: number | null;
  readonly findings: readonly Finding[];
  readonly facts: SheetAnswer['facts'];
  readonly containers: readonly ContainerObject[];
  readonly nodes?: readonly UsageRow[];
}

/** Everything known about one object at the end of a window. Null when nothing of that name was there in it. */
export function sheetOf(
  input: SheetInput,
  events: readonly ClusterEvent[],
  eventsMissing: string | null,
): SheetAnswer | null {
  const { usage, path, window } = input;
  const found = find(input);
  if (!found) return null;
  const { node } = found;
  const { grid } = usage.input;
  const uids = new Set(found.pods.map(({ uid }) => uid));
  const restarts = restartsOf(usage.view.podStates.filter(({ uid }) => uids.has(uid))).filter(
    ({ at, container }) => at >= window.from && at <= window.to && (path.length < 5 || container === path[4]),
  );
  return {
    level: LEVELS[path.length - 1]!, // a path has one to five parts
    name: node.name,
    kind: found.kind,
    path: [...path],
    owner: input.owner,
    createdAt: found.createdAt,
    endedAt: found.endedAt,
    facts: found.facts,
    findings: [...found.findings],
    raised: input.alerts
      .filter(
        (alert) =>
          touches(alert.path, path) &&
          alert.path.length >= 2 &&
          alert.raisedAt <= window.to &&
          (alert.endedAt === null || alert.endedAt > window.to),
      )
      .map(({ severity, title, reason, since, nextStep }) => ({ severity, title, reason, since, nextStep })),
    usage: node.usage,
    throttled: node.throttled,
    grid,
    cpu: linesOf(node.lines.cpu),
    memory: linesOf(node.lines.memory),
    marks: marksOf(usage, input.alerts, path, window.from, window.to),
    restarts: restarts.length,
    containers: found.containers.map((container) => containerLine(container, window.to, input.zone)),
    nodes: [...(found.nodes ?? [])],
    events: events.map((event) => ({
      at: event.lastAt,
      type: event.type,
      reason: event.reason,
      message: event.message,
      count: event.count,
      about: event.about.name,
    })),
    eventsMissing,
  };
}

const listed = (values: Float64Array) => Array.from(values, (value) => (Number.isNaN(value) ? null : value));
const linesOf = (lines: UsageLines) => ({
  use: listed(lines.use),
  request: listed(lines.request),
  limit: listed(lines.limit),
});

function find({ usage, path, window }: SheetInput): Found | null {
  const columns = new ClusterColumns(usage, window.to);
  const [, namespace, workloadPath, podName, containerName] = path;
  const { view, tree } = usage;
  if (namespace === undefined) {
    const nodes = view.inventory.list('node');
    const findings = [
      ...columns.nodes.flatMap(({ node, findings: own }) =>
        own.map((finding) => ({ ...finding, reason: `${node.name}: ${finding.reason}` })),
      ),
      ...columns.workloads.flatMap(({ workload, findings: [first] }) =>
        first ? [{ ...first, reason: `${workload.name}: ${first.reason}` }] : [],
      ),
    ];
    const rows = view.nodes
      .map((span) => nodeUsage(usage.input, span))
      .filter(({ present }) => present)
      .sort(byTightness('memory'))
      .map((own) => rowOf(own, { findings: columns.nodes.find(({ node }) => node.uid === own.uid)?.findings ?? [] }));
    return {
      node: tree,
      pods: view.pods.map(({ pod }) => pod),
      kind: null,
      createdAt: null,
      endedAt: null,
      findings,
      facts: [
        {
          name: 'nodes',
          text: `${nodes.length}, ${nodes.filter((node) => nodeFindings(node).length === 0).length} without findings`,
        },
        { name: 'pods', text: String(tree.pods) },
      ],
      containers: [],
      nodes: rows,
    };
  }
  const spans = view.pods.filter((span) => span.workload.namespace === namespace);
  if (workloadPath === undefined) {
    const node = tree.children.find(({ key }) => key === namespace);
    const object = view.inventory.list('namespace').find(({ name }) => name === namespace);
    if (!node) return null;
    const own = columns.workloads.filter(({ workload }) => workload.namespace === namespace);
    return {
      node,
      pods: spans.map(({ pod }) => pod),
      kind: null,
      createdAt: object?.createdAt ?? null,
      endedAt: null,
      findings: own.flatMap(({ workload, findings }) =>
        findings.map((finding) => ({ ...finding, reason: `${workload.name}: ${finding.reason}` })),
      ),
      facts: [
        { name: 'pods', text: String(node.pods) },
        { name: 'workloads', text: String(own.length) },
      ],
      containers: [],
    };
  }
  const workloadNode = columns.find(namespace, workloadPath);
  const state = columns.workloads.find(({ workload, key }) => workload.namespace === namespace && key === workloadPath);
  if (podName === undefined) {
    if (!workloadNode) return null;
    const pods = spans
      .filter((span) => workloadNode.children.some(({ uid }) => uid === span.pod.uid))
      .map(({ pod }) => pod);
    const present = pods.filter((pod) => workloadNode.children.some((child) => child.uid === pod.uid && child.present));
    return {
      node: workloadNode,
      pods,
      kind: state?.workload.kind ?? workloadPath.slice(0, workloadPath.indexOf(':')).replace('-', ' '),
      createdAt: state?.workload.createdAt ?? null,
      endedAt: null,
      findings: state?.findings ?? findingsOfPods(present, window.to),
      facts: state
        ? [
            { name: 'ready', text: `${state.workload.ready} of ${state.workload.desired}` },
            { name: 'updated', text: `${state.workload.updated} of ${state.workload.desired}` },
            ...state.workload.images.map(({ container, image }) => ({ name: `image of ${container}`, text: image })),
          ]
        : [{ name: 'pods', text: String(present.length) }],
      containers: [],
    };
  }
  const podNode = workloadNode?.children.find(({ key }) => key === podName);
  const span = spans.find(({ pod }) => pod.uid === podNode?.uid);
  if (!podNode || !span) return null;
  const { pod } = span;
  const node = containerName === undefined ? podNode : podNode.children.find(({ key }) => key === containerName);
  if (!node) return null;
  const container = pod.containers.find(({ name }) => name === containerName);
  return {
    node,
    pods: [pod],
    kind: container?.role ?? null,
    createdAt: pod.createdAt,
    endedAt: span.to,
    findings: span.to === null || span.to > window.to ? podFindings(pod, window.to) : [],
    facts: [
      { name: 'node', text: pod.node ?? 'not placed yet' },
      { name: 'phase', text: pod.phase },
      { name: 'age', text: formatDuration((span.to ?? window.to) - pod.createdAt) },
    ],
    containers: container ? [container] : pod.containers,
  };
}

function containerLine(container: ContainerObject, at: number, zone: string): SheetAnswer['containers'][number] {
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
