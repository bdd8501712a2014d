import { isIP } from 'node:net';
import { Injectable } from '@nestjs/common';
import { type ClusterInventory, type PodObject, workloadKey } from '@zetopsis/core/inventory';
import { type LinkEnd, type Named, OUTSIDE } from '@zetopsis/core/links';
import type { Origin } from '@zetopsis/core/origins';
import { DAY, MINUTE } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';

/** Names of services that said who they are. */
const MOST_NAMES = 20_000;

/** Who stands at an end of a link: by what is known of it now. */
@Injectable()
export class LinkEnds {
  private readonly services = new LRUCache<string, LinkEnd>({ max: MOST_NAMES, ttl: DAY });
  private readonly found = new LRUCache<string, LinkEnd>({ max: 10_000, ttl: MINUTE });

  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
  ) {}

  /** Who told spans. */
  of({ cluster, namespace, workload, service, host }: Origin): LinkEnd {
    const place = { cluster: cluster ?? '', namespace: namespace ?? '' };
    const end =
      workload !== null
        ? { ...place, workload: workloadKey(workload) }
        : service !== null
          ? { ...place, workload: `service:${service}` }
          : host !== null
            ? { cluster: '', namespace: '', workload: `host:${host}` }
            : OUTSIDE;
    if (service !== null) {
      this.services.set(`${place.cluster} ${service}`, end);
      this.services.set(service, end);
    }
    return end;
  }
  /** Whom a call names, where nothing came of the answerer itself. */
  named(whom: Named, from: LinkEnd): LinkEnd {
    const key = JSON.stringify([from.cluster, from.namespace, whom.service, whom.address]);
    const known = this.found.get(key);
    if (known) return known;
    const end = this.find(whom, from);
    this.found.set(key, end);
    return end;
  }
  private find({ service, address }: Named, from: LinkEnd): LinkEnd {
    const id = from.cluster === '' ? undefined : this.connections.idOf(from.cluster);
    const inside =
      id === undefined || address === ''
        ? null
        : addressed(this.inventory.cluster(id), from.cluster, from.namespace, address);
    if (inside) return inside;
    for (const name of [service, address.split('.')[0] ?? ''])
      if (name !== '') {
        const known = this.services.get(`${from.cluster} ${name}`) ?? this.services.get(name);
        if (known) return known;
      }
    if (id !== undefined && service !== '') {
      const own = addressed(this.inventory.cluster(id), from.cluster, from.namespace, service);
      if (own) return own;
    }
    const name = address || service;
    return name === '' ? OUTSIDE : { cluster: '', namespace: '', workload: `host:${name}` };
  }
}

/** Who answers at an address or a name inside a cluster; null where it knows nobody. */
function addressed(inventory: ClusterInventory, cluster: string, namespace: string, address: string): LinkEnd | null {
  const ofPod = (pod: PodObject): LinkEnd => ({
    cluster,
    namespace: pod.namespace ?? '',
    workload: workloadKey(inventory.workloadOf(pod)),
  });
  if (isIP(address) !== 0) {
    const pod = inventory.list('pod').find((own) => own.address === address && own.phase === 'running');
    if (pod) return ofPod(pod);
    const service = inventory.list('service').find((own) => own.address === address);
    if (!service) return null;
    return (
      behind(inventory, service, ofPod) ?? {
        cluster,
        namespace: service.namespace ?? '',
        workload: `service:${service.name}`,
      }
    );
  }
  const [name = '', place = namespace] = address.split('.');
  const service = inventory.named('service', place, name);
  return service
    ? (behind(inventory, service, ofPod) ?? { cluster, namespace: place, workload: `service:${name}` })
    : null;
}
function behind(
  inventory: ClusterInventory,
  { namespace, selector }: { readonly namespace: string | null; readonly selector: Readonly<Record<string, string>> },
  ofPod: (pod: PodObject) => LinkEnd,
): LinkEnd | null {
  const wanted = Object.entries(selector);
  if (wanted.length === 0) return null;
  const pod = inventory
    .list('pod')
    .find((own) => own.namespace === namespace && wanted.every(([key, value]) => own.labels[key] === value));
  return pod ? ofPod(pod) : null;
}
