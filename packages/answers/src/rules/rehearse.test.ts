import { NONE, PARTIAL } from '@zetopsis/core/measures';
import { CLEAR, type RuleState, type RuleTimes, stepRule } from '@zetopsis/core/rules';
import { MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { MeasureCondition } from './measureLines.ts';
import { verdictsAt } from './measureLines.ts';
import { countRaised, rehearse } from './rehearse.ts';

const level = (bound: number, holdsSeconds = 0) => ({ bound, holdsSeconds, readings: null });
const condition = (
  warning: number | null,
  critical: number | null,
  clears: number | null = null,
  side: 'above' | 'below' = 'above',
): MeasureCondition => ({
  compare: side,
  rule: 'tide too high',
  thresholds: {
    levels: { warning: warning === null ? null : level(warning), critical: critical === null ? null : level(critical) },
    clears,
    side,
  },
});
const NO_TIMES = { warning: { holds: 0, eases: 0 }, critical: { holds: 0, eases: 0 } };
/** Null: not read; marks as measures have them. */
const line = (values: readonly (number | null)[], partial: readonly number[] = []) => ({
  labels: { quay: 'north' },
  name: null,
  values: values.map((value) => value ?? Number.NaN),
  marks: Uint8Array.from(values, (value, i) => (value === null ? NONE : partial.includes(i) ? PARTIAL : 0)),
});
const every = (count: number) => Array.from({ length: count }, (_, i) => i * MINUTE);

describe('a rehearsal', () => {
  it('says when, how gravely, how far and until when', () => {
    const values = [10, 85, 95, 88, 60, 10, 91, 91];
    const { raised } = rehearse(every(8), [line(values)], { condition: condition(80, 90), times: NO_TIMES });
    expect(raised).toEqual([
      {
        line: 0,
        severity: 'critical',
        since: MINUTE,
        raisedAt: MINUTE,
        endedAt: 4 * MINUTE,
        most: 95,
        toldAt: [1, 2, 4].map((n) => n * MINUTE),
      },
      {
        line: 0,
        severity: 'critical',
        since: 6 * MINUTE,
        raisedAt: 6 * MINUTE,
        endedAt: null,
        most: 91,
        toldAt: [6 * MINUTE],
      },
    ]);
  });
  it('looks at twenty thousand alerts at most', () => {
    const values = Array.from({ length: 50_000 }, (_, i) => (i % 2 === 0 ? 100 : 0));
    const { raised, more } = rehearse(every(50_000), [line(values)], {
      condition: condition(80, null),
      times: NO_TIMES,
    });
    expect([raised.length, more]).toEqual([20_000, true]);
  });
  it('shows what other numbers would have come to, the one that is set among them', () => {
    const values = Array.from({ length: 200 }, (_, i) => (i % 20 === 0 ? 90 + (i % 60) / 10 : 40 + (i % 7)));
    const { curve } = rehearse(every(200), [line(values)], { condition: condition(80, null), times: NO_TIMES });
    expect(curve.find(({ bound }) => bound === 80)).toMatchObject({ raised: 10 });
    expect(curve.map(({ bound }) => bound)).toEqual([...curve.map(({ bound }) => bound)].sort((a, b) => a - b));
    expect(curve.at(-1)!.raised).toBeLessThan(10);
    expect(
      rehearse(every(2), [line([1, 2])], { condition: { ...condition(1, null), compare: 'missing' }, times: NO_TIMES })
        .curve,
    ).toEqual([]);
  });
  it('counts as the machine that judges does, whatever was read', () => {
    const value = fc.oneof(fc.integer({ min: 0, max: 100 }), fc.constant(null));
    const set = fc.record({
      bound: fc.integer({ min: 20, max: 80 }),
      apart: fc.option(fc.integer({ min: 0, max: 30 })),
      side: fc.constantFrom('above' as const, 'below' as const),
      times: fc.record({
        holds: fc.integer({ min: 0, max: 4 }).map((n) => n * MINUTE),
        eases: fc.integer({ min: 0, max: 4 }).map((n) => n * MINUTE),
        readings: fc.option(fc.integer({ min: 1, max: 4 }), { nil: undefined }),
      }),
    });
    fc.assert(
      fc.property(
        fc.array(value, { maxLength: 60 }),
        fc.array(fc.nat(59)),
        set,
        (values, partial, { bound, apart, side, times: own }) => {
          const { readings, ...rest } = own;
          const times: RuleTimes = readings === undefined ? rest : { ...rest, readings };
          const clears = apart === null ? null : side === 'above' ? bound - apart : bound + apart;
          const read = line(values, partial);
          const moments = every(values.length);
          let state: RuleState = CLEAR;
          let [raised, ms, begun] = [0, 0, 0];
          moments.forEach((at, i) => {
            const verdict = verdictsAt(read, i, condition(bound, null, clears, side)).warning;
            const [next, effects] = stepRule({ state, verdict, at, times });
            state = next;
            for (const { tell } of effects) {
              if (tell === 'raised') {
                raised++;
                begun = at;
              } else ms += at - begun;
            }
          });
          if (state.kind === 'raised' || state.kind === 'easing') ms += moments.at(-1)! - begun;
          expect(countRaised(moments, read, { bound, side, clears, times })).toEqual({ raised, ms });
          // and the whole rehearsal tells as many
          const whole = rehearse(moments, [read], {
            condition: condition(bound, null, clears, side),
            times: { warning: times },
          });
          expect(whole.raised).toHaveLength(raised);
        },
      ),
    );
  });
});
