import { EVERYTHING, type RunningOutLine, readPath } from '@zetopsis/contract';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { concerns, inTime, mayTell } from './index.ts';

const line = (path: string[], outcome: object = { is: 'later' }, use: number | null = 1) =>
  ({ path, what: 'volume', use, limit: 2, outcome }) as RunningOutLine;

describe('what runs out', () => {
  it('is soonest first; what does not, by how near it is', () => {
    const outcome = fc.oneof(
      fc.constant({ is: 'now' }),
      fc.nat(1000).map((at) => ({ is: 'date', at })),
      fc.constant({ is: 'later' }),
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(outcome, fc.nat(9)), { maxLength: 20 }), (all) => {
        const lines = inTime(all.map(([when, use]) => line(['c'], when, use)));
        const moments = lines.map(({ outcome: { is, ...when } }) =>
          is === 'now' ? 0 : is === 'date' ? (when as { at: number }).at : Number.POSITIVE_INFINITY,
        );
        for (let i = 1; i < lines.length; i++) {
          expect(moments[i - 1]).toBeLessThanOrEqual(moments[i]!);
          if (moments[i - 1] === moments[i]) expect(lines[i - 1]!.use).toBeGreaterThanOrEqual(lines[i]!.use!);
        }
      }),
    );
  });
  it('of a namespace is for those who see it; what all share is for all', () => {
    const nobody = () => false;
    expect(mayTell(line(['seaward']), nobody)).toBe(true);
    expect(mayTell(line(['seaward', 'node:seaward-01']), nobody)).toBe(true);
    expect(mayTell(line(['seaward', 'tides', 'quota:all']), nobody)).toBe(false);
    expect(mayTell(line(['seaward', 'tides', 'quota:all']), (namespace) => namespace === 'tides')).toBe(true);
    expect(mayTell(line(['seaward', 'odd:space', 'quota:all']), () => true)).toBe(false);
  });
  it('concerns an object when it lies in it', () => {
    const quota = line(['seaward', 'tides', 'quota:all']);
    expect(concerns(quota, EVERYTHING)).toBe(true);
    expect(concerns(quota, readPath(['seaward', 'tides'])!)).toBe(true);
    expect(concerns(quota, readPath(['seaward', 'ticketing'])!)).toBe(false);
    expect(concerns(quota, readPath(['seaward', 'tides', 'quota:other'])!)).toBe(false);
  });
});
