import {
  ACCESSORY_KINDS,
  type AccessoryKind,
  type InventoryKind,
  WORKLOAD_KINDS,
  type WorkloadName,
  workloadKey,
} from '@zetopsis/core/inventory';

export interface InCluster {
  readonly cluster: string;
}
export interface InNamespace extends InCluster {
  readonly namespace: string;
}
/** A pod is reached over its workload, or over its node: the one that it was not reached over is null. */
export interface OfPod extends InNamespace {
  readonly workload: WorkloadName | null;
  readonly node: string | null;
  readonly pod: string;
}

/** Where an object stands; what somebody looks at. */
export type ObjectPath =
  | { readonly is: 'everything' }
  /** A machine outside all clusters. */
  | { readonly is: 'host'; readonly host: string }
  | (InCluster & { readonly is: 'cluster' })
  /** What a team owns in a cluster; "" is what nobody owns. */
  | (InCluster & { readonly is: 'team'; readonly team: string })
  | (InCluster & { readonly is: 'node'; readonly node: string })
  | (InCluster & { readonly is: 'persistent volume'; readonly volume: string })
  | (InNamespace & { readonly is: 'namespace' })
  | (InNamespace & { readonly is: 'workload'; readonly workload: WorkloadName })
  /** What stands in a namespace beside its workloads. */
  | (InNamespace & { readonly is: 'accessory'; readonly kind: AccessoryKind; readonly name: string })
  | (OfPod & { readonly is: 'pod' })
  | (OfPod & { readonly is: 'container'; readonly container: string });
export type PathOf<Is extends ObjectPath['is']> = Extract<ObjectPath, { is: Is }>;

export const EVERYTHING: ObjectPath = { is: 'everything' };

const keyOf = (kind: string, name: string): string => `${kind.replaceAll(' ', '-')}:${name}`;
/** "node:seaward-07": how a part names its kind. Null where it names none. */
function readKey(part: string): { readonly kind: string; readonly name: string } | null {
  const colon = part.indexOf(':');
  return colon < 0 ? null : { kind: part.slice(0, colon).replaceAll('-', ' '), name: part.slice(colon + 1) };
}
const known = <T extends string>(kinds: readonly T[], kind: string): T | undefined => kinds.find((one) => one === kind);

/** The workload that a part names: "deployment:booking-front"; null when it names none. */
export function readWorkloadKey(part: string): WorkloadName | null {
  const key = readKey(part);
  const kind = key === null ? undefined : known(WORKLOAD_KINDS, key.kind);
  return kind === undefined || key === null || key.name === '' ? null : { kind, name: key.name };
}
/** How a thing, a node, a team is named among what stands beside it. */
export const partOf = {
  host: (host: string): string => keyOf('host', host),
  team: (team: string): string => keyOf('team', team),
  node: (node: string): string => keyOf('node', node),
  thing: (kind: AccessoryKind, name: string): string => keyOf(kind, name),
  podOnNode: (namespace: string, pod: string): string => `${namespace}:${pod}`,
} as const;

/**
 * Parts as an address has them: cluster, namespace, workload ("deployment:booking-front"), pod, container. The second way to a
 * pod goes over its node: cluster, "node:seaward-07", "ticketing:booking-front-5d9f" (namespace and pod), container. Other
 * objects stand beside them by kind and name: "quota:all" in a namespace, "persistent-volume:v1" in a cluster, "team:tides" for
 * what a team owns in it, "host:pier-2" outside of all. Null when no object can stand there.
 */
export function readPath(parts: readonly string[]): ObjectPath | null {
  const [first, ...inside] = parts;
  if (first === undefined) return EVERYTHING;
  if (parts.some((part) => part === '')) return null;
  const outside = readKey(first);
  if (outside === null) return readInCluster(first, inside);
  return outside.kind === 'host' && outside.name !== '' && inside.length === 0
    ? { is: 'host', host: outside.name }
    : null;
}

function readInCluster(cluster: string, [place, part, ...more]: readonly string[]): ObjectPath | null {
  if (place === undefined) return { is: 'cluster', cluster };
  const key = readKey(place);
  if (key === null) return readInNamespace({ cluster, namespace: place }, part, more);
  if (key.kind === 'team') return part === undefined ? { is: 'team', cluster, team: key.name } : null;
  if (key.name === '') return null;
  if (key.kind === 'persistent volume')
    return part === undefined ? { is: 'persistent volume', cluster, volume: key.name } : null;
  if (key.kind !== 'node') return null;
  if (part === undefined) return { is: 'node', cluster, node: key.name };
  const colon = part.indexOf(':');
  const namespace = part.slice(0, Math.max(colon, 0));
  const pod = part.slice(colon + 1);
  return namespace === '' || pod === ''
    ? null
    : readOfPod({ cluster, namespace, workload: null, node: key.name, pod }, more);
}

function readInNamespace(
  place: InNamespace,
  part: string | undefined,
  [pod, ...more]: readonly string[],
): ObjectPath | null {
  if (part === undefined) return { is: 'namespace', ...place };
  const workload = readWorkloadKey(part);
  if (workload !== null)
    return pod === undefined
      ? { is: 'workload', ...place, workload }
      : readOfPod({ ...place, workload, node: null, pod }, more);
  const key = readKey(part);
  const kind = key === null ? undefined : known(ACCESSORY_KINDS, key.kind);
  return kind === undefined || key === null || key.name === '' || pod !== undefined
    ? null
    : { is: 'accessory', ...place, kind, name: key.name };
}

function readOfPod(pod: OfPod, [container, ...more]: readonly string[]): ObjectPath | null {
  if (more.length > 0) return null;
  return container === undefined ? { is: 'pod', ...pod } : { is: 'container', ...pod, container };
}

/** The parts by which an address, an answer and a stored alert name it; reading them gives the same path again. */
export function writePath(path: ObjectPath): string[] {
  switch (path.is) {
    case 'everything':
      return [];
    case 'host':
      return [partOf.host(path.host)];
    case 'cluster':
      return [path.cluster];
    case 'team':
      return [path.cluster, partOf.team(path.team)];
    case 'node':
      return [path.cluster, partOf.node(path.node)];
    case 'persistent volume':
      return [path.cluster, keyOf('persistent volume', path.volume)];
    case 'namespace':
      return [path.cluster, path.namespace];
    case 'workload':
      return [path.cluster, path.namespace, workloadKey(path.workload)];
    case 'accessory':
      return [path.cluster, path.namespace, partOf.thing(path.kind, path.name)];
    case 'pod':
      return partsOfPod(path);
    case 'container':
      return [...partsOfPod(path), path.container];
  }
}
const partsOfPod = ({ cluster, namespace, workload, node, pod }: OfPod): string[] =>
  workload === null
    ? [cluster, partOf.node(node ?? ''), partOf.podOnNode(namespace, pod)]
    : [cluster, namespace, workloadKey(workload), pod];

/** What a person reads of each part: "deployment:booking-front" is booking-front. */
export function namesOf(path: ObjectPath): string[] {
  switch (path.is) {
    case 'everything':
      return [];
    case 'host':
      return [path.host];
    case 'cluster':
      return [path.cluster];
    case 'team':
      return [path.cluster, path.team];
    case 'node':
      return [path.cluster, path.node];
    case 'persistent volume':
      return [path.cluster, path.volume];
    case 'namespace':
      return [path.cluster, path.namespace];
    case 'workload':
      return [path.cluster, path.namespace, path.workload.name];
    case 'accessory':
      return [path.cluster, path.namespace, path.name];
    case 'pod':
      return namesOfPod(path);
    case 'container':
      return [...namesOfPod(path), path.container];
  }
}
const namesOfPod = ({ cluster, namespace, workload, node, pod }: OfPod): string[] =>
  workload === null ? [cluster, node ?? '', pod] : [cluster, namespace, workload.name, pod];

/** The cluster it stands in; null outside of all. */
export const clusterOf = (path: ObjectPath): string | null => ('cluster' in path ? path.cluster : null);
/** The namespace it stands in, or is; null for what all of a cluster share. */
export const namespaceOf = (path: ObjectPath): string | null => ('namespace' in path ? path.namespace : null);
/** For who may see it. */
export const placeOf = (path: ObjectPath) => ({ cluster: clusterOf(path), namespace: namespaceOf(path) });
/** The workload it is, or is part of; null where its path does not tell. */
export const workloadIn = (path: ObjectPath): WorkloadName | null => ('workload' in path ? path.workload : null);

const sameWorkload = (a: WorkloadName | null, b: WorkloadName): boolean => a?.kind === b.kind && a.name === b.name;

/** Whether one is the other, or stands in it, as far as their paths tell: on which node a workload runs they do not. */
export function liesIn(inner: ObjectPath, outer: ObjectPath): boolean {
  if (outer.is === 'everything') return true;
  if (outer.is === 'host') return inner.is === 'host' && inner.host === outer.host;
  if (!('cluster' in inner) || inner.cluster !== outer.cluster) return false;
  switch (outer.is) {
    case 'cluster':
      return true;
    case 'team':
      return inner.is === 'team' && inner.team === outer.team;
    case 'node':
      return 'node' in inner && inner.node === outer.node;
    case 'persistent volume':
      return inner.is === 'persistent volume' && inner.volume === outer.volume;
  }
  if (!('namespace' in inner) || inner.namespace !== outer.namespace) return false;
  switch (outer.is) {
    case 'namespace':
      return true;
    case 'workload':
      return 'workload' in inner && sameWorkload(inner.workload, outer.workload);
    case 'accessory':
      return inner.is === 'accessory' && inner.kind === outer.kind && inner.name === outer.name;
    case 'pod':
      return 'pod' in inner && inner.pod === outer.pod;
    case 'container':
      return inner.is === 'container' && inner.pod === outer.pod && inner.container === outer.container;
  }
}
/** In it, or above it: what happens to a workload happens to its pods. */
export const touches = (a: ObjectPath, b: ObjectPath): boolean => liesIn(a, b) || liesIn(b, a);

export type PlacedKind = Exclude<InventoryKind, 'pod' | 'endpoint slice'>;
/** Where an object of the inventory stands; pods stand in their workload, and slices of endpoints are parts of services. */
export function pathOfObject({
  cluster,
  kind,
  namespace,
  name,
}: {
  readonly cluster: string;
  readonly kind: PlacedKind;
  readonly namespace: string | null;
  readonly name: string;
}): ObjectPath {
  const place = { cluster, namespace: namespace ?? '' };
  switch (kind) {
    case 'node':
      return { is: 'node', cluster, node: name };
    case 'persistent volume':
      return { is: 'persistent volume', cluster, volume: name };
    case 'namespace':
      return { is: 'namespace', cluster, namespace: name };
    case 'deployment':
    case 'stateful set':
    case 'daemon set':
    case 'replica set':
    case 'job':
    case 'cron job':
      return { is: 'workload', ...place, workload: { kind, name } };
    default:
      return { is: 'accessory', ...place, kind, name };
  }
}
/** One text for a path, to find it among others. */
export const pathKey = (path: ObjectPath): string => JSON.stringify(writePath(path));
