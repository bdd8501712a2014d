import type { Condition, LastChange, Uses, WorkloadObject } from './objects.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

export function common(object: Wire) {
  const meta = wire.child(object, 'metadata');
  const owners = wire.list(meta, 'ownerReferences');
  const owner = owners.find((candidate) => wire.flag(candidate, 'controller')) ?? null;
  const finalizers = Array.isArray(meta['finalizers']) ? meta['finalizers'].slice(0, 20) : [];
  return {
    uid: wire.text(meta, 'uid'),
    name: wire.text(meta, 'name'),
    namespace: wire.optionalText(meta, 'namespace'),
    createdAt: wire.time(meta, 'creationTimestamp') ?? 0,
    deletingSince: wire.time(meta, 'deletionTimestamp'),
    labels: wire.texts(meta, 'labels'),
    changedBy: lastChange(meta),
    ...(finalizers.length === 0 ? {} : { finalizers: finalizers.map((one) => wire.storable(String(one), 253)) }),
    owner: owner && { kind: wire.text(owner, 'kind'), name: wire.text(owner, 'name'), uid: wire.text(owner, 'uid') },
  };
}

const LONGEST_ANNOTATION = 1000;
/** Long ones are documents of other programs, and are not kept. */
export const annotations = (object: Wire): Record<string, string> =>
  Object.fromEntries(
    Object.entries(wire.texts(wire.child(object, 'metadata'), 'annotations')).filter(
      ([, value]) => value.length <= LONGEST_ANNOTATION,
    ),
  );

/** Heartbeat and probe times are left out on purpose: they change without anything having happened. */
export function conditions(status: Wire): Condition[] {
  return wire.list(status, 'conditions').map((condition) => {
    const value = wire.text(condition, 'status');
    return {
      type: wire.text(condition, 'type'),
      status: value === 'True' ? 'true' : value === 'False' ? 'false' : 'unknown',
      reason: wire.text(condition, 'reason'),
      message: wire.text(condition, 'message'),
      since: wire.time(condition, 'lastTransitionTime'),
    };
  });
}

/** The newest writer of the object itself; those that only report its state are left out. */
function lastChange(meta: Wire): LastChange | null {
  let newest: LastChange | null = null;
  for (const entry of wire.list(meta, 'managedFields')) {
    const at = wire.time(entry, 'time');
    if (at === null || wire.text(entry, 'subresource') === 'status') continue;
    if (newest === null || at > newest.at) newest = { who: wire.text(entry, 'manager'), at };
  }
  return newest;
}

export function images(template: Wire): WorkloadObject['images'] {
  const pod = wire.child(template, 'spec');
  return [...wire.list(pod, 'containers'), ...wire.list(pod, 'initContainers')].map((container) => ({
    container: wire.text(container, 'name'),
    image: wire.text(container, 'image'),
  }));
}

/** Volumes of a pod that come from a claim. */
export const claimVolumes = (podSpec: Wire): { name: string; claim: string }[] =>
  wire.list(podSpec, 'volumes').flatMap((volume) => {
    const claim = wire.text(wire.child(volume, 'persistentVolumeClaim'), 'claimName');
    return claim === '' ? [] : [{ name: wire.text(volume, 'name'), claim }];
  });

/** What pods of this template read and mount. */
export function uses(template: Wire): Uses {
  const spec = wire.child(template, 'spec');
  const configMaps = new Set<string>();
  const secrets = new Set<string>();
  const note = (names: Set<string>, name: string) => name !== '' && names.add(name);
  for (const volume of wire.list(spec, 'volumes')) {
    note(configMaps, wire.text(wire.child(volume, 'configMap'), 'name'));
    note(secrets, wire.text(wire.child(volume, 'secret'), 'secretName'));
    for (const source of wire.list(wire.child(volume, 'projected'), 'sources')) {
      note(configMaps, wire.text(wire.child(source, 'configMap'), 'name'));
      note(secrets, wire.text(wire.child(source, 'secret'), 'name'));
    }
  }
  for (const container of [...wire.list(spec, 'containers'), ...wire.list(spec, 'initContainers')]) {
    for (const from of wire.list(container, 'envFrom')) {
      note(configMaps, wire.text(wire.child(from, 'configMapRef'), 'name'));
      note(secrets, wire.text(wire.child(from, 'secretRef'), 'name'));
    }
    for (const variable of wire.list(container, 'env')) {
      const from = wire.child(variable, 'valueFrom');
      note(configMaps, wire.text(wire.child(from, 'configMapKeyRef'), 'name'));
      note(secrets, wire.text(wire.child(from, 'secretKeyRef'), 'name'));
    }
  }
  return {
    configMaps: [...configMaps].sort(),
    secrets: [...secrets].sort(),
    claims: claimVolumes(spec).map(({ claim }) => claim),
  };
}

export const taint = (one: Wire) => ({
  key: wire.text(one, 'key'),
  value: wire.text(one, 'value'),
  effect: wire.text(one, 'effect'),
});

/** A check in words; null where there is none. */
export function checkWords(container: Wire, field: string): string | null {
  if (!wire.has(container, field)) return null;
  const check = wire.child(container, field);
  const every = `every ${wire.count(check, 'periodSeconds', 10)} s`;
  const get = wire.child(check, 'httpGet');
  if (wire.has(check, 'httpGet')) return `GET ${wire.text(get, 'path', '/')} at port ${portWords(get)}, ${every}`;
  if (wire.has(check, 'tcpSocket'))
    return `a connection to port ${portWords(wire.child(check, 'tcpSocket'))}, ${every}`;
  if (wire.has(check, 'grpc')) return `a gRPC health check at port ${portWords(wire.child(check, 'grpc'))}, ${every}`;
  const command = wire.child(check, 'exec')['command'];
  // its arguments may hold secrets: only what is run is told
  return Array.isArray(command) ? `the command ${wire.storable(String(command[0] ?? ''), 80)}, ${every}` : every;
}
const portWords = (wired: Wire): string => String(wired['port'] ?? '').slice(0, 15);
