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
import type { FetchedPage } from './fetched.ts';
import { fetchPage } from './fetchPage.ts';
import { KnownEndpoints, type OwnEndpoint } from './knownEndpoints.ts';
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
    const found = [...this.knownEndpoints.all()].filter(
      ({ plan, status }) => plan.connectionId === connectionId && plan.kind === 'found' && status.state !== 'retired',
    );
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
          const read = found.find(({ plan }) => plan.name.startsWith(`pod ${namespace}/${name} :${own.port}/`));
          // what is read is judged by its own readings: asked otherwise than they are, it might answer otherwise
          const said = read && this.readWords(read);
          const ask = (url: URL, by: string | null) =>
            read && said !== undefined && read.plan.through === by ? said : this.words(url, by);
          return {
            ...own,
            direct: host === null ? 'It has no address yet.' : await ask(there(host), null),
            through: await ask(there(`${name}.${namespace}.pod`), cluster),
            readAs: read?.plan.name ?? null,
          };
        }),
      ),
    };
  }
  /** As the list of endpoints has it; undefined where nothing was read yet. */
  private readWords({ plan, status: { state, last, error } }: OwnEndpoint): string | undefined {
    if (state === 'failing') return `Read as ${plan.url.pathname}: ${error ?? 'no reason known'}`;
    return last === null ? undefined : `Read as ${plan.url.pathname}. ${pageWords(last)}`;
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
      return result.ok ? pageWords(result.fetched) : result.reason;
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  }
}
const pageWords = ({ page }: FetchedPage): string =>
  `A metrics page: ${formatCount(page.values.length, 'sample')} of ${formatCount(page.families.size, 'metric')}.`;
