import { Injectable } from '@nestjs/common';
import type { PodObject } from '@zetopsis/core/inventory';
import { nodeNamedBy, type Origin, originOf, type PodThen, podNamedBy, type SpeaksFor } from '@zetopsis/core/origins';
import { MINUTE } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import type { PushedBy } from './pushRequest.ts';

/** What was found holds for so long: a pod of the same name may be another one by then. */
const HOLDS = MINUTE;
/** Services and hosts that one key names, beside pods and nodes; what comes after is one. */
const MOST_NAMES = 1000;
const OTHERS = 'other services';

/** Finds what attributes of a sender name, as it was: the pod may be gone when its last lines come. */
@Injectable()
export class OriginsService {
  private readonly names = new Map<string, Set<string>>();
  private readonly known = new LRUCache<string, Promise<Origin>>({ max: 5000, ttl: HOLDS });

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
  ) {}

  /** `key`: with which push key it came. */
  of(attributes: ReadonlyMap<string, string>, { key, document }: PushedBy): Promise<Origin> {
    const print = JSON.stringify([key, document.cluster, document.namespace, ...[...attributes].sort()]);
    const known = this.known.get(print);
    if (known) return known;
    const finding = this.find(attributes, document).then((origin) => this.bounded(key, origin));
    this.known.set(print, finding);
    finding.catch(() => this.known.delete(print));
    return finding;
  }
  /** What stands under a name that its sender chose is bounded: each is kept by itself. */
  private bounded(key: string, origin: Origin): Origin {
    if (origin.pod !== null || origin.node !== null) return origin;
    const names = this.names.get(key) ?? new Set<string>();
    this.names.set(key, names);
    const name = JSON.stringify([origin.namespace, origin.service, origin.host]);
    if (!names.has(name) && names.size >= MOST_NAMES) return { ...origin, service: OTHERS, host: null };
    names.add(name);
    return origin;
  }
  private async find(attributes: ReadonlyMap<string, string>, key: SpeaksFor): Promise<Origin> {
    const connectionId = key.cluster === null ? undefined : this.connections.idOf(key.cluster);
    if (connectionId === undefined) return originOf(attributes, key, { pod: null, nodeKnown: false });
    const inventory = this.inventory.cluster(connectionId);
    const node = nodeNamedBy(attributes);
    return originOf(attributes, key, {
      pod: await this.pod(connectionId, attributes, key),
      nodeKnown: node !== null && inventory.named('node', '', node) !== undefined,
    });
  }
  private async pod(
    connectionId: string,
    attributes: ReadonlyMap<string, string>,
    key: SpeaksFor,
  ): Promise<PodThen | null> {
    const names = podNamedBy(attributes, key);
    if (names === null) return null;
    const inventory = this.inventory.cluster(connectionId);
    const { uid, namespace, name } = names;
    const now =
      (uid === null ? undefined : inventory.get(uid)) ??
      (namespace === null || name === null ? undefined : inventory.named('pod', namespace, name));
    const then =
      now ??
      (uid === null ? undefined : (await this.inventory.versionsOf(connectionId, uid, 1))[0]?.object) ??
      (namespace === null || name === null
        ? undefined
        : (await this.inventory.lastNamed(connectionId, { kind: 'pod', namespace, name }))?.object);
    return then?.kind === 'pod' ? this.podThen(connectionId, then) : null;
  }
  private podThen(connectionId: string, pod: PodObject): PodThen {
    const { kind, name } = this.inventory.cluster(connectionId).workloadOf(pod);
    return {
      namespace: pod.namespace ?? '',
      name: pod.name,
      workload: { kind, name },
      node: pod.node,
      containers: pod.containers.map((container) => container.name),
    };
  }
}
