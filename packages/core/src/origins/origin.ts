import type { WorkloadName } from '../inventory/index.ts';
import { RESOURCE } from './wire-names.ts';

/** Why what was sent stands at no pod, and at no node. */
export const UNTIED = {
  'key of no cluster': 'its push key speaks for no cluster, so that a pod it names is not looked for',
  'no pod named': 'it names no pod (k8s.pod.name or k8s.pod.uid)',
  'pod not known': 'the pod that it names is not known in the cluster',
  'other namespace': 'the pod that it names stands in another namespace than its push key speaks for',
} as const;
export type Untied = keyof typeof UNTIED;

/** What a record comes from, as it was then. What is not known is null. */
export interface Origin {
  /** Null outside all clusters. */
  readonly cluster: string | null;
  /** Null for what belongs to a node or to none. */
  readonly namespace: string | null;
  readonly workload: WorkloadName | null;
  readonly pod: string | null;
  readonly container: string | null;
  readonly node: string | null;
  readonly service: string | null;
  readonly host: string | null;
  /** Null where it is tied as it should be. */
  readonly untied: Untied | null;
}
/** A pod as the inventory of its cluster knew it. */
export interface PodThen {
  readonly namespace: string;
  readonly name: string;
  readonly workload: WorkloadName;
  readonly node: string | null;
  readonly containers: readonly string[];
}
/** What a push key speaks for. */
export interface SpeaksFor {
  readonly cluster: string | null;
  readonly namespace: string | null;
}
type Attributes = ReadonlyMap<string, string>;
const NAME_LENGTH = 253;
const named = (attributes: Attributes, name: string): string | null => {
  const value = attributes.get(name)?.slice(0, NAME_LENGTH) ?? '';
  return value === '' ? null : value;
};

/** Which pod attributes name: what is to be looked up. Null where they name none. */
export function podNamedBy(
  attributes: Attributes,
  { namespace }: SpeaksFor,
): { readonly uid: string | null; readonly namespace: string | null; readonly name: string | null } | null {
  const uid = named(attributes, RESOURCE.podUid);
  const name = named(attributes, RESOURCE.pod);
  const place = named(attributes, RESOURCE.namespace) ?? namespace;
  return uid === null && (name === null || place === null) ? null : { uid, namespace: place, name };
}
export const nodeNamedBy = (attributes: Attributes): string | null => named(attributes, RESOURCE.node);

/**
 * What sent something. A key never speaks for more than it may: what it names elsewhere stays with the key's own namespace. `pod` is
 * what was found for `podNamedBy`; `nodeKnown` whether the cluster has the node that is named.
 */
export function originOf(
  attributes: Attributes,
  key: SpeaksFor,
  { pod, nodeKnown }: { readonly pod: PodThen | null; readonly nodeKnown: boolean },
): Origin {
  const service = named(attributes, RESOURCE.service);
  const host = named(attributes, RESOURCE.host);
  const names = podNamedBy(attributes, key);
  const nothing = { workload: null, pod: null, container: null, node: null, service, host } as const;
  if (key.cluster === null)
    return { ...nothing, cluster: null, namespace: null, untied: names === null ? null : 'key of no cluster' };
  const { cluster } = key;
  if (pod !== null && (key.namespace === null || key.namespace === pod.namespace)) {
    const container = named(attributes, RESOURCE.container);
    const only = pod.containers.length === 1 ? pod.containers[0]! : null;
    return {
      cluster,
      namespace: pod.namespace,
      workload: pod.workload,
      pod: pod.name,
      container: container !== null && pod.containers.includes(container) ? container : only,
      node: pod.node,
      service,
      host,
      untied: null,
    };
  }
  const node = nodeNamedBy(attributes);
  if (names === null && node !== null && nodeKnown && key.namespace === null)
    return { ...nothing, cluster, namespace: null, node, untied: null };
  return {
    ...nothing,
    cluster,
    namespace: key.namespace ?? named(attributes, RESOURCE.namespace),
    untied: pod !== null ? 'other namespace' : names === null ? 'no pod named' : 'pod not known',
  };
}

/** What lines and spans of one kind stand under: a workload, a node's services, a service or host by its name. */
export interface Stream {
  readonly cluster: string | null;
  readonly namespace: string | null;
  readonly kind: WorkloadName['kind'] | 'node' | 'service' | 'host' | 'unnamed';
  readonly name: string;
}
export function streamOf({ cluster, namespace, workload, node, service, host }: Origin): Stream {
  if (workload !== null) return { cluster, namespace, kind: workload.kind, name: workload.name };
  if (node !== null) return { cluster, namespace: null, kind: 'node', name: node };
  if (service !== null) return { cluster, namespace, kind: 'service', name: service };
  return { cluster, namespace, kind: host === null ? 'unnamed' : 'host', name: host ?? '' };
}

/** What something comes from, as attributes of a resource. */
export function resourceOf({
  namespace,
  pod,
  container,
  node,
  service,
  host,
}: Origin): [name: string, value: string][] {
  const own: [string, string | null][] = [
    [RESOURCE.namespace, namespace],
    [RESOURCE.pod, pod],
    [RESOURCE.container, container],
    [RESOURCE.node, node],
    [RESOURCE.service, service],
    [RESOURCE.host, host],
  ];
  return own.flatMap(([name, value]): [string, string][] => (value === null ? [] : [[name, value]]));
}
