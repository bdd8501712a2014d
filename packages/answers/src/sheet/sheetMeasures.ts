import type { ObjectPath, SheetMeasures } from '@zetopsis/contract';
import { type PodObject, workloadKey } from '@zetopsis/core/inventory';
import { type BuiltIn, builtIn, type MeasuredPlace } from '@zetopsis/core/measures';
import { RATE_INTERVALS, type UsageNode } from '@zetopsis/core/usage';
import type { SeenUsage } from '../usage/index.ts';

/** Where a measure looks that asks for what stands at a path; null where series cannot be told to belong there. */
export function measuredPlace(path: ObjectPath, owner: string | null): MeasuredPlace | null {
  switch (path.is) {
    case 'cluster':
      return { cluster: path.cluster };
    case 'team':
      return owner === null ? null : { cluster: path.cluster, team: owner };
    case 'node':
      return { cluster: path.cluster, node: path.node };
    case 'namespace':
      return { cluster: path.cluster, namespace: path.namespace };
    case 'workload':
      return { cluster: path.cluster, namespace: path.namespace, workload: path.workload };
    case 'pod':
      return { cluster: path.cluster, namespace: path.namespace, pod: path.pod };
    case 'container':
      return { cluster: path.cluster, namespace: path.namespace, pod: path.pod, container: path.container };
    case 'everything':
    case 'host':
    case 'persistent volume':
    case 'accessory':
      return null;
  }
}
/** The workload that these are all pods of; null where they are of several, or only some of its pods. */
export function placeOfPods(
  { name, view }: Pick<SeenUsage, 'name' | 'view'>,
  pods: readonly PodObject[],
): MeasuredPlace | null {
  const uids = new Set(pods.map(({ uid }) => uid));
  const [first] = view.pods.filter(({ pod }) => uids.has(pod.uid));
  if (first === undefined) return null;
  const { namespace, kind, name: own } = first.workload;
  const all = view.pods.filter(
    ({ workload }) => workload.namespace === namespace && workloadKey(workload) === workloadKey(first.workload),
  );
  if (all.length !== uids.size || !all.every(({ pod }) => uids.has(pod.uid))) return null;
  return { cluster: name, namespace, workload: { kind, name: own } };
}
/** How long Usage takes a rate over, ms. */
export const rateOver = ({ grid, interval }: SeenUsage['input']): number =>
  Math.max(grid.step, RATE_INTERVALS * interval);

/** Measures that ask for what a sheet shows. */
export function sheetMeasures(
  { input }: SeenUsage,
  path: ObjectPath,
  owner: string | null,
  { usage }: UsageNode,
): SheetMeasures | null {
  const place = measuredPlace(path, owner);
  if (place === null) return null;
  const apart = rateOver(input);
  const told = (figure: BuiltIn) => builtIn(figure, place, { apart });
  const bound = usage.memory.limit;
  return {
    cpu: told('cpu'),
    memory: told('memory'),
    cpuShare: usage.cpu.limit === null ? null : told('cpu share of limit'),
    memoryShare: bound === null ? null : told('memory share of limit'),
    throttled: told('throttled'),
    restarts: told('restarts'),
    ready: told('ready of desired'),
    memoryRunningOut: bound === null ? null : builtIn('memory running out', place, { apart, bound }),
  };
}
