import type { ClusterEvent, InventoryKind, InventoryObject, NodeObject } from './objects.ts';
import { quantityNumber } from './quantity.ts';
import {
  readAutoscaler,
  readClaim,
  readDisruptionBudget,
  readLimitRange,
  readQuota,
  readVolume,
} from './readBounds.ts';
import { common, conditions, taint } from './readCommon.ts';
import { readPod } from './readPod.ts';
import { readEndpointSlice, readService } from './readServices.ts';
import { readCronJob, readDaemonSet, readJob, readReplicated, readStatefulSet } from './readWorkloads.ts';
import { NODE_CLASS_LABEL, NODE_ENDPOINT_FIELD, ZONE_LABEL } from './wire-names.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

function readNode(object: Wire): NodeObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const allocatable = wire.texts(status, 'allocatable');
  const addresses = wire.list(status, 'addresses');
  const address = addresses.find((entry) => wire.text(entry, 'type') === 'InternalIP') ?? addresses[0];
  const base = common(object);
  return {
    kind: 'node',
    ...base,
    allocatable: {
      cpu: quantityNumber(allocatable['cpu']),
      memory: quantityNumber(allocatable['memory']),
      pods: quantityNumber(allocatable['pods']),
    },
    acceptsPods: !wire.flag(spec, 'unschedulable'),
    zone: base.labels[ZONE_LABEL] ?? null,
    nodeClass: base.labels[NODE_CLASS_LABEL] ?? null,
    address: address ? wire.host(address, 'address') : null,
    port: wire.port(wire.child(wire.child(status, 'daemonEndpoints'), NODE_ENDPOINT_FIELD), 'Port'),
    conditions: conditions(status),
    taints: wire.list(spec, 'taints').map(taint),
  };
}

/** Tells only whether two values are the same. */
export type Fingerprint = (value: string) => string;
/** 32 bits (FNV-1a): enough to see a change; a server with a key uses a keyed one, which nobody can guess from. */
const plainFingerprint: Fingerprint = (value) => {
  let hash = 0x811c9dc5;
  for (let i = 0; i < value.length; i++) hash = Math.imul(hash ^ value.charCodeAt(i), 0x01000193);
  return (hash >>> 0).toString(16).padStart(8, '0');
};

function maskedKeys(object: Wire, fingerprint: Fingerprint): Record<string, string> {
  const keys: Record<string, string> = {};
  for (const field of ['data', 'binaryData'])
    for (const [name, value] of Object.entries(wire.child(object, field)).slice(0, MOST_KEYS))
      if (typeof value === 'string') keys[wire.storable(name, 253)] = fingerprint(value);
  return keys;
}
const MOST_KEYS = 1000;

/** One object of the cluster API → one of the inventory. Null when it has no identity. `fingerprint` stands for values that are not kept. */
export function readObject(
  kind: InventoryKind,
  foreign: unknown,
  fingerprint: Fingerprint = plainFingerprint,
): InventoryObject | null {
  const object = wire.asWire(foreign);
  const read = (): InventoryObject => {
    switch (kind) {
      case 'node':
        return readNode(object);
      case 'namespace':
        return {
          kind,
          ...common(object),
          phase: wire.text(wire.child(object, 'status'), 'phase'),
          conditions: conditions(wire.child(object, 'status')),
          annotations: wire.texts(wire.child(object, 'metadata'), 'annotations'),
        };
      case 'pod':
        return readPod(object);
      case 'deployment':
      case 'replica set':
        return readReplicated(object, kind);
      case 'daemon set':
        return readDaemonSet(object);
      case 'stateful set':
        return readStatefulSet(object);
      case 'job':
        return readJob(object);
      case 'cron job':
        return readCronJob(object);
      case 'service':
        return readService(object);
      case 'endpoint slice':
        return readEndpointSlice(object);
      case 'persistent volume':
        return readVolume(object);
      case 'volume claim':
        return readClaim(object);
      case 'quota':
        return readQuota(object);
      case 'limit range':
        return readLimitRange(object);
      case 'autoscaler':
        return readAutoscaler(object);
      case 'disruption budget':
        return readDisruptionBudget(object);
      case 'config map':
        return { kind, ...common(object), keys: maskedKeys(object, fingerprint) };
      case 'secret':
        return { kind, ...common(object), version: wire.text(wire.child(object, 'metadata'), 'resourceVersion') };
    }
  };
  const result = read();
  return result.uid === '' || result.name === '' ? null : result;
}

export function readEvent(foreign: unknown): ClusterEvent | null {
  const object = wire.asWire(foreign);
  const meta = wire.child(object, 'metadata');
  // of the core group, or of the newer one, which has other words for the same
  const about = wire.child(object, wire.has(object, 'regarding') ? 'regarding' : 'involvedObject');
  const series = wire.child(object, 'series');
  const created = wire.time(meta, 'creationTimestamp') ?? 0;
  const time = (...fields: string[]) =>
    fields.map((field) => wire.time(object, field)).find((at) => at !== null) ?? null;
  const first = time('firstTimestamp', 'deprecatedFirstTimestamp', 'eventTime') ?? created;
  const uid = wire.text(meta, 'uid');
  if (uid === '') return null;
  return {
    uid,
    namespace: wire.optionalText(meta, 'namespace'),
    about: { kind: wire.text(about, 'kind'), name: wire.text(about, 'name'), uid: wire.text(about, 'uid') },
    type: wire.text(object, 'type') === 'Warning' ? 'warning' : 'normal',
    reason: wire.text(object, 'reason'),
    message: wire.text(object, 'message') || wire.text(object, 'note'),
    count: Math.max(
      1,
      wire.count(series, 'count'),
      wire.count(object, 'count', 1),
      wire.count(object, 'deprecatedCount'),
    ),
    firstAt: first,
    lastAt: Math.max(
      first,
      wire.time(series, 'lastObservedTime') ?? time('lastTimestamp', 'deprecatedLastTimestamp') ?? first,
    ),
  };
}
