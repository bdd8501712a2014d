import { isIP } from 'node:net';
import { type ClusterInventory, type PodObject, type ServiceObject, workloadKey } from '@zetopsis/core/inventory';
import type { Holder, LinkEnd } from '@zetopsis/core/links';

/** Who answers at which address and name inside a cluster: each object is walked over once, whatever addresses senders make up. */
export class AddressBook {
  private readonly pods = new Map<string, PodObject>();
  private readonly services = new Map<string, ServiceObject>();
  private readonly byNamespace = new Map<string, PodObject[]>();
  private readonly behindService = new Map<string, LinkEnd>();

  constructor(
    private readonly inventory: ClusterInventory,
    private readonly cluster: string,
  ) {
    for (const pod of inventory.list('pod')) {
      if (pod.phase === 'running' && typeof pod.address === 'string') this.pods.set(pod.address, pod);
      const own = this.byNamespace.get(pod.namespace ?? '') ?? [];
      own.push(pod);
      this.byNamespace.set(pod.namespace ?? '', own);
    }
    for (const service of inventory.list('service'))
      if (service.address !== null) this.services.set(service.address, service);
  }

  /** Addresses of pods, with who has them since when. */
  *holders(): Generator<readonly [address: string, holder: Holder]> {
    for (const [address, pod] of this.pods) yield [address, { end: this.endOf(pod), since: pod.createdAt }];
  }
  /** `namespace`: of whoever calls; a short name is one of it. Null where nobody is known. */
  find(address: string, namespace: string): LinkEnd | null {
    if (isIP(address) !== 0) {
      const pod = this.pods.get(address);
      if (pod) return this.endOf(pod);
      const service = this.services.get(address);
      return service ? this.behind(service) : null;
    }
    const [name = '', place = namespace] = address.split('.', 2);
    const service = this.inventory.named('service', place, name);
    return service ? this.behind(service) : null;
  }
  private behind({ uid, namespace, name, selector }: ServiceObject): LinkEnd {
    const known = this.behindService.get(uid);
    if (known) return known;
    const wanted = Object.entries(selector);
    const pod =
      wanted.length === 0
        ? undefined
        : this.byNamespace
            .get(namespace ?? '')
            ?.find(({ labels }) => wanted.every(([key, value]) => labels[key] === value));
    const end = pod
      ? this.endOf(pod)
      : { cluster: this.cluster, namespace: namespace ?? '', workload: `service:${name}` };
    this.behindService.set(uid, end);
    return end;
  }
  private endOf(pod: PodObject): LinkEnd {
    return {
      cluster: this.cluster,
      namespace: pod.namespace ?? '',
      workload: workloadKey(this.inventory.workloadOf(pod)),
    };
  }
}
