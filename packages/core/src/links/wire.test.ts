import { describe, expect, it } from 'vitest';
import type { LinkEnd } from './link.ts';
import { KEPT_FOR } from './totals.ts';
import { type CountedFlow, MOST_WIRES, WireTotals } from './wire.ts';

const end = (name: string): LinkEnd => ({ cluster: 'landward', namespace: 'quay', workload: `deployment:${name}` });
const flow = (from: string, to: string, sent: number, more: Partial<CountedFlow> = {}): CountedFlow => ({
  from: end(from),
  to: end(to),
  port: '8080',
  sent,
  received: sent / 2,
  uncertain: 0,
  connections: 2,
  ...more,
});
const told = (totals: WireTotals, name: string) =>
  new Map(
    [...(totals.families().find((family) => family.name === name)?.samples ?? [])].map(({ labels, value }) => [
      `${labels?.['from_workload']} ${labels?.['to_workload']} ${labels?.['port']} ${labels?.['direction'] ?? ''}`.trim(),
      value,
    ]),
  );

describe('what goes over the network', () => {
  it('is counted by pair, port and direction, several pods as one', () => {
    const totals = new WireTotals();
    totals.add([flow('a', 'b', 100), flow('a', 'b', 50), flow('a', 'b', 7, { port: '9090' })]);
    totals.add([flow('a', 'b', 10)]);
    expect(told(totals, 'link_bytes')).toEqual(
      new Map([
        ['deployment:a deployment:b 8080 sent', 160],
        ['deployment:a deployment:b 8080 received', 80],
        ['deployment:a deployment:b 9090 sent', 7],
        ['deployment:a deployment:b 9090 received', 3.5],
      ]),
    );
  });
  it('has as many connections as are open now, none where nothing is told any more', () => {
    const totals = new WireTotals();
    totals.add([flow('a', 'b', 1), flow('a', 'b', 1), flow('b', 'c', 1)]);
    totals.add([flow('a', 'b', 1)]);
    expect([...told(totals, 'link_connections').values()]).toEqual([2, 0]);
  });
  it('is bounded, and says what was left out', () => {
    const totals = new WireTotals();
    totals.add(Array.from({ length: MOST_WIRES + 5 }, (_, i) => flow(`a${i}`, 'b', 1)));
    expect([totals.size, totals.left]).toEqual([MOST_WIRES, 5]);
    expect(new WireTotals().families()).toEqual([]);
  });
  it('leaves its place to others after a day without anything, and begins anew', () => {
    const totals = new WireTotals();
    totals.add(Array.from({ length: MOST_WIRES }, (_, i) => flow(`a${i}`, 'b', 1)));
    const still = flow('a0', 'b', 0, { received: 0, connections: 1 });
    for (let minute = 0; minute <= KEPT_FOR / 60_000; minute++) totals.add([still]);
    expect(totals.size).toBe(1);
    totals.add([flow('new', 'b', 5), flow('a1', 'b', 7)]);
    expect(told(totals, 'link_bytes').get('deployment:a1 deployment:b 8080 sent')).toBe(7);
    expect([totals.size, totals.left]).toEqual([3, 0]);
  });
});
