import {
  apiFindings,
  askingFindings,
  autoscalerFindings,
  budgetFindings,
  byWeight,
  causedByNodes,
  claimFindings,
  cronJobFindings,
  type Finding,
  hasEnded,
  jobFindings,
  nameServiceFindings,
  nodeFindings,
  podFindings,
  quotaFindings,
  type Room,
  roomsOf,
  volumeFindings,
  workloadFindings,
} from '@zetopsis/core/findings';
import {
  type AnyWorkload,
  isKeeper,
  isWorkload,
  type JobObject,
  type NodeObject,
  type PodObject,
  workloadKey,
} from '@zetopsis/core/inventory';
import { type DurationMs, type EpochMs, HOUR } from '@zetopsis/core/units';
import { gridEnd, type UsageNode } from '@zetopsis/core/usage';
import type { ClusterInventory } from '../inventory/clusterInventory.ts';
import { runsOf } from './jobRuns.ts';
import { objectKey } from './objectPaths.ts';
import { nextDue } from './runs.ts';
import { selects } from './selects.ts';
import { claimKey, entriesOf, type VolumesRead } from './volumesRead.ts';

export interface WorkloadState {
  readonly workload: AnyWorkload;
  readonly key: string;
  readonly findings: readonly Finding[];
  /** Null of what runs to an end. */
  readonly ready: number | null;
  readonly desired: number | null;
  /** The lost node that alone makes it fail; null where there is none. */
  readonly because: string | null;
}
export interface NodeState {
  readonly node: NodeObject;
  readonly findings: readonly Finding[];
}
/** A quota, claim, budget or autoscaler and what is wrong with it. */
export interface BoundState {
  readonly namespace: string;
  readonly name: string;
  readonly key: string;
  readonly findings: readonly Finding[];
}
/** Everything that is wrong in a cluster at a moment. */
export interface ClusterFound {
  readonly workloads: readonly WorkloadState[];
  readonly nodes: readonly NodeState[];
  readonly bounds: readonly BoundState[];
  /** By namespace: what it asks for and does not use. */
  readonly asking: ReadonlyMap<string, readonly Finding[]>;
  /** Of the cluster itself. */
  readonly own: readonly Finding[];
  /** What is left of each node, worked out when it is first asked for; not for those who do not see all that stands there. */
  readonly rooms: (() => readonly Room[]) | undefined;
}
interface Looked {
  readonly inventory: ClusterInventory;
  readonly volumes: VolumesRead;
  readonly tree: UsageNode;
  readonly grid: { readonly start: EpochMs; readonly step: DurationMs; readonly count: number };
  /** How long the cluster's API took to answer lately. */
  readonly api: readonly DurationMs[];
  /** Entries of a node's file system at the window's end. */
  readonly entriesOf: (node: string) => { readonly used: number | null; readonly count: number | null };
  /** Everything that stands on the nodes is seen. */
  readonly whole: boolean;
}

function findingsOf(
  jobs: readonly JobObject[],
  workload: AnyWorkload,
  pods: readonly PodObject[],
  at: EpochMs,
  rooms: (() => readonly Room[]) | undefined,
): readonly Finding[] {
  if (isKeeper(workload))
    return [...nameServiceFindings([workload]), ...workloadFindings(workload, pods, at, rooms)].sort(byWeight);
  if (workload.kind === 'cron job') {
    const due = nextDue(workload, workload.lastDueAt ?? workload.createdAt);
    return cronJobFindings(runsOf(jobs, pods, workload), at, { cron: workload, due });
  }
  return workload.kind === 'job' ? jobFindings(workload, pods, at) : [];
}

/** A namespace that was looked at for less than this does not show what it needs. */
const ASKING_AFTER = HOUR;

/** Findings of every workload, node, bound and namespace at the window's end; yields after each, to be done in pieces. */
export function* clusterFindings(looked: Looked, at: EpochMs): Generator<void, ClusterFound> {
  const { inventory, volumes, tree, grid } = looked;
  const jobs = inventory.list('job');
  let rooms: readonly Room[] | null = null;
  const roomsNow = looked.whole
    ? () => {
        rooms ??= roomsOf(inventory.list('node'), inventory.list('pod'));
        return rooms;
      }
    : undefined;
  const all = [
    ...inventory.list('deployment'),
    ...inventory.list('stateful set'),
    ...inventory.list('daemon set'),
    ...inventory.list('replica set'),
    ...inventory.list('cron job'),
    ...jobs,
  ];
  const drafts: { workload: AnyWorkload; key: string; pods: PodObject[]; findings: readonly Finding[] }[] = [];
  for (const workload of all.filter(isWorkload)) {
    const key = workloadKey(workload);
    const pods = inventory.podsOf(workload.namespace ?? '', key);
    drafts.push({ workload, key, pods, findings: findingsOf(jobs, workload, pods, at, roomsNow) });
    yield;
  }
  const place = ({ workload, key }: { workload: AnyWorkload; key: string }) => `${workload.namespace}/${key}`;
  const own = new Map<string, readonly Finding[]>();
  for (const node of inventory.list('node')) {
    own.set(node.name, nodeFindings(node, looked.entriesOf(node.name)));
    yield;
  }
  const causes = new Map(
    causedByNodes(
      inventory.list('node'),
      drafts.filter(({ findings }) => findings.length > 0).map((draft) => ({ key: place(draft), pods: draft.pods })),
      (node) => own.get(node.name)?.[0],
    ).map((cause) => [cause.node.name, cause]),
  );
  yield;
  const bounds: BoundState[] = [];
  for (const bound of boundsOf(inventory, volumes, at)) {
    if (bound.findings.length > 0) bounds.push(bound);
    yield;
  }
  const asking = new Map<string, readonly Finding[]>();
  if (gridEnd(grid) - grid.start >= ASKING_AFTER)
    for (const namespace of tree.children) {
      const findings = askingFindings(namespace.usage);
      if (findings.length > 0) asking.set(namespace.key, findings);
      yield;
    }
  const because = new Map([...causes].flatMap(([node, { explains }]) => [...explains].map((key) => [key, node])));
  return {
    workloads: drafts.map((draft): WorkloadState => {
      const { workload, key, findings } = draft;
      return {
        workload,
        key,
        findings,
        ready: isKeeper(workload) ? workload.ready : null,
        desired: isKeeper(workload) ? workload.desired : null,
        because: because.get(place(draft)) ?? null,
      };
    }),
    nodes: inventory.list('node').map((node): NodeState => {
      const [first, ...others] = own.get(node.name) ?? [];
      return { node, findings: first ? [causes.get(node.name)?.finding ?? first, ...others] : [] };
    }),
    bounds,
    asking,
    own: apiFindings(looked.api, null),
    rooms: roomsNow,
  };
}

function* boundsOf(inventory: ClusterInventory, volumes: VolumesRead, at: EpochMs): Generator<BoundState> {
  const pods = inventory.list('pod');
  for (const quota of inventory.list('quota')) yield boundOf(quota, quotaFindings(quota));
  for (const scaler of inventory.list('autoscaler')) yield boundOf(scaler, autoscalerFindings(scaler));
  for (const budget of inventory.list('disruption budget')) {
    if (budget.allowed !== 0) continue;
    const expected = pods.filter(
      (pod) => pod.namespace === budget.namespace && !hasEnded(pod) && selects(budget.selector, pod),
    ).length;
    yield boundOf(budget, budgetFindings(budget, expected));
  }
  for (const claim of inventory.list('volume claim')) {
    const read = volumes.get(claimKey(claim.namespace ?? '', claim.name));
    const filling = read
      ? volumeFindings(claim.name, {
          use: read.volume.usage.use,
          size: read.volume.usage.limit,
          fullIn: read.fullIn,
          entries: entriesOf(read.volume),
        })
      : [];
    yield boundOf(claim, [...claimFindings(claim, at), ...filling]);
  }
}

const boundOf = (
  object: Parameters<typeof objectKey>[0] & { namespace: string | null },
  findings: readonly Finding[],
): BoundState => ({ namespace: object.namespace ?? '', name: object.name, key: objectKey(object), findings });

/** Findings of pods whose workload is no object of ours: their pods speak for them. */
export function findingsOfPods(pods: readonly PodObject[], at: EpochMs, rooms?: () => readonly Room[]): Finding[] {
  return pods.flatMap((pod) => podFindings(pod, at, rooms)).sort(byWeight);
}
