import type { NodeObject, PodObject, ServiceObject } from '../inventory/index.ts';
import type { DurationMs } from '../units/index.ts';
import { readServes } from './serves.ts';
import { fillTemplate } from './template.ts';
import { OBJECT_LABELS } from './wire-names.ts';

/** A standing search for endpoints among the objects of clusters. */
export interface Scout {
  readonly cluster: string | null;
  /** None: all of them. */
  readonly namespaces: readonly string[];
  readonly among: 'pods' | 'services' | 'nodes';
  /** Labels an object must have; an empty value: whatever it is. */
  readonly labels: Readonly<Record<string, string>>;
  readonly annotations: Readonly<Record<string, string>>;
  readonly container: string;
  /** Numbers or names; none: every one that is declared. */
  readonly ports: readonly string[];
  /** Annotation keys under which objects say what they serve. `serves` holds our own form; the others one value each. */
  readonly keys: {
    readonly serves: string;
    readonly port: string;
    readonly path: string;
    readonly scheme: string;
  };
  readonly scheme: 'http' | 'https';
  readonly path: string;
  readonly every: DurationMs;
  /** Templates of labels to attach. */
  readonly attach: Readonly<Record<string, string>>;
  /** Attach namespace, pod, container, node as the objects are called. */
  readonly identity: boolean;
  readonly route: 'direct' | 'through the cluster';
}

export interface ScoutView {
  readonly cluster: string;
  readonly pods: readonly PodObject[];
  readonly services: readonly ServiceObject[];
  readonly nodes: readonly NodeObject[];
  readonly workloadOf: (pod: PodObject) => string;
}

export interface Target {
  /** What it is of, as it is called for as long as it exists: "pod ticketing/web-1 :9102/metrics". */
  readonly name: string;
  readonly namespace: string | null;
  readonly kind: 'pod' | 'service' | 'node';
  readonly object: string;
  readonly container: string | null;
  readonly scheme: 'http' | 'https';
  readonly address: string;
  readonly port: number;
  readonly path: string;
  readonly every: DurationMs;
  /** The translator that the page needs; null for a metrics page. */
  readonly as: string | null;
  readonly labels: Readonly<Record<string, string>>;
  readonly route: Scout['route'];
}
/** An object that was looked at: what is read of it, and what is not and why. */
export interface Candidate {
  readonly kind: Target['kind'];
  readonly namespace: string | null;
  readonly object: string;
  readonly targets: readonly Target[];
  /** Why nothing is read of it, or something of it is not. */
  readonly leftOut: readonly string[];
}

interface Port {
  readonly name: string;
  readonly port: number;
  readonly container: string | null;
}
interface Looked {
  readonly kind: Target['kind'];
  readonly namespace: string | null;
  readonly name: string;
  readonly labels: Readonly<Record<string, string>>;
  readonly annotations: Readonly<Record<string, string>>;
  readonly address: string | null;
  readonly ports: readonly Port[];
  readonly notNow: string | null;
  readonly names: Readonly<Record<string, string>>;
  readonly identity: Readonly<Record<string, string>>;
}

const lookedAtPod = (pod: PodObject, view: ScoutView): Looked => ({
  kind: 'pod',
  namespace: pod.namespace,
  name: pod.name,
  labels: pod.labels,
  annotations: pod.annotations ?? {},
  address: pod.address ?? null,
  ports: pod.containers.flatMap((container) =>
    container.role === 'start-up'
      ? []
      : container.ports.map((port, i) => ({ name: container.portNames?.[i] ?? '', port, container: container.name })),
  ),
  notNow:
    pod.deletingSince !== null
      ? 'it is being taken down'
      : pod.phase === 'running'
        ? null
        : pod.phase === 'pending'
          ? 'it has not started yet'
          : `it has ended (${pod.phase})`,
  names: {
    cluster: view.cluster,
    namespace: pod.namespace ?? '',
    pod: pod.name,
    node: pod.node ?? '',
    workload: view.workloadOf(pod),
  },
  identity: {
    [OBJECT_LABELS.namespace]: pod.namespace ?? '',
    [OBJECT_LABELS.pod]: pod.name,
    [OBJECT_LABELS.podUid]: pod.uid,
    [OBJECT_LABELS.node]: pod.node ?? '',
  },
});
const lookedAtService = (service: ServiceObject, view: ScoutView): Looked => ({
  kind: 'service',
  namespace: service.namespace,
  name: service.name,
  labels: service.labels,
  annotations: service.annotations ?? {},
  address: service.address,
  ports: service.ports
    .filter(({ protocol }) => protocol === 'TCP')
    .map(({ name, port }) => ({ name, port, container: null })),
  notNow: service.address === null ? 'it has no address of its own; look among its pods instead' : null,
  names: { cluster: view.cluster, namespace: service.namespace ?? '', service: service.name },
  identity: { [OBJECT_LABELS.namespace]: service.namespace ?? '', [OBJECT_LABELS.service]: service.name },
});
const lookedAtNode = (node: NodeObject, view: ScoutView): Looked => ({
  kind: 'node',
  namespace: null,
  name: node.name,
  labels: node.labels,
  // programs of the network write into a node's annotations all the time: they are not kept
  annotations: {},
  address: node.address,
  ports: [],
  notNow: null,
  names: { cluster: view.cluster, node: node.name },
  identity: { [OBJECT_LABELS.node]: node.name },
});

function selected(own: Readonly<Record<string, string>>, wanted: Readonly<Record<string, string>>): string | null {
  for (const [key, is] of Object.entries(wanted)) {
    if (!(key in own)) return `it has no ${key}`;
    if (is !== '' && own[key] !== is) return `its ${key} is “${own[key]}”, not “${is}”`;
  }
  return null;
}

/** Every object of the kind a scout looks among, with what is read of it and, for the others, why not. */
export function candidatesOf(scout: Scout, view: ScoutView): Candidate[] {
  if (scout.cluster !== null && scout.cluster !== view.cluster) return [];
  const all =
    scout.among === 'pods'
      ? view.pods.map((pod) => lookedAtPod(pod, view))
      : scout.among === 'services'
        ? view.services.map((service) => lookedAtService(service, view))
        : view.nodes.map((node) => lookedAtNode(node, view));
  return all
    .filter(
      ({ namespace }) => scout.namespaces.length === 0 || (namespace !== null && scout.namespaces.includes(namespace)),
    )
    .map((own) => ({ kind: own.kind, namespace: own.namespace, object: own.name, ...read(scout, own) }));
}

function read(scout: Scout, own: Looked): Pick<Candidate, 'targets' | 'leftOut'> {
  const none = (why: string) => ({ targets: [], leftOut: [why] });
  const unlike = selected(own.labels, scout.labels) ?? selected(own.annotations, scout.annotations);
  if (unlike) return none(unlike);
  if (scout.container !== '' && !own.ports.some(({ container }) => container === scout.container))
    return none(`no container ${scout.container} of it declares a port`);
  if (own.notNow) return none(own.notNow);
  if (own.address === null) return none('it has no address yet');
  const wishes = wishesOf(scout, own);
  const leftOut = [...wishes.problems];
  const targets = new Map<string, Target>();
  for (const wish of wishes.pages) {
    const ports = portsFor(wish.port, own.ports, scout);
    if (ports.length === 0)
      leftOut.push(
        wish.port === ''
          ? 'it declares no port; name one'
          : `it declares no port called ${wish.port}${own.ports.length === 0 ? '' : `; there are ${own.ports.map(({ name, port }) => name || port).join(', ')}`}`,
      );
    for (const port of ports) {
      const target = targetOf({ scout, own, port, wish });
      if (!targets.has(target.name)) targets.set(target.name, target);
    }
  }
  return { targets: [...targets.values()], leftOut };
}

interface Wish {
  readonly port: string;
  readonly path: string;
  readonly scheme: 'http' | 'https';
  readonly every: DurationMs;
  readonly as: string | null;
}
/** The pages that are asked for: as the object itself says, else as the scout does. */
function wishesOf(scout: Scout, own: Looked): { pages: Wish[]; problems: readonly string[] } {
  const { keys } = scout;
  const plain = { path: scout.path, scheme: scout.scheme, every: scout.every, as: null };
  const serves = keys.serves === '' ? undefined : own.annotations[keys.serves];
  if (serves !== undefined) {
    const { served, problems } = readServes(serves);
    return {
      pages: served.map(({ port, path, every, as }) => ({ ...plain, port, path, every: every ?? scout.every, as })),
      problems: problems.map((text) => `${keys.serves}: ${text}`),
    };
  }
  const said = (key: string) => (key === '' ? undefined : own.annotations[key]);
  const scheme = said(keys.scheme);
  if (scheme !== undefined && scheme !== 'http' && scheme !== 'https')
    return { pages: [], problems: [`${keys.scheme} is “${scheme.slice(0, 40)}”; it may be http or https`] };
  const path = said(keys.path) ?? scout.path;
  const port = said(keys.port);
  const ports = port !== undefined ? [port] : scout.ports.length > 0 ? scout.ports : [''];
  return {
    pages: ports.map((one) => ({
      ...plain,
      port: one.trim(),
      path: path.startsWith('/') ? path : `/${path}`,
      scheme: scheme ?? scout.scheme,
    })),
    problems: [],
  };
}

/** A number counts also where it is not declared, as declaring it is optional. */
function portsFor(wanted: string, declared: readonly Port[], { container }: Scout): Port[] {
  const own = container === '' ? declared : declared.filter((port) => port.container === container);
  if (wanted === '') return [...own];
  if (!/^\d{1,5}$/.test(wanted)) return own.filter(({ name }) => name === wanted).slice(0, 1);
  const port = Number(wanted);
  if (port < 1 || port > 65_535) return [];
  return [own.find((one) => one.port === port) ?? { name: '', port, container: container || null }];
}

function targetOf({
  scout,
  own,
  port: { name: portName, port, container },
  wish,
}: {
  readonly scout: Scout;
  readonly own: Looked;
  readonly port: Port;
  readonly wish: Wish;
}): Target {
  const names = { ...own.names, container: container ?? '', port: portName || String(port) };
  const values = { names, labels: own.labels, annotations: own.annotations };
  const attached = Object.entries(scout.attach).map(([label, template]) => [label, fillTemplate(template, values)]);
  return {
    name: `${own.kind} ${own.namespace === null ? '' : `${own.namespace}/`}${own.name} :${port}${wish.path}`,
    namespace: own.namespace,
    kind: own.kind,
    object: own.name,
    container,
    scheme: wish.scheme,
    address: own.address!, // looked at before
    port,
    path: wish.path,
    every: wish.every,
    as: wish.as,
    labels: Object.fromEntries(
      [
        ...(scout.identity ? Object.entries(own.identity) : []),
        ...(scout.identity && container !== null ? [[OBJECT_LABELS.container, container]] : []),
        ...attached,
      ].filter(([, value]) => value !== ''),
    ) as Record<string, string>,
    route: scout.route,
  };
}

export interface Merge {
  readonly labels: Readonly<Record<string, string>>;
  readonly of: readonly string[];
}
/** Targets that get the very same labels: their series could not be told apart by them. */
export function merging(candidates: readonly Candidate[]): Merge[] {
  const by = new Map<string, { labels: Target['labels']; of: string[] }>();
  for (const { targets } of candidates)
    for (const { labels, name, path } of targets) {
      const key = JSON.stringify([path, ...Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : 1))]);
      const known = by.get(key);
      if (known) known.of.push(name);
      else by.set(key, { labels, of: [name] });
    }
  return [...by.values()].filter(({ of }) => of.length > 1);
}
