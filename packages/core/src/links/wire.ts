import type { FamilyOut } from '../exposition/index.ts';
import { MINUTE } from '../units/index.ts';
import { endKey, type LinkEnd } from './link.ts';
import { KEPT_FOR } from './totals.ts';
import { LINK_METRICS } from './wire-names.ts';

/** What went over the connections from one end to another within a minute, as their machines count it. */
export interface CountedFlow {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly port: string;
  /** Bytes from the one that opened them, and back. */
  readonly sent: number;
  readonly received: number;
  /** Of both, by an address that came to somebody else within the minute: they count for whoever had it when they were read. */
  readonly uncertain: number;
  /** Open at the end of the minute. */
  readonly connections: number;
}
/** Pairs that are counted; what comes after is in none. */
export const MOST_WIRES = 2000;

interface Own {
  readonly labels: Readonly<Record<string, string>>;
  sent: number;
  received: number;
  uncertain: number;
  connections: number;
  /** Minutes since there was something of it. */
  idle: number;
}

/** Bytes and connections of every link since the start, as its series tell them. */
export class WireTotals {
  private readonly own = new Map<string, Own>();
  /** Flows that were left out, as too many are counted. */
  left = 0;

  get size(): number {
    return this.own.size;
  }
  /** All flows of one minute: what is not among them has no connection open. */
  add(flows: readonly CountedFlow[]): void {
    for (const [key, own] of this.own) {
      own.connections = 0;
      if (++own.idle > KEPT_FOR / MINUTE) this.own.delete(key);
    }
    for (const { from, to, port, sent, received, uncertain, connections } of flows) {
      const key = JSON.stringify([endKey(from), endKey(to), port]);
      const known = this.own.get(key);
      if (!known && this.own.size >= MOST_WIRES) {
        this.left++;
        continue;
      }
      const own = known ?? {
        labels: wireLabels(from, to, port),
        sent: 0,
        received: 0,
        uncertain: 0,
        connections: 0,
        idle: 0,
      };
      this.own.set(key, own);
      if (sent + received + connections > 0) own.idle = 0;
      own.sent += sent;
      own.received += received;
      own.uncertain += uncertain;
      own.connections += connections;
    }
  }
  families(): FamilyOut[] {
    const all = [...this.own.values()];
    if (all.length === 0) return [];
    return [
      {
        name: LINK_METRICS.bytes,
        type: 'counter',
        unit: 'bytes',
        help: 'Bytes between two workloads, as the machines count them by address.',
        samples: all.flatMap(({ labels, sent, received }) => [
          { labels: { ...labels, direction: 'sent' }, value: sent },
          { labels: { ...labels, direction: 'received' }, value: received },
        ]),
      },
      {
        name: LINK_METRICS.uncertain,
        type: 'counter',
        unit: '',
        help: 'Of these, bytes by an address that came to somebody else within the minute.',
        samples: all.map(({ labels, uncertain }) => ({ labels, value: uncertain })),
      },
      {
        name: LINK_METRICS.connections,
        type: 'gauge',
        unit: '',
        help: 'Connections between them that are open.',
        samples: all.map(({ labels, connections }) => ({ labels, value: connections })),
      },
    ];
  }
}
export const wireLabels = (from: LinkEnd, to: LinkEnd, port: string): Record<string, string> => ({
  from_cluster: from.cluster,
  from_namespace: from.namespace,
  from_workload: from.workload,
  to_cluster: to.cluster,
  to_namespace: to.namespace,
  to_workload: to.workload,
  port,
  seen_by: 'wire',
});
