import { Injectable } from '@nestjs/common';
import type { PodPortsAnswer, PodPortsInput } from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import { PageMemory } from '@zetopsis/core/exposition';
import { formatCount } from '@zetopsis/core/format';
import { demand } from '../../ground/guard/demand.ts';
import { AddressGuard } from '../../ground/platform/addressGuard.ts';
import { Refusal } from '../../ground/platform/refusals.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { AskingService } from './asking.service.ts';
import { fetchPage } from './fetchPage.ts';
import { KnownEndpoints } from './knownEndpoints.ts';
import { ReadingsService } from './readings.service.ts';

const WAIT = 3000;
const MOST_PORTS = 20;

/** From a pod to its node, its address, and what answers at each of its ports. */
@Injectable()
export class PodPortsService {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly inventory: InventoryService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly readings: ReadingsService,
    private readonly asking: AskingService,
    private readonly guard: AddressGuard,
  ) {}

  async ask(reach: Reach, { cluster, namespace, pod: name, path }: PodPortsInput): Promise<PodPortsAnswer> {
    demand({ reach, level: 'operate', cluster, namespace });
    const connectionId = this.connections.idOf(cluster);
    const inventory = connectionId === undefined ? null : this.inventory.cluster(connectionId);
    const pod = inventory?.list('pod').find((one) => one.namespace === namespace && one.name === name);
    if (!inventory || !pod)
      throw new Refusal('notFound', 'There is no such pod now. Check cluster, namespace and name.');
    const node = inventory.list('node').find((one) => one.name === pod.node);
    const address = pod.address ?? null;
    const ports = pod.containers
      .flatMap((container) =>
        container.ports.map((port, i) => ({ container: container.name, port, name: container.portNames?.[i] ?? '' })),
      )
      .slice(0, MOST_PORTS);
    const plans = [...this.knownEndpoints.all()]
      .map(({ plan }) => plan)
      .filter((plan) => plan.connectionId === connectionId && plan.kind === 'found');
    return {
      node: pod.node,
      nodeAddress: node?.address ?? null,
      address,
      phase: pod.phase,
      ports: await Promise.all(
        ports.map(async (own) => {
          const there = (host: string) => {
            const url = `http://${host}:${own.port}${path}`;
            if (!URL.canParse(url)) throw new Refusal('invalid', `${url} is no address.`);
            return new URL(url);
          };
          const host = address?.includes(':') ? `[${address}]` : address;
          return {
            ...own,
            direct: host === null ? 'It has no address yet.' : await this.words(there(host), null),
            through: await this.words(there(`${name}.${namespace}.pod`), cluster),
            readAs: plans.find((plan) => plan.name.startsWith(`pod ${namespace}/${name} :${own.port}/`))?.name ?? null,
          };
        }),
      ),
    };
  }
  private async words(url: URL, through: string | null): Promise<string> {
    try {
      const proof = { by: 'nothing' } as const;
      const ask = this.asking.ask({ url, through, proof, authority: '', connectionId: null });
      const result = await fetchPage({
        ask,
        guard: this.guard,
        timeoutMs: WAIT,
        memory: new PageMemory(),
        limits: this.readings.pageLimits,
      });
      return result.ok
        ? `A metrics page: ${formatCount(result.fetched.page.values.length, 'sample')} of ${formatCount(result.fetched.page.families.size, 'metric')}.`
        : result.reason;
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  }
}
