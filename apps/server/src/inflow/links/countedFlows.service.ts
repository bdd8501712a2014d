import { Injectable } from '@nestjs/common';
import { COUNTED, type CountedFlow, endKey, readPort } from '@zetopsis/core/links';
import { grownWithin, type Samples } from '@zetopsis/core/samples';
import { type EpochMs, MINUTE, type SeriesId } from '@zetopsis/core/units';
import { Pieces } from '../../ground/platform/inPieces.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SeriesNumbers } from '../../keeping/store/seriesNumbers.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { KnownEndpoints } from '../scraping/knownEndpoints.ts';
import { LinkEnds } from './linkEnds.service.ts';

/** Series that are looked at for one minute; what is beyond is in no link. */
const MOST_SERIES = 50_000;
/** What told nothing for so long is not there any more. */
const STALE = 2 * MINUTE;

interface Flow extends CountedFlow {
  sent: number;
  received: number;
  uncertain: number;
  connections: number;
}
/** Bytes and connections that machines count by address, as flows between workloads. */
@Injectable()
export class CountedFlows {
  constructor(
    private readonly ends: LinkEnds,
    private readonly connections: ConnectionsService,
    private readonly knownEndpoints: KnownEndpoints,
    private readonly samples: SamplesService,
    private readonly numbers: SeriesNumbers,
  ) {}

  /** Notes who has which address now, in clusters whose machines count. */
  async noteHolders(now: EpochMs): Promise<void> {
    const connections = new Set<string>();
    const pieces = new Pieces();
    for (const id of this.samples.select(COUNTED.bytes, []).slice(0, MOST_SERIES)) {
      const connection = this.connectionOf(id);
      if (connection !== undefined) connections.add(connection);
      if (pieces.due) await pieces.pause();
    }
    for (const connection of connections)
      await this.ends.noteHolders(connection, this.connections.nameOf(connection), now);
  }
  /** Of the minute that ends then; by who had which address when it was read. */
  async upTo(at: EpochMs): Promise<CountedFlow[]> {
    const flows = new Map<string, Flow>();
    const pieces = new Pieces();
    const from = at - MINUTE;
    const read: { readonly id: SeriesId; readonly recent: Samples }[] = [];
    /** By endpoint: since when it is read lately. */
    const readSince = new Map<number, EpochMs>();
    for (const id of this.samples.select(COUNTED.bytes, []).slice(0, MOST_SERIES)) {
      if (pieces.due) await pieces.pause();
      const recent = this.samples.recent(id, at - 3 * MINUTE);
      const [first] = recent.times;
      // what began after the minute is nobody's in it: the address may have been another's then
      if (first === undefined || first > at) continue;
      read.push({ id, recent });
      const endpoint = this.samples.endpointOf(id) ?? -1;
      readSince.set(endpoint, Math.min(readSince.get(endpoint) ?? first, first));
    }
    for (const { id, recent } of read) {
      if (pieces.due) await pieces.pause();
      // of a page that was not read before the minute would not be whole; what is there for the first time counts from where it stands
      if (!(readSince.get(this.samples.endpointOf(id) ?? -1)! <= from)) continue;
      const back = COUNTED.back.test(this.numbers.table.label(id, COUNTED.direction));
      const add = (flow: Flow | null, grown: number, uncertain: boolean) => {
        if (flow === null) return;
        if (back) flow.received += grown;
        else flow.sent += grown;
        if (uncertain) flow.uncertain += grown;
      };
      if (!this.handedOn(id, from, at)) {
        add(this.flowOf(id, at, flows), grownWithin(recent, { from, to: at, begins: false }), false);
        continue;
      }
      // reading by reading: each counts for whoever had the address then
      const times = Array.from(recent.times);
      let before = times.findLast((time) => time <= from) ?? from;
      for (const time of times) {
        if (time <= from || time > at) continue;
        const grown = grownWithin(recent, { from: before, to: time, begins: false });
        // whoever had it and got nothing is no end of a link
        if (grown > 0) add(this.flowOf(id, time, flows), grown, true);
        before = time;
      }
    }
    for (const id of this.samples.select(COUNTED.connections, []).slice(0, MOST_SERIES)) {
      if (pieces.due) await pieces.pause();
      const { times, values } = this.samples.recent(id, at - STALE);
      const last = times.findLastIndex((time) => time <= at);
      if (last < 0 || !(values[last]! > 0)) continue;
      const flow = this.flowOf(id, at, flows, false);
      if (flow !== null) flow.connections += values[last]!;
    }
    return [...flows.values()];
  }
  private connectionOf(id: SeriesId): string | undefined {
    return this.knownEndpoints.connectionOf.get(this.numbers.table.endpointOf(id) ?? -1);
  }
  private handedOn(id: SeriesId, from: EpochMs, to: EpochMs): boolean {
    const connection = this.connectionOf(id);
    if (connection === undefined) return false;
    return [COUNTED.from, COUNTED.to].some((label) =>
      this.ends.handedOn(connection, this.numbers.table.label(id, label), from, to),
    );
  }
  /** Null of what a program sends to itself; of connections alone, whose bytes nobody counts (yet). */
  private flowOf(id: SeriesId, moment: EpochMs, flows: Map<string, Flow>, make = true): Flow | null {
    const { table } = this.numbers;
    const connection = this.connectionOf(id);
    if (connection === undefined) return null;
    const cluster = this.connections.nameOf(connection);
    const [from, to] = [COUNTED.from, COUNTED.to].map((label) =>
      this.ends.at({ connection, cluster, address: table.label(id, label), moment }),
    );
    const port = readPort(table.label(id, COUNTED.port));
    if (!from || !to || endKey(from) === endKey(to)) return null;
    const key = JSON.stringify([endKey(from), endKey(to), port]);
    const known = flows.get(key);
    if (known || !make) return known ?? null;
    const made: Flow = { from, to, port, sent: 0, received: 0, uncertain: 0, connections: 0 };
    flows.set(key, made);
    return made;
  }
}
