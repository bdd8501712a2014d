import { Injectable } from '@nestjs/common';
import { type EdgeReading, LiveEdge } from '@zetopsis/core/samples';
import type { DurationMs, EpochMs } from '@zetopsis/core/units';
import { Clock } from '../../ground/platform/settings.ts';
import type { EndpointPacked } from './sample.store.ts';

/** The newest readings of every endpoint, in memory, and the border behind which they are packed. */
@Injectable()
export class NewestReadings {
  readonly edge = new LiveEdge();
  packed = new Map<number, EndpointPacked>();
  /** Readings of each endpoint that are not packed yet: how many, and the first of them. */
  readonly unpacked = new Map<number, { readings: number; first: EpochMs; late: boolean }>();
  /** From here on the edge of an endpoint is complete; older samples are in chunks only. */
  private readonly completeFrom = new Map<number, EpochMs>();
  /** Endpoints of which something came late since their packing began. */
  private readonly lateSince = new Set<number>();
  /** Endpoints that are being packed, and up to when. */
  private readonly packing = new Map<number, EpochMs>();
  constructor(private readonly clock: Clock) {}

  /** Begins anew with what is packed. */
  startAt(packed: Map<number, EndpointPacked>): void {
    this.packed = packed;
    this.edge.clear();
    this.completeFrom.clear();
    this.unpacked.clear();
  }
  edgeFrom(endpointId: number): EpochMs {
    return this.completeFrom.get(endpointId) ?? Number.POSITIVE_INFINITY;
  }
  packedUntil(endpointId: number): EpochMs {
    return this.packed.get(endpointId)?.until ?? 0;
  }
  /** Whether the packing of its endpoint has passed a moment, or will have when it is done. */
  isPast(endpointId: number, at: EpochMs): boolean {
    return at <= Math.max(this.packedUntil(endpointId), this.packing.get(endpointId) ?? 0);
  }

  /** `ring`: it came in its turn, not late. */
  add(endpointId: number, reading: EdgeReading, ring: boolean): void {
    const { at } = reading;
    if (!ring) this.lateSince.add(endpointId);
    if (!this.edge.add(endpointId, reading)) return;
    const from = this.completeFrom.get(endpointId);
    // before the first reading of the ring there may be more in chunks; what came late says nothing of its neighbours
    if (ring && (from === undefined || at < from)) this.completeFrom.set(endpointId, at);
    if (ring && at <= this.packedUntil(endpointId)) return;
    const waits = this.unpacked.get(endpointId);
    if (waits) {
      waits.readings++;
      waits.first = Math.min(waits.first, at);
      waits.late ||= !ring;
    } else this.unpacked.set(endpointId, { readings: 1, first: at, late: !ring });
  }

  // ---- what the compaction tells ----------------------------------------------------------------------------------

  beginPacking(endpointId: number, until: EpochMs): void {
    this.packing.set(endpointId, until);
    this.lateSince.delete(endpointId);
  }
  endPacking(endpointId: number): void {
    this.packing.delete(endpointId);
  }
  packedTo(endpointId: number, until: EpochMs, edgeKeeps: DurationMs): void {
    this.packed.set(endpointId, { ...(this.packed.get(endpointId) ?? { joined: 0, anew: 0 }), until });
    const border = Math.max(Math.min(until, this.clock.now() - edgeKeeps), this.completeFrom.get(endpointId) ?? 0);
    this.completeFrom.set(endpointId, border);
    this.edge.cut(endpointId, border);
    const left = this.edge.readingsAfter(endpointId, until);
    const late = this.lateSince.has(endpointId);
    if (left.length === 0 && !late) this.unpacked.delete(endpointId);
    else this.unpacked.set(endpointId, { readings: left.length, first: left[0]?.at ?? until, late });
  }
  joinedTo(endpointId: number, joined: EpochMs): void {
    this.packed.set(endpointId, { ...(this.packed.get(endpointId) ?? { until: 0, anew: 0 }), joined });
  }
  anewDownTo(endpointId: number, anew: EpochMs): void {
    const packed = this.packed.get(endpointId);
    if (packed) this.packed.set(endpointId, { ...packed, anew });
  }
  forget(endpointId: number): void {
    this.edge.forget(endpointId);
    this.completeFrom.delete(endpointId);
    this.packed.delete(endpointId);
    this.unpacked.delete(endpointId);
  }
}
