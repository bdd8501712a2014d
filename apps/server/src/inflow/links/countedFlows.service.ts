import { Injectable } from '@nestjs/common';
import { COUNTED, type CountedFlow, endKey } from '@zetopsis/core/links';
import { grownWithin } from '@zetopsis/core/samples';
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

  /** Of the minute that ends then; by who had which address lately. */
  async upTo(at: EpochMs): Promise<CountedFlow[]> {
    const flows = new Map<string, Flow>();
    const pieces = new Pieces();
    for (const id of this.samples.select(COUNTED.bytes, []).slice(0, MOST_SERIES)) {
      if (pieces.due) await pieces.pause();
      const recent = this.samples.recent(id, at - 3 * MINUTE);
      // how much it was within the minute is known from where it stood before it
      if (!(recent.times[0]! <= at - MINUTE)) continue;
      const grown = grownWithin(recent, { from: at - MINUTE, to: at, begins: false });
      const flow = this.flowOf(id, flows);
      if (flow === null) continue;
      if (COUNTED.back.test(this.numbers.table.label(id, COUNTED.direction))) flow.received += grown;
      else flow.sent += grown;
    }
    for (const id of this.samples.select(COUNTED.connections, []).slice(0, MOST_SERIES)) {
      if (pieces.due) await pieces.pause();
      const { times, values } = this.samples.recent(id, at - STALE);
      const last = times.findLastIndex((time) => time <= at);
      if (last < 0 || !(values[last]! > 0)) continue;
      const flow = this.flowOf(id, flows, false);
      if (flow !== null) flow.connections += values[last]!;
    }
    return [...flows.values()];
  }
  /** Null of what a program sends to itself; of connections alone, whose bytes nobody counts (yet). */
  private flowOf(id: SeriesId, flows: Map<string, Flow>, make = true): Flow | null {
    const { table } = this.numbers;
    const connection = this.knownEndpoints.connectionOf.get(table.endpointOf(id) ?? -1);
    if (connection === undefined) return null;
    const cluster = this.connections.nameOf(connection);
    const [from, to] = [COUNTED.from, COUNTED.to].map((label) =>
      this.ends.at({ connection, cluster, address: table.label(id, label) }),
    );
    const port = table.label(id, COUNTED.port);
    if (!from || !to || endKey(from) === endKey(to)) return null;
    const key = JSON.stringify([endKey(from), endKey(to), port]);
    const known = flows.get(key);
    if (known || !make) return known ?? null;
    const made: Flow = { from, to, port: /^\d{1,5}$/.test(port) ? port : '', sent: 0, received: 0, connections: 0 };
    flows.set(key, made);
    return made;
  }
}
