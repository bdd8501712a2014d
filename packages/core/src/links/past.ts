import type { Samples } from '../samples/index.ts';
import { type DurationMs, type EpochMs, MINUTE } from '../units/index.ts';
import { endKey, type LinkEnd } from './link.ts';
import { MOST_WIRES, wireLabels } from './wire.ts';
import { COUNTED_BY, LINK_METRICS } from './wire-names.ts';

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
/** Bytes of links over a past that is brought in, stretch by stretch from its beginning on: as they would have been told then. */
export class PastWires {
  private readonly flows = new Map<string, Flow>();
  /** `by`: who counted it. Pasts of several are brought in one by one, and stand beside each other. */
  constructor(private readonly by: string) {}

  /**
   * A page of what had gone over each link by each of some moments, so far apart, after `from` and up to `to`. `holderAt`: who had an
   * address at a moment; null: nobody. Some series at a time; the page is OpenMetrics text.
   */
  *pageBySteps(
    counted: readonly CountedPast[],
    {
      from,
      to,
      every,
      holderAt,
    }: {
      readonly from: EpochMs;
      readonly to: EpochMs;
      readonly every: DurationMs;
      readonly holderAt: (address: string, moment: EpochMs) => LinkEnd | null;
    },
  ): Generator<void, string> {
    const slots = Math.max(0, Math.floor((to - from) / every));
    const grown = new Map<string, Float64Array>();
    for (const { samples, back, ...pair } of counted) {
      for (let i = 1; i < samples.times.length; i++) {
        const [at, before] = [samples.times[i]!, samples.times[i - 1]!];
        const [value, was] = [samples.values[i]!, samples.values[i - 1]!];
        const slot = Math.ceil((at - from) / every) - 1;
        if (slot < 0 || slot >= slots || at - before > LONGEST_PAUSE || !(value >= 0) || !(was >= 0)) continue;
        const key = this.flowAt(pair, at, holderAt);
        if (key === null) continue;
        const way = `${back ? 'received' : 'sent'} ${key}`;
        const own = grown.get(way) ?? new Float64Array(slots);
        grown.set(way, own);
        own[slot]! += value >= was ? value - was : value;
      }
      yield;
    }
    const lines: string[] = [];
    for (const [key, flow] of this.flows) {
      for (const direction of ['sent', 'received'] as const) {
        const own = grown.get(`${direction} ${key}`);
        const labels = Object.entries({ ...flow.labels, direction }).map(
          ([name, value]) => `${name}="${escaped(value)}"`,
        );
        for (let slot = 0; slot < slots; slot++) {
          flow[direction] += own?.[slot] ?? 0;
          const at = (from + (slot + 1) * every) / 1000;
          lines.push(`${LINK_METRICS.bytes}_total{${labels.join(',')}} ${flow[direction]} ${at}`);
        }
      }
      yield;
    }
    return lines.length === 0
      ? '# EOF\n'
      : [`# TYPE ${LINK_METRICS.bytes} counter`, `# UNIT ${LINK_METRICS.bytes} bytes`, ...lines, '# EOF', ''].join(
          '\n',
        );
  }
  private flowAt(
    { from, to, port }: { readonly from: string; readonly to: string; readonly port: string },
    at: EpochMs,
    holderAt: (address: string, moment: EpochMs) => LinkEnd | null,
  ): string | null {
    const [caller, answerer] = [holderAt(from, at), holderAt(to, at)];
    if (!caller || !answerer || endKey(caller) === endKey(answerer)) return null;
    const key = JSON.stringify([endKey(caller), endKey(answerer), port]);
    if (!this.flows.has(key)) {
      if (this.flows.size >= MOST_WIRES) return null;
      this.flows.set(key, {
        labels: { ...wireLabels(caller, answerer, port), [COUNTED_BY]: this.by },
        sent: 0,
        received: 0,
      });
    }
    return key;
  }
}
const escaped = (text: string): string => text.replaceAll('\\', '\\\\').replaceAll('"', '\\"').replaceAll('\n', '\\n');
