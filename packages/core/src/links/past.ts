import type { Samples } from '../samples/index.ts';
import { type DurationMs, type EpochMs, MINUTE } from '../units/index.ts';
import { endKey, type LinkEnd } from './link.ts';
import { MOST_WIRES, wireLabels } from './wire.ts';
import { LINK_METRICS } from './wire-names.ts';

/** What machines counted of the past, between two addresses. */
export interface CountedPast {
  readonly from: string;
  readonly to: string;
  readonly port: string;
  /** It is what came back to the one that opened the connection. */
  readonly back: boolean;
  readonly samples: Samples;
}
/** What was counted over a longer pause than this belongs to no moment. */
const LONGEST_PAUSE = 30 * MINUTE;

interface Flow {
  readonly labels: Readonly<Record<string, string>>;
  sent: number;
  received: number;
}
/** A stretch of the past, told each so many ms. */
export interface PastStretch {
  readonly from: EpochMs;
  readonly to: EpochMs;
  readonly every: DurationMs;
}
type HolderAt = (address: string, moment: EpochMs) => LinkEnd | null;
/** Bytes of links over a past that is brought in, stretch by stretch from its beginning on: as they would have been told then. */
export class PastWires {
  private readonly flows = new Map<string, Flow>();
  /** Of the stretch under way: by way and flow, what grew in each slot. */
  private readonly grown = new Map<string, Float64Array>();

  /** What some counted over a stretch; between two readings evenly. `holderAt`: who had an address at a moment; null: nobody. */
  *addBySteps(
    counted: readonly CountedPast[],
    { from, to, every }: PastStretch,
    holderAt: HolderAt,
  ): Generator<void, void> {
    const slots = slotsOf({ from, to, every });
    for (const { samples, back, ...pair } of counted) {
      for (let i = 1; i < samples.times.length; i++) {
        const [at, before] = [samples.times[i]!, samples.times[i - 1]!];
        const [value, was] = [samples.values[i]!, samples.values[i - 1]!];
        if (at <= from || before >= to || at - before > LONGEST_PAUSE || !(value >= 0) || !(was >= 0)) continue;
        const key = this.flowAt(pair, at, holderAt);
        if (key === null) continue;
        const way = `${back ? 'received' : 'sent'} ${key}`;
        const own = this.grown.get(way) ?? new Float64Array(slots);
        this.grown.set(way, own);
        const perMs = (value >= was ? value - was : value) / Math.max(1, at - before);
        for (let slot = Math.max(0, Math.floor((before - from) / every)); slot < slots; slot++) {
          const begin = from + slot * every;
          if (begin >= at) break;
          own[slot]! += perMs * (Math.min(at, begin + every) - Math.max(before, begin));
        }
      }
      yield;
    }
  }
  /** OpenMetrics text of what had gone over each link by the end of each slot; the next stretch goes on from there. */
  *pageBySteps({ from, to, every }: PastStretch): Generator<void, string> {
    const slots = slotsOf({ from, to, every });
    const lines: string[] = [];
    for (const [key, flow] of this.flows) {
      for (const direction of ['sent', 'received'] as const) {
        const own = this.grown.get(`${direction} ${key}`);
        const labels = Object.entries({ ...flow.labels, direction }).map(
          ([name, value]) => `${name}="${escaped(value)}"`,
        );
        for (let slot = 0; slot < slots; slot++) {
          flow[direction] += own?.[slot] ?? 0;
          const at = (from + (slot + 1) * every) / 1000;
          lines.push(`${LINK_METRICS.bytes}_total{${labels.join(',')}} ${Math.round(flow[direction])} ${at}`);
        }
      }
      yield;
    }
    this.grown.clear();
    return lines.length === 0
      ? '# EOF\n'
      : [`# TYPE ${LINK_METRICS.bytes} counter`, `# UNIT ${LINK_METRICS.bytes} bytes`, ...lines, '# EOF', ''].join(
          '\n',
        );
  }
  private flowAt(
    { from, to, port }: { readonly from: string; readonly to: string; readonly port: string },
    at: EpochMs,
    holderAt: HolderAt,
  ): string | null {
    const [caller, answerer] = [holderAt(from, at), holderAt(to, at)];
    if (!caller || !answerer || endKey(caller) === endKey(answerer)) return null;
    const key = JSON.stringify([endKey(caller), endKey(answerer), port]);
    if (!this.flows.has(key)) {
      if (this.flows.size >= MOST_WIRES) return null;
      this.flows.set(key, {
        labels: wireLabels(caller, answerer, port),
        sent: 0,
        received: 0,
      });
    }
    return key;
  }
}
const escaped = (text: string): string => text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n');
const slotsOf = ({ from, to, every }: PastStretch): number => Math.max(0, Math.floor((to - from) / every));
