import {
  apiFindings,
  askingFindings,
  autoscalerFindings,
  budgetFindings,
  byWeight,
  causedByNodes,
  claimFindings,
  cronJobFindings,
  deletionFindings,
  type Finding,
  jobFindings,
  type NodeMeasured,
  nameServiceFindings,
  nodeFindings,
  podFindings,
  quotaFindings,
  type Room,
  roomsOf,
  type Said,
  volumeFindings,
  workloadFindings,
} from '@zetopsis/core/findings';
import type { ClusterInventory } from '@zetopsis/core/inventory';
import {
  type AccessoryKind,
  type AnyWorkload,
  hasEnded,
  isKeeper,
  isWorkload,
  type JobObject,
  type NodeObject,
  type PodObject,
  type WorkloadObject,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import { type DurationMs, type EpochMs, HOUR } from '@zetopsis/core/units';
import { gridEnd, groupBy, type UsageNode } from '@zetopsis/core/usage';
import { claimKey, entriesOf, selects, type VolumesRead } from '../cluster/index.ts';
import { runsOf } from './jobRuns.ts';
import { nextDue } from './runs.ts';

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
/** Pods without an owner that is known, and what is wrong with them. */
export interface LooseState {
  readonly workload: WorkloadRef;
  readonly findings: readonly Finding[];
}
/** A quota, claim, budget or autoscaler and what is wrong with it. */
export interface BoundState {
  readonly namespace: string;
  readonly kind: AccessoryKind;
  readonly name: string;
  readonly findings: readonly Finding[];
}
/** Everything that is wrong in a cluster at a moment. */
export interface ClusterFound {
  readonly workloads: readonly WorkloadState[];
  readonly nodes: readonly NodeState[];
  readonly bounds: readonly BoundState[];
  /** Pods whose workload is no object of ours: they stand for themselves, or for an owner of a kind that is not known. */
  readonly loose: readonly LooseState[];
  /** By namespace: what it asks for and does not use, and a deletion that does not end. */
  readonly asking: ReadonlyMap<string, readonly Finding[]>;
  /** Of the cluster itself. */
  readonly own: readonly Finding[];
  readonly beside: Beside;
}
interface Looked {
  readonly inventory: ClusterInventory;
  readonly volumes: VolumesRead;
  readonly tree: UsageNode;
  readonly grid: { readonly start: EpochMs; readonly step: DurationMs; readonly count: number };
  /** How long the cluster's API took to answer lately. */
  readonly api: readonly DurationMs[];
  /** At the window's end. */
  readonly measuredOf: (node: string) => NodeMeasured;
  /** Everything that stands on the nodes is seen. */
  readonly whole: boolean;
  /** What containers wrote last, where somebody brought it along. */
  readonly lastLines?: Said['lastLines'];
}

/** What stands beside an object when it is judged: the room that nodes have left, and what the cluster said of it. */
export interface Beside {
  /** Not for those who do not see all that stands there. */
  readonly rooms: (() => readonly Room[]) | undefined;
  readonly said: Said;
}
export const eventsOf = (inventory: ClusterInventory): Said => ({ about: (object) => inventory.events.about(object) });

/** Judges workloads of one cluster, each with what it owns. */
class WorkloadJudge {
  private readonly jobs: readonly JobObject[];
  private readonly owned: ReadonlyMap<string, readonly WorkloadObject[]>;
  constructor(
    inventory: ClusterInventory,
    private readonly beside: Beside,
    private readonly at: EpochMs,
  ) {
    this.jobs = inventory.list('job');
    const sets: readonly WorkloadObject[] = inventory.list('replica set');
    this.owned = groupBy(sets, ({ owner }) => owner?.uid ?? '');
  }
  findings(workload: AnyWorkload, pods: readonly PodObject[]): readonly Finding[] {
    const { at, beside } = this;
    const { said, rooms } = beside;
    if (isKeeper(workload)) {
      // what is said of a replica set is said of the deployment that owns it
      const events = [workload, ...(this.owned.get(workload.uid) ?? [])].flatMap((object) => said.about(object));
      events.sort((a, b) => b.lastAt - a.lastAt);
      const own = workloadFindings({ workload, pods, now: at, rooms, said, events });
      return [...nameServiceFindings([workload]), ...own].sort(byWeight);
    }
    if (workload.kind === 'cron job') {
      const due = nextDue(workload, workload.lastDueAt ?? workload.createdAt);
      return cronJobFindings(runsOf(this.jobs, pods, workload), at, { cron: workload, due, said });
    }
    return workload.kind === 'job' ? jobFindings({ job: workload, pods }, at, said) : [];
  }
}

/** One workload as rules see it, who see all that stands there: what is told of it is the same as anywhere. */
export function workloadFindingsIn(
  inventory: ClusterInventory,
  workload: AnyWorkload,
  at: EpochMs,
): readonly Finding[] {
  const rooms = () => roomsOf(inventory.list('node'), inventory.list('pod'));
  const pods = inventory.podsOf(workload.namespace ?? '', workloadKey(workload));
  return new WorkloadJudge(inventory, { rooms, said: eventsOf(inventory) }, at).findings(workload, pods);
}

/** A namespace that was looked at for less than this does not show what it needs. */
const ASKING_AFTER = HOUR;

/** Findings of every workload, node, bound and namespace at the window's end; yields after each, to be done in pieces. */
export function* clusterFindings(looked: Looked, at: EpochMs): Generator<void, ClusterFound> {
  const { inventory, volumes, tree, grid } = looked;
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
    ...inventory.list('job'),
  ];
  const { lastLines } = looked;
  const said: Said = { ...eventsOf(inventory), ...(lastLines ? { lastLines } : {}) };
  const beside: Beside = { rooms: roomsNow, said };
  const judge = new WorkloadJudge(inventory, beside, at);
  const drafts: { workload: AnyWorkload; key: string; pods: PodObject[]; findings: readonly Finding[] }[] = [];
  for (const workload of all.filter(isWorkload)) {
    const key = workloadKey(workload);
    const pods = inventory.podsOf(workload.namespace ?? '', key);
    drafts.push({ workload, key, pods, findings: judge.findings(workload, pods) });
    yield;
  }
  const place = ({ workload, key }: { workload: AnyWorkload; key: string }) => `${workload.namespace}/${key}`;
  const own = new Map<string, readonly Finding[]>();
  for (const node of inventory.list('node')) {
    own.set(node.name, nodeFindings(node, looked.measuredOf(node.name)));
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
  for (const bound of boundsOf({ inventory, volumes, at, said: beside.said })) {
    if (bound.findings.length > 0) bounds.push(bound);
    yield;
  }
  const asking = new Map<string, readonly Finding[]>();
  for (const namespace of inventory.list('namespace')) {
    const stuck = deletionFindings(namespace, at);
    if (stuck.length > 0) asking.set(namespace.name, stuck);
  }
  if (gridEnd(grid) - grid.start >= ASKING_AFTER)
    for (const namespace of tree.children) {
      const findings = askingFindings(namespace.usage);
      if (findings.length > 0) asking.set(namespace.key, [...(asking.get(namespace.key) ?? []), ...findings]);
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
    loose: looseOf(inventory, new Set(drafts.map(place)), beside, at),
    beside,
  };
}

function* boundsOf({
  inventory,
  volumes,
  at,
  said,
}: {
  readonly inventory: ClusterInventory;
  readonly volumes: VolumesRead;
  readonly at: EpochMs;
  readonly said: Said;
}): Generator<BoundState> {
  const pods = inventory.list('pod');
  for (const quota of inventory.list('quota')) yield boundOf(quota, quotaFindings(quota));
  for (const scaler of inventory.list('autoscaler')) yield boundOf(scaler, autoscalerFindings(scaler, at, said));
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
    yield boundOf(claim, [...claimFindings(claim, at, said), ...filling]);
  }
}

const boundOf = (
  { kind, name, namespace }: { kind: AccessoryKind; name: string; namespace: string | null },
  findings: readonly Finding[],
): BoundState => ({ namespace: namespace ?? '', kind, name, findings });

function looseOf(inventory: ClusterInventory, known: ReadonlySet<string>, beside: Beside, at: EpochMs): LooseState[] {
  const groups = new Map<string, { workload: WorkloadRef; pods: PodObject[] }>();
  for (const pod of inventory.list('pod')) {
    const workload = inventory.workloadOf(pod);
    const key = `${workload.namespace}/${workloadKey(workload)}`;
    if (known.has(key)) continue;
    const group = groups.get(key) ?? { workload, pods: [] };
    groups.set(key, group);
    group.pods.push(pod);
  }
  return [...groups.values()].flatMap(({ workload, pods }) => {
    const findings = findingsOfPods(pods, at, beside);
    return findings.length === 0 ? [] : [{ workload, findings }];
  });
}

/** Findings of pods whose workload is no object of ours: their pods speak for them. */
export function findingsOfPods(pods: readonly PodObject[], at: EpochMs, beside?: Beside): Finding[] {
  return pods.flatMap((pod) => podFindings(pod, at, beside)).sort(byWeight);
}
