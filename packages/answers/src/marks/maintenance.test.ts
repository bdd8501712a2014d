import { type InventoryObject, type ObjectVersion, readObject } from '@zetopsis/core/inventory';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { maintenanceOf } from './index.ts';

const LAST = 30;
const node = (name: string, closed: boolean, ready: boolean): InventoryObject =>
  readObject(
    'node',
    {
      metadata: { name, uid: `n-${name}`, creationTimestamp: '2026-11-01T00:00:00Z' },
      spec: closed ? { unschedulable: true } : {},
      status: { conditions: [{ type: 'Ready', status: ready ? 'True' : 'False' }] },
    },
    () => '',
  )!;
/** States one after the other: each holds until the next one. */
const states = fc.array(
  fc.record({ lasts: fc.integer({ min: 1, max: 9 }), closed: fc.boolean(), ready: fc.boolean(), there: fc.boolean() }),
  { maxLength: 6 },
);
function versionsOf(name: string, list: readonly { lasts: number; closed: boolean; ready: boolean; there: boolean }[]) {
  let at = 0;
  const versions: ObjectVersion[] = [];
  for (const [i, { lasts, closed, ready, there }] of list.entries()) {
    const to = i === list.length - 1 ? null : at + lasts;
    if (there) versions.push({ object: node(name, closed, ready), from: at, fromEarliest: at, to, toEarliest: to });
    at += lasts;
  }
  return versions;
}

describe('maintenance', () => {
  it('is when a node takes no new pods, one stretch whatever else changes meanwhile', () => {
    fc.assert(
      fc.property(states, states, fc.nat(LAST), fc.nat(LAST), (one, other, a, b) => {
        const [from, to] = [Math.min(a, b), Math.max(a, b)];
        const versions = [...versionsOf('a', one), ...versionsOf('b', other)];
        const found = maintenanceOf(versions, from, to);
        for (const name of ['a', 'b']) {
          const own = found.filter((span) => span.node === name);
          for (let at = from; at < to; at++) {
            const closed = versions.some(
              ({ object, from: since, to: until }) =>
                object.name === name &&
                object.kind === 'node' &&
                !object.acceptsPods &&
                since <= at &&
                (until === null || until > at),
            );
            expect([name, at, own.filter((span) => span.from <= at && span.to > at).length]).toEqual([
              name,
              at,
              Number(closed),
            ]);
          }
          // no two that touch
          for (const [i, span] of own.entries()) if (i > 0) expect(span.from).toBeGreaterThan(own[i - 1]!.to);
        }
        expect(found.every((span) => span.from >= from && span.to <= to)).toBe(true);
      }),
    );
  });
});
