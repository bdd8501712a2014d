import {
  type Answering,
  type Around,
  answeringFindings,
  byWeight,
  type CriticalityWords,
  criticalities,
  cronJobFindings,
  type Finding,
  fewerReadySince,
  isLost,
  jobFindings,
  nameServiceFindings,
  podFindings,
  type Room,
  type Said,
  saturationFindings,
  type ToldCriticality,
  weighed,
  workloadFindings,
} from '@zetopsis/core/findings';
import {
  type AnyWorkload,
  type ClusterInventory,
  type CronJobObject,
  isKeeper,
  isReady,
  isWorkload,
  type JobObject,
  type NamespaceObject,
  type NodeObject,
  type PodObject,
  type WorkloadObject,
  workloadKey,
} from '@zetopsis/core/inventory';
import type { EpochMs } from '@zetopsis/core/units';
import { type Grid, groupBy, type UsageNode } from '@zetopsis/core/usage';
import { runsOf } from './jobRuns.ts';
import { nextDue } from './runs.ts';

export const eventsOf = (inventory: ClusterInventory): Said => ({ about: (object) => inventory.events.about(object) });

/** How much hangs on a namespace, or on a workload of it, which may have a word of its own. */
export type CriticalityOf = (namespace: string, workload: AnyWorkload | null) => ToldCriticality;
export const ORDINARY: CriticalityOf = () => ({ is: 'ordinary', because: null });

/** As labels of a cluster's objects and people say it. */
export function criticalityIn(inventory: ClusterInventory, words: CriticalityWords): CriticalityOf {
  const told = criticalities(words);
  let byName: ReadonlyMap<string, NamespaceObject> | null = null;
  const labelsOf = (name: string) => {
    byName ??= new Map(inventory.list('namespace').map((namespace) => [namespace.name, namespace]));
    return byName.get(name)?.labels ?? {};
  };
  return (name, workload) =>
    told({ name, labels: labelsOf(name) }, workload && { key: workloadKey(workload), labels: workload.labels });
}

/** What its containers used over a window. */
export interface Used {
  readonly grid: Grid;
  readonly tree: UsageNode;
}
export interface JudgeInput {
  readonly inventory: ClusterInventory;
  readonly at: EpochMs;
  /** Not for those who do not see all that stands there. */
  readonly rooms: (() => readonly Room[]) | undefined;
  readonly said: Said;
  readonly criticalityOf: CriticalityOf;
  /** Null where only objects are judged. */
  readonly used: Used | null;
  /** How workloads answer, by namespace and key, where that is far from the usual. */
  readonly answering?: ReadonlyMap<string, Answering> | undefined;
  /** By namespace and key: links in trouble that stand there. */
  readonly links?: ReadonlyMap<string, readonly Finding[]> | undefined;
}

/** As long as not one run after another fails, one of them brings what another does not. */
const brings = (found: readonly Finding[]): boolean =>
  !found.some(({ code, severity }) => code === 'runsFail' && severity === 'critical');

/**
 * Judges what a cluster runs at a moment, each with what it owns and what stands around it. Columns, tables, sheets, Now and
 * rules ask this one, so that one thing is said the same everywhere.
 */
export class ClusterJudge {
  private readonly jobs: readonly JobObject[];
  private readonly owned: ReadonlyMap<string, readonly WorkloadObject[]>;
  private readonly around: Around;
  private readonly usedPods: ReadonlyMap<string, UsageNode>;
  private readonly foundRuns = new Map<string, readonly Finding[]>();

  constructor(private readonly input: JudgeInput) {
    const { inventory, rooms, said, used } = input;
    this.jobs = inventory.list('job');
    const sets: readonly WorkloadObject[] = inventory.list('replica set');
    this.owned = groupBy(sets, ({ owner }) => owner?.uid ?? '');
    const lost = new Map<string, NodeObject>();
    for (const node of inventory.list('node')) if (isLost(node)) lost.set(node.name, node);
    this.around = { rooms, said, lost: (name) => lost.get(name) };
    const pods = used?.tree.children.flatMap(({ children }) => children.flatMap((workload) => workload.children));
    this.usedPods = new Map(pods?.map((pod) => [pod.uid ?? '', pod]));
  }

  criticalityOf(namespace: string, workload: AnyWorkload | null): ToldCriticality {
    return this.input.criticalityOf(namespace, workload);
  }

  workload(workload: AnyWorkload, pods: readonly PodObject[]): readonly Finding[] {
    const { at } = this.input;
    const { is: criticality } = this.criticalityOf(workload.namespace ?? '', workload);
    if (isKeeper(workload)) {
      const { ready } = workload;
      const own = workloadFindings({ workload, pods, now: at, around: this.around, events: this.eventsOf(workload) });
      const names = nameServiceFindings(workload, fewerReadySince(workload, pods));
      const key = `${workload.namespace}/${workloadKey(workload)}`;
      const answers = this.input.answering?.get(key);
      return [
        ...weighed([...names, ...own, ...this.saturated(pods)], { serves: ready > 0, criticality }),
        // whoever asks it gets these answers, whatever else serves
        ...weighed([...(answers ? answeringFindings(answers) : []), ...(this.input.links?.get(key) ?? [])], {
          serves: false,
          criticality,
        }),
      ].sort(byWeight);
    }
    if (workload.kind === 'cron job') {
      const found = this.runs(workload, pods);
      return weighed(found, { serves: brings(found), criticality });
    }
    if (workload.kind !== 'job') return [];
    return weighed(jobFindings({ job: workload, pods }, at, this.around), { serves: false, criticality });
  }
  /** Found once, for the schedule itself and for each of its pods. */
  private runs(cron: CronJobObject, pods: readonly PodObject[]): readonly Finding[] {
    let found = this.foundRuns.get(cron.uid);
    if (!found) {
      const due = nextDue(cron, cron.lastDueAt ?? cron.createdAt);
      found = cronJobFindings(runsOf(this.jobs, pods, cron), this.input.at, { cron, due, around: this.around });
      this.foundRuns.set(cron.uid, found);
    }
    return found;
  }

  /** One pod, weighed by what its workload still gives without it. */
  pod(pod: PodObject): readonly Finding[] {
    const { inventory, at } = this.input;
    const owner = inventory.workloadOf(pod);
    const { namespace } = owner;
    const object = inventory.get(owner.uid);
    const known = object && isWorkload(object) ? object : null;
    const beside = inventory.podsOf(namespace, workloadKey(owner));
    const serves =
      known === null
        ? beside.some((other) => other.uid !== pod.uid && isReady(other))
        : isKeeper(known)
          ? known.ready > 0
          : known.kind === 'cron job' && brings(this.runs(known, beside));
    const found = [...podFindings(pod, at, this.around), ...this.saturated(known && isKeeper(known) ? [pod] : [])];
    return weighed(found, { serves, criticality: this.criticalityOf(namespace, known).is }).sort(byWeight);
  }
  /** Pods whose workload is no object of ours: they speak for themselves. */
  pods(pods: readonly PodObject[]): readonly Finding[] {
    return pods.flatMap((pod) => this.pod(pod)).sort(byWeight);
  }

  /** What is said of a replica set is said of the deployment that owns it. */
  private eventsOf(workload: WorkloadObject) {
    const { said } = this.input;
    return [workload, ...(this.owned.get(workload.uid) ?? [])]
      .flatMap((object) => said.about(object))
      .sort((a, b) => b.lastAt - a.lastAt);
  }
  private saturated(pods: readonly PodObject[]): readonly Finding[] {
    const { used } = this.input;
    if (used === null) return [];
    const read = pods.flatMap((pod) => {
      const node = pod.deletingSince === null ? this.usedPods.get(pod.uid) : undefined;
      if (!node?.present) return [];
      const lasting = new Set(pod.containers.filter(({ role }) => role !== 'start-up').map(({ name }) => name));
      return [{ name: pod.name, containers: node.children.filter(({ name }) => lasting.has(name)) }];
    });
    return saturationFindings(read, used.grid);
  }
}
