import { Injectable, type OnApplicationBootstrap, type OnApplicationShutdown } from '@nestjs/common';
import { Reach } from '@zetopsis/core/access';
import { type PodObject, workloadKey } from '@zetopsis/core/inventory';
import {
  AddressHolders,
  COUNTED,
  type CountedPast,
  LINK_METRICS,
  type LinkEnd,
  type PastStretch,
  PastWires,
  readPort,
} from '@zetopsis/core/links';
import { type EpochMs, HOUR, MINUTE, SECOND, type SeriesId } from '@zetopsis/core/units';
import pLimit from 'p-limit';
import { inPieces, Pieces, yieldedInPieces } from '../../ground/platform/inPieces.ts';
import { ServerLog } from '../../ground/platform/logger.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { InventoryService } from '../../keeping/inventory/inventory.service.ts';
import { LeaseService } from '../../keeping/store/lease.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { ImportsService, type Part } from '../imports/imports.service.ts';
import { EndpointsService } from '../scraping/endpoints.service.ts';
import { KnownEndpoints } from '../scraping/knownEndpoints.ts';
import { WIRES_SENDER } from '../scraping/plans.ts';
import { ReadingsService } from '../scraping/readings.service.ts';
import { LinkEnds } from './linkEnds.service.ts';
import { LinkSender } from './linkSender.ts';

const ABOUT = 'links by address, of the past';
const BY = 'Zetopsis';
/** As live. */
const EVERY = MINUTE;
/** What is worked out in one go. */
const SLICE = 6 * HOUR;
/** Around a stretch so much is read: between which readings its ends lie. */
const AROUND = 30 * MINUTE;
/** Pasts of several machines come one after the other: links are of all of them, once nothing more has come for so long. */
const SETTLES = 30 * SECOND;
const MOST_SERIES = 20_000;

/** When the past of a cluster was brought in, links are worked out of what its machines counted then, as an import of its own. */
@Injectable()
export class PastLinks implements OnApplicationBootstrap, OnApplicationShutdown {
  private readonly inOrder = pLimit(1);
  private ending = false;
  /** Clusters of which another process writes now. */
  private readonly waiting = new Set<string>();
  private readonly sender: LinkSender;
  private readonly settling = new Map<string, NodeJS.Timeout>();

  constructor(
    private readonly imports: ImportsService,
    private readonly connections: ConnectionsService,
    endpoints: EndpointsService,
    readings: ReadingsService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly inventory: InventoryService,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
    private readonly ends: LinkEnds,
    private readonly lease: LeaseService,
    private readonly clock: Clock,
    private readonly log: ServerLog,
  ) {
    lease.onChange(() => {
      for (const cluster of this.waiting) this.due(cluster);
    });
    this.sender = new LinkSender(WIRES_SENDER, endpoints, readings);
  }

  async onApplicationBootstrap(): Promise<void> {
    this.imports.onDone(({ cluster, what, about }) => {
      if (what === 'samples' && about !== ABOUT) this.dueOnceSettled(cluster);
    });
    // what the end of a process kept from being worked out
    const past = (await this.imports.list(Reach.ofZetopsis())).filter(
      ({ what, state }) => what === 'samples' && state === 'done',
    );
    for (const cluster of new Set(past.map((run) => run.cluster))) {
      const newest = (own: boolean) =>
        Math.max(
          0,
          ...past.filter((run) => run.cluster === cluster && (run.about === ABOUT) === own).map(({ id }) => id),
        );
      if (newest(false) > newest(true)) this.due(cluster);
    }
  }
  /** What is under way ends with the imports. */
  onApplicationShutdown(): void {
    this.ending = true;
    for (const timer of this.settling.values()) clearTimeout(timer);
  }
  private dueOnceSettled(cluster: string): void {
    clearTimeout(this.settling.get(cluster));
    const look = async () => {
      this.settling.delete(cluster);
      const isComing = ({ state }: { readonly state: string }) => state === 'waiting' || state === 'running';
      const all = await this.imports.list(Reach.ofZetopsis());
      // that one tells when it is done
      if (!all.some((run) => run.cluster === cluster && run.what === 'samples' && isComing(run))) this.due(cluster);
    };
    const timer = setTimeout(() => {
      look().catch((error: unknown) => this.log.failure('pastLinksNotTold', error, { cluster }));
    }, SETTLES);
    this.settling.set(cluster, timer);
  }
  private due(cluster: string): void {
    void this.inOrder(async () => {
      try {
        if (this.lease.epoch === 0) this.waiting.add(cluster);
        else if (!this.ending) {
          this.waiting.delete(cluster);
          await this.bringIn(cluster);
        }
      } catch (error) {
        this.log.failure('pastLinksNotTold', error, { cluster });
      }
    });
  }

  private async bringIn(cluster: string): Promise<void> {
    const connection = this.connections.idOf(cluster);
    if (connection === undefined) return;
    const counted = await this.countedOf(connection);
    const firsts = [...(await this.samples.firstReadingsAt([...counted.keys()])).values()];
    const first = firsts.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY);
    // what is told already stands
    const to = await this.toldFrom(cluster);
    const past = new PastWires();
    const parts: Part[] = [];
    for (let from = Math.ceil(first / EVERY) * EVERY; from < to; from += SLICE) {
      const stretch = { from, to: Math.min(to, from + SLICE), every: EVERY };
      // counted on from page to page: what is asked for once more is the same
      let made: Uint8Array | null = null;
      const page = async () => (made ??= await this.page({ connection, cluster, counted, past, stretch }));
      const done = async () => {
        made = null;
      };
      parts.push({ endpointId: await this.sender.place(), page, done, since: from });
    }
    if (parts.length === 0) return;
    const { done } = await this.imports.takeParts({ cluster, about: ABOUT, by: BY }, parts);
    await done;
  }
  private async page({
    connection,
    cluster,
    counted,
    past,
    stretch,
  }: {
    readonly connection: string;
    readonly cluster: string;
    readonly counted: ReadonlyMap<number, readonly SeriesId[]>;
    readonly past: PastWires;
    readonly stretch: PastStretch;
  }): Promise<Uint8Array> {
    const holders = await this.holdersWithin(connection, cluster, stretch);
    const holderAt = (address: string, moment: EpochMs): LinkEnd | null =>
      holders.at(address, moment) ?? this.ends.at({ connection, cluster, address, moment });
    const pieces = new Pieces();
    for (const ids of counted.values())
      await yieldedInPieces(past.addBySteps(await this.countedIn(ids, stretch), stretch, holderAt), pieces);
    return Buffer.from(await yieldedInPieces(past.pageBySteps(stretch), pieces));
  }
  private async countedIn(ids: readonly SeriesId[], { from, to }: PastStretch): Promise<CountedPast[]> {
    const read = await this.samples.read({ ids, from: from - AROUND, to: to + AROUND, resolution: 'samples' });
    return ids.flatMap((id): CountedPast[] => {
      const samples = read.get(id);
      if (!samples) return [];
      const label = (name: string) => this.numbers.table.label(id, name);
      const back = COUNTED.back.test(label(COUNTED.direction));
      return [{ from: label(COUNTED.from), to: label(COUNTED.to), port: readPort(label(COUNTED.port)), back, samples }];
    });
  }
  /** Series of those that count in a cluster, by endpoint. */
  private async countedOf(connection: string): Promise<Map<number, SeriesId[]>> {
    const pieces = new Pieces();
    const counted = new Map<number, SeriesId[]>();
    for (const id of this.samples.select(COUNTED.bytes).slice(0, MOST_SERIES)) {
      if (pieces.due) await pieces.pause();
      const endpoint = this.numbers.table.endpointOf(id) ?? -1;
      if (this.knownEndpoints.connectionOf.get(endpoint) !== connection) continue;
      const own = counted.get(endpoint) ?? [];
      counted.set(endpoint, own);
      own.push(id);
    }
    return counted;
  }
  /** Since when links of a cluster are told as they come. */
  private async toldFrom(cluster: string): Promise<EpochMs> {
    const ids = this.samples
      .select(`${LINK_METRICS.bytes}_total`)
      .filter(
        (id) => this.samples.label(id, 'from_cluster') === cluster || this.samples.label(id, 'to_cluster') === cluster,
      );
    let first = this.clock.now() - EVERY;
    for (const born of (await this.samples.bornOf(ids)).values()) first = Math.min(first, born);
    return Math.floor(first / EVERY) * EVERY;
  }
  /** Who had which address then: pods have theirs since they came. */
  private async holdersWithin(connection: string, cluster: string, { from, to }: PastStretch): Promise<AddressHolders> {
    const holders = new AddressHolders();
    const inventory = this.inventory.cluster(connection);
    const pods = new Map<string, PodObject>();
    const versions = await this.inventory.within({ connectionId: connection, kinds: ['pod'], from, to });
    for (const { object } of versions) if (object.kind === 'pod') pods.set(object.uid, object);
    // what is told of the past may be younger than the pod itself
    for (const pod of inventory.list('pod')) pods.set(pod.uid, pod);
    const inOrder = [...pods.values()].sort((a, b) => a.createdAt - b.createdAt);
    await inPieces(inOrder, (pod) => {
      if (typeof pod.address !== 'string') return;
      const end = { cluster, namespace: pod.namespace ?? '', workload: workloadKey(inventory.workloadOf(pod)) };
      holders.note([[pod.address, { end, since: pod.createdAt }]], pod.createdAt);
    });
    return holders;
  }
}
