import type { Answering, CriticalityWords, Said, TroubledLink } from '@zetopsis/core/findings';
import type { LinkTurn } from '@zetopsis/core/links';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import { narrowTree, type UsageInput, type UsageNode } from '@zetopsis/core/usage';
import { type ClusterView, narrowView, type VolumesRead } from '../cluster/index.ts';
import { UsageDetails } from './usageDetails.ts';

export interface Window {
  readonly from: EpochMs;
  readonly to: EpochMs;
  /** It reaches to now, and moves with it. */
  readonly live: boolean;
}
/** What a cluster used over a window. */
export interface ClusterUsage {
  readonly connectionId: string;
  /** What it is the usage of; of a large cluster it may end some seconds before the window that was asked for. */
  readonly window: Window;
  readonly name: string;
  readonly view: ClusterView;
  readonly tree: UsageNode;
  readonly input: UsageInput;
  readonly volumes: VolumesRead;
  /** How long the cluster's API took to answer lately; of the past that is not known. */
  readonly api: readonly DurationMs[];
  /** How far the clocks of nodes are ahead, as far as their pages tell; of the past that is not known. */
  readonly skews: ReadonlyMap<string, DurationMs>;
  /** How much hangs on what, as it is said today. */
  readonly criticality: CriticalityWords;
  /** How workloads answer, by namespace and key, where that is far from the usual; of the past that is not known. */
  readonly answering?: ReadonlyMap<string, Answering> | undefined;
  /** Links in trouble of which an end stands here; of the past that is not known. */
  readonly links?: readonly TroubledLink[] | undefined;
  /** Links of it that were told for the first time ever, or are gone. */
  readonly linkTurns?: readonly LinkTurn[] | undefined;
  /** What containers wrote last, where somebody brought it along. */
  readonly lastLines?: Said['lastLines'] | undefined;
  readonly details: UsageDetails;
}
/** A cluster as somebody may see it: other teams' namespaces are one nameless share. */
export interface SeenUsage extends ClusterUsage {
  /** Everything, for sums that name nobody. */
  readonly whole: UsageNode;
  readonly wholeVolumes: VolumesRead;
  /** Null when nothing is hidden. */
  readonly others: UsageNode | null;
  readonly sees: (namespace: string) => boolean;
}

/** For who may see all of it. */
export const wholly = (usage: ClusterUsage): SeenUsage => ({
  ...usage,
  whole: usage.tree,
  wholeVolumes: usage.volumes,
  others: null,
  sees: () => true,
});
/** For who may see these namespaces. */
export const narrowUsage = (usage: ClusterUsage, sees: (namespace: string) => boolean): SeenUsage => ({
  ...usage,
  ...narrowTree(usage.input.grid, usage.tree, sees),
  whole: usage.tree,
  wholeVolumes: usage.volumes,
  // what others have is not in it
  details: new UsageDetails(),
  view: narrowView(usage.view, sees),
  volumes: new Map([...usage.volumes].filter(([, { namespace }]) => sees(namespace))),
  sees,
});
