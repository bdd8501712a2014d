import { percentile } from '../statistics/index.ts';
import { RESOURCES, type Resource } from '../units/index.ts';

import { meanOf, orNull, type UsageNode } from './usageNode.ts';

/** What an object used in the window that is compared with. */
export interface Compared {
  /** At that window's end. */
  readonly use: number | null;
  readonly mean: number | null;
  /** 95th percentile. */
  readonly peak: number | null;
}
export type ComparedBoth = Readonly<Record<Resource, Compared>>;

const both = (of: (resource: Resource) => Compared): ComparedBoth => {
  const [cpu, memory] = RESOURCES.map(of) as [Compared, Compared]; // as many as there are resources
  return { cpu, memory };
};

export const comparedOf = (node: UsageNode): ComparedBoth =>
  both((resource) => {
    const { use, mean, peak } = node.usage[resource];
    return { use, mean, peak };
  });

/** Use of the average pod: what was used ÷ how many pods asked for something then. */
export function perPodLine(workload: UsageNode, resource: Resource): Float64Array {
  const { use } = workload.lines[resource];
  return use.map((value, i) => {
    const pods = workload.children.filter((pod) => !Number.isNaN(pod.lines[resource].request[i]!)).length;
    return pods === 0 ? Number.NaN : value / pods;
  });
}

/** Pods come and go: one is compared with the average pod its workload had then (design/usage.md). */
export const comparedPerPod = (workload: UsageNode): ComparedBoth =>
  both((resource) => {
    const line = perPodLine(workload, resource);
    return { use: orNull(line.at(-1)), mean: meanOf(line), peak: percentile(line, 0.95) };
  });
