import {
  type Answering,
  apiFindings,
  askingFindings,
  autoscalerFindings,
  budgetFindings,
  byWeight,
  causedByNodes,
  claimFindings,
  deletionFindings,
  type Finding,
  type NodeMeasured,
  nodeFindings,
  quotaFindings,
  type Room,
  roomsOf,
  type Said,
  volumeFindings,
  weighed,
} from '@zetopsis/core/findings';
import type { ClusterInventory } from '@zetopsis/core/inventory';
import {
  type AccessoryKind,
  type AnyWorkload,
  hasEnded,
  isKeeper,
  isWorkload,
  type NodeObject,
  type PodObject,
  type WorkloadRef,
  workloadKey,
} from '@zetopsis/core/inventory';
import { type DurationMs, type EpochMs, HOUR, RESOURCES } from '@zetopsis/core/units';
import { gridEnd, type UsageNode } from '@zetopsis/core/usage';
import { claimKey, entriesOf, selects, type VolumesRead } from '../cluster/index.ts';
import { ClusterJudge, type CriticalityOf, eventsOf, ORDINARY } from './judge.ts';

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
  readonly judge: ClusterJudge;
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
  readonly criticalityOf?: CriticalityOf;
  readonly answering?: ReadonlyMap<string, Answering> | undefined;
  /** By namespace and workload: links in trouble that stand there. */
  readonly links?: ReadonlyMap<string, readonly Finding[]> | undefined;
  /** What containers wrote last, where somebody brought it along. */
  readonly lastLines?: Said['lastLines'] | undefined;
}

/** A cluster as rules see it, who see all that stands there: what is told of it is the same as anywhere. */
export const judgeOf = (inventory: ClusterInventory, at: EpochMs, criticalityOf: CriticalityOf): ClusterJudge =>
  new ClusterJudge({
    inventory,
    rooms: () => roomsOf(inventory.list('node'), inventory.list('pod')),
    said: eventsOf(inventory),
    at,
    criticalityOf,
    used: null,
  });

/** A namespace that was looked at for less than this does not show what it needs. */
const ASKING_AFTER = HOUR;

/** Findings of every workload, node, bound and namespace at the window's end; yields after each, to be done in pieces. */
export function* clusterFindings(looked: Looked, at: EpochMs): Generator<void, ClusterFound> {
  const { inventory, lastLines } = looked;
  const said: Said = { ...eventsOf(inventory), ...(lastLines ? { lastLines } : {}) };
  const judge = lookingJudge(looked, at, said);
  const drafts = yield* draftsOf(inventory, judge);
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
  for (const bound of boundsOf({ inventory, volumes: looked.volumes, at, said })) {
    // what it bounds serves meanwhile: of what fails because of it, its workloads tell
    const effect = { serves: SPARES.has(bound.kind), criticality: judge.criticalityOf(bound.namespace, null).is };
    if (bound.findings.length > 0) bounds.push({ ...bound, findings: weighed(bound.findings, effect) });
    yield;
  }
  const { asking, wasteful } = yield* namespacesOf(looked, at);
  const because = new Map([...causes].flatMap(([node, { explains }]) => [...explains].map((key) => [key, node])));
  return {
    workloads: drafts.map((draft): WorkloadState => {
      const { workload, key } = draft;
      const findings = [...draft.findings, ...(wasteful.get(place(draft)) ?? [])].sort(byWeight);
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
    loose: yield* looseOf(inventory, new Set(drafts.map(place)), judge),
    judge,
  };
}

/** Who judges what was looked at: rooms of nodes are worked out when the first that needs them asks. */
function lookingJudge(looked: Looked, at: EpochMs, said: Said): ClusterJudge {
  const { inventory, tree, grid, criticalityOf = ORDINARY, answering, links } = looked;
  let rooms: readonly Room[] | null = null;
  const roomsNow = () => {
    rooms ??= roomsOf(inventory.list('node'), inventory.list('pod'));
    return rooms;
  };
  return new ClusterJudge({
    inventory,
    rooms: looked.whole ? roomsNow : undefined,
    said,
    at,
    criticalityOf,
    used: { grid, tree },
    answering,
    links,
  });
}

interface Draft {
  readonly workload: AnyWorkload;
  readonly key: string;
  readonly pods: PodObject[];
  readonly findings: readonly Finding[];
}
const place = ({ workload, key }: Draft): string => `${workload.namespace}/${key}`;
/** Each workload with what is wrong with it by itself. */
function* draftsOf(inventory: ClusterInventory, judge: ClusterJudge): Generator<void, Draft[]> {
  const all = [
    ...inventory.list('deployment'),
    ...inventory.list('stateful set'),
    ...inventory.list('daemon set'),
    ...inventory.list('replica set'),
    ...inventory.list('cron job'),
    ...inventory.list('job'),
  ];
  const drafts: Draft[] = [];
  for (const workload of all.filter(isWorkload)) {
    const key = workloadKey(workload);
    const pods = inventory.podsOf(workload.namespace ?? '', key);
    drafts.push({ workload, key, pods, findings: judge.workload(workload, pods) });
    yield;
  }
  return drafts;
}

/** By namespace what is wrong with itself, and by workload what it asks for in vain. */
function* namespacesOf({ inventory, tree, grid }: Looked, at: EpochMs) {
  const asking = new Map<string, readonly Finding[]>();
  const wasteful = new Map<string, readonly Finding[]>();
  for (const namespace of inventory.list('namespace')) {
    const stuck = deletionFindings(namespace, at);
    if (stuck.length > 0) asking.set(namespace.name, stuck);
  }
  if (gridEnd(grid) - grid.start < ASKING_AFTER) return { asking, wasteful };
  for (const namespace of tree.children) {
    const { own, workloads } = overAsking(namespace);
    if (own.length > 0) asking.set(namespace.key, [...(asking.get(namespace.key) ?? []), ...own]);
    for (const [key, findings] of workloads) wasteful.set(`${namespace.key}/${key}`, findings);
    yield;
  }
  return { asking, wasteful };
}

/** Bounds of which something else serves while they are spent or blocked. */
const SPARES: ReadonlySet<AccessoryKind> = new Set<AccessoryKind>(['quota']);

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
          since: read.fullSince,
          entries: entriesOf(read),
        })
      : [];
    yield boundOf(claim, [...claimFindings(claim, at, said), ...filling]);
  }
}

const boundOf = (
  { kind, name, namespace }: { kind: AccessoryKind; name: string; namespace: string | null },
  findings: readonly Finding[],
): BoundState => ({ namespace: namespace ?? '', kind, name, findings });

function* looseOf(
  inventory: ClusterInventory,
  known: ReadonlySet<string>,
  judge: ClusterJudge,
): Generator<void, LooseState[]> {
  const groups = new Map<string, { workload: WorkloadRef; pods: PodObject[] }>();
  for (const pod of inventory.list('pod')) {
    const workload = inventory.workloadOf(pod);
    const key = `${workload.namespace}/${workloadKey(workload)}`;
    if (known.has(key)) continue;
    const group = groups.get(key) ?? { workload, pods: [] };
    groups.set(key, group);
    group.pods.push(pod);
  }
  const loose: LooseState[] = [];
  for (const { workload, pods } of groups.values()) {
    const findings = judge.pods(pods);
    if (findings.length > 0) loose.push({ workload, findings });
    yield;
  }
  return loose;
}

/** Who has this share of what a namespace asks for in vain is named for it. */
const SHARE = 0.25;
/** What a namespace asks for and does not use stands at the workloads that do it; at itself where no one stands out. */
function overAsking(namespace: UsageNode): {
  readonly own: readonly Finding[];
  readonly workloads: ReadonlyMap<string, readonly Finding[]>;
} {
  const workloads = new Map<string, readonly Finding[]>();
  const own = RESOURCES.flatMap((resource): readonly Finding[] => {
    const idle = ({ usage }: UsageNode) => Math.max(0, (usage[resource].request ?? 0) - (usage[resource].peak ?? 0));
    const whole = askingFindings(namespace.usage, resource);
    const named = namespace.children
      .filter((child) => child.present)
      .map((child) => {
        const least = whole.length > 0 ? SHARE * idle(namespace) : undefined;
        return { key: child.key, findings: askingFindings(child.usage, resource, least) };
      })
      .filter(({ findings }) => findings.length > 0);
    for (const { key, findings } of named) workloads.set(key, [...(workloads.get(key) ?? []), ...findings]);
    return named.length > 0 ? [] : whole;
  });
  return { own, workloads };
}
