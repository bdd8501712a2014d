import { Injectable } from '@nestjs/common';
import { workloadKey } from '@zetopsis/core/inventory';
import { AddressHolders, type LinkEnd, type Named, OUTSIDE } from '@zetopsis/core/links';
import type { Origin } from '@zetopsis/core/origins';
import { DAY, type EpochMs, MINUTE, SECOND } from '@zetopsis/core/units';
import { LRUCache } from 'lru-cache';
import { inPieces } from '../../ground/platform/inPieces.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { AddressBook } from './addressBook.ts';

/** Names of services that said who they are. */
const MOST_NAMES = 20_000;

interface AddressAt {
  readonly connection: string;
  readonly cluster: string;
  readonly address: string;
  readonly moment: EpochMs;
}
/** Who stands at an end of a link: by what is known of it now. */
@Injectable()
export class LinkEnds {
  private readonly services = new LRUCache<string, LinkEnd>({ max: MOST_NAMES, ttl: DAY });
  private readonly books = new LRUCache<string, AddressBook>({ max: 50, ttl: 15 * SECOND });
  private readonly holders = new LRUCache<string, AddressHolders>({ max: 200 });
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
  /** Notes who has which address in a cluster now; to be looked at each minute, where addresses are counted. */
  async noteHolders(connection: string, cluster: string, now: EpochMs): Promise<void> {
    const known = this.holders.get(connection) ?? new AddressHolders();
    this.holders.set(connection, known);
    await inPieces(this.bookOf(connection, cluster).holders(), (one) => known.note([one], now));
  }
  /** Whether a pod's address came to another workload within (from, to]. */
  handedOn(connection: string, address: string, from: EpochMs, to: EpochMs): boolean {
    return this.holders.get(connection)?.changedWithin(address, from, to) ?? false;
  }
  /** Who had an address in a cluster at a moment; whoever is none of it is outside. Null: no address. */
  at({ connection, cluster, address, moment }: AddressAt): LinkEnd | null {
    if (address === '') return null;
    const pod = this.holders.get(connection)?.at(address, moment);
    return pod ?? this.bookOf(connection, cluster).find(address, '') ?? OUTSIDE;
  }
  private bookOf(id: string, cluster: string): AddressBook {
    const known = this.books.get(id);
    if (known) return known;
    const made = new AddressBook(this.inventory.cluster(id), cluster);
    this.books.set(id, made);
    return made;
  }
  private find({ service, address }: Named, from: LinkEnd): LinkEnd {
    const id = from.cluster === '' ? undefined : this.connections.idOf(from.cluster);
    const book = id === undefined ? null : this.bookOf(id, from.cluster);
    const inside = address === '' ? null : (book?.find(address, from.namespace) ?? null);
    if (inside) return inside;
    for (const name of [service, address.split('.')[0] ?? ''])
      if (name !== '') {
        const known = this.services.get(`${from.cluster} ${name}`) ?? this.services.get(name);
        if (known) return known;
      }
    const own = service === '' ? null : book?.find(service, from.namespace);
    if (own) return own;
    const name = address || service;
    return name === '' ? OUTSIDE : { cluster: '', namespace: '', workload: `host:${name}` };
  }
}
