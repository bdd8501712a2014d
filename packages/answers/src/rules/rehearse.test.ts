import { NONE, PARTIAL } from '@zetopsis/core/measures';
import { CLEAR, type RuleState, type RuleTimes, stepRule } from '@zetopsis/core/rules';
import { MINUTE } from '@zetopsis/core/units';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { MeasureCondition } from './measureLines.ts';
import { verdictsAt } from './measureLines.ts';
import { countRaised, rehearse } from './rehearse.ts';

const level = (bound: number, holdsSeconds = 0) => ({ bound, low: null, holdsSeconds, readings: null });
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
    clears: { bound: clears, low: null },
    side,
  },
});
const WHOLE = { open: null, troubles: [] };
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
    const { raised } = rehearse(every(8), [line(values)], { condition: condition(80, 90), times: NO_TIMES, ...WHOLE });
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
      ...WHOLE,
    });
    expect([raised.length, more]).toEqual([20_000, true]);
  });
  it('shows what other numbers would have come to, the one that is set among them', () => {
    const values = Array.from({ length: 200 }, (_, i) => (i % 20 === 0 ? 90 + (i % 60) / 10 : 40 + (i % 7)));
    const { curve } = rehearse(every(200), [line(values)], {
      condition: condition(80, null),
      times: NO_TIMES,
      ...WHOLE,
    });
    expect(curve.find(({ bound }) => bound === 80)).toMatchObject({ raised: 10 });
    expect(curve.map(({ bound }) => bound)).toEqual([...curve.map(({ bound }) => bound)].sort((a, b) => a - b));
    expect(curve.at(-1)!.raised).toBeLessThan(10);
    expect(
      rehearse(every(2), [line([1, 2])], {
        condition: { ...condition(1, null), compare: 'missing' },
        times: NO_TIMES,
        ...WHOLE,
      }).curve,
    ).toEqual([]);
  });
  it('tells how long before a trouble it was raised, and which it missed, at every number that is tried', () => {
    // the second is never near the number
    const lines = [line([10, 10, 85, 95, 95, 10, 10, 10]), line([10, 20, 10, 30, 10, 20, 10, 10])];
    const troubles = [
      { from: 4 * MINUTE, to: 6 * MINUTE, lines: [0] },
      { from: 4 * MINUTE, to: 6 * MINUTE, lines: [1] },
      { from: 4 * MINUTE, to: 6 * MINUTE, lines: [] },
    ];
    const { leads, curve } = rehearse(every(8), lines, {
      condition: condition(80, null),
      times: NO_TIMES,
      open: null,
      troubles,
    });
    expect(leads).toEqual([2 * MINUTE, null, null]);
    expect(curve.find(({ bound }) => bound === 80)!.missed).toBe(2);
    // whoever tells of less misses no less
    const missed = curve.map((point) => point.missed);
    expect(missed).toEqual([...missed].sort((a, b) => a - b));
    expect([missed[0], missed.at(-1)]).toEqual([1, 3]);
  });
  it('takes the numbers of an object where it has some of its own', () => {
    const { thresholds } = condition(20, null);
    const lines = [line([10, 50, 10]), { ...line([10, 50, 10]), thresholds }];
    const { raised } = rehearse(every(3), lines, { condition: condition(80, null), times: NO_TIMES, ...WHOLE });
    expect(raised.map((one) => one.line)).toEqual([1]);
  });
  it('knows what is outside of two numbers, and draws no curve of them', () => {
    const { thresholds, ...rest } = condition(80, null);
    const outside: MeasureCondition = {
      ...rest,
      compare: 'outside',
      thresholds: { ...thresholds, side: 'outside', levels: { warning: { ...level(80), low: 20 }, critical: null } },
    };
    const { raised, curve } = rehearse(every(7), [line([50, 90, 50, 10, 5, 15, 50])], {
      condition: outside,
      times: NO_TIMES,
      ...WHOLE,
    });
    expect([raised.map(({ most }) => most), curve]).toEqual([[90, 5], []]);
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
        fc.option(fc.array(fc.boolean(), { minLength: 60, maxLength: 60 })),
        set,
        (values, partial, hours, { bound, apart, side, times: own }) => {
          const { readings, ...rest } = own;
          const times: RuleTimes = readings === undefined ? rest : { ...rest, readings };
          const clears = apart === null ? null : side === 'above' ? bound - apart : bound + apart;
          const read = line(values, partial);
          const open = hours === null ? null : Uint8Array.from(hours, Number);
          const moments = every(values.length);
          let state: RuleState = CLEAR;
          let [raised, ms, begun] = [0, 0, 0];
          moments.forEach((at, i) => {
            const judged = hours === null || hours[i]!;
            const verdict = judged
              ? verdictsAt(read, i, condition(bound, null, clears, side)).warning
              : ({ is: 'breaks' } as const);
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
          expect(countRaised(moments, read, { bound, side, clears, times, open })).toEqual({ raised, ms });
          // and the whole rehearsal tells as many
          const whole = rehearse(moments, [read], {
            condition: condition(bound, null, clears, side),
            times: { warning: times },
            open,
            troubles: [],
          });
          expect(whole.raised).toHaveLength(raised);
        },
      ),
    );
  });
});
