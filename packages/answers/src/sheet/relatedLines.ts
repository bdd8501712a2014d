import { type PlacedKind, pathOfObject, type SheetAnswer, writePath } from '@zetopsis/contract';
import type { PodObject } from '@zetopsis/core/inventory';
import type { SeenUsage } from '../usage/index.ts';

/** Something that stands in relation to what a sheet is about. */
export const relatedLine = ({
  usage,
  kind,
  namespace,
  name,
  words,
}: {
  readonly usage: SeenUsage;
  readonly kind: PlacedKind;
  readonly namespace: string;
  readonly name: string;
  readonly words: string;
}) => ({
  kind,
  name,
  path: writePath(pathOfObject({ cluster: usage.name, kind, namespace, name })),
  words,
  severity: null,
});

/** Workloads whose pods read or mount it. */
export function usersOf({
  usage,
  namespace,
  of,
  name,
}: {
  readonly usage: SeenUsage;
  readonly namespace: string;
  readonly of: 'configMaps' | 'secrets';
  readonly name: string;
}): SheetAnswer['related'] {
  const { inventory } = usage.view;
  return (['deployment', 'stateful set', 'daemon set', 'cron job', 'job'] as const)
    .flatMap((kind) => inventory.list(kind))
    .filter((workload) => workload.namespace === namespace && (workload.kind !== 'job' || !workload.owner))
    .filter((workload) => workload.uses?.[of].includes(name))
    .map((workload) => relatedLine({ usage, kind: workload.kind, namespace, name: workload.name, words: 'uses it' }));
}
export const podLines = ({
  usage,
  namespace,
  matches,
  words,
}: {
  readonly usage: SeenUsage;
  readonly namespace: string;
  readonly matches: (pod: PodObject) => boolean;
  readonly words: string;
}): SheetAnswer['related'] =>
  usage.view.inventory
    .list('pod')
    .filter((pod) => pod.namespace === namespace && matches(pod))
    .map((pod) => {
      const workload = usage.view.inventory.workloadOf(pod);
      return {
        kind: 'pod',
        name: pod.name,
        path: writePath({ is: 'pod', cluster: usage.name, namespace, workload, node: null, pod: pod.name }),
        words,
        severity: null,
      };
    });
