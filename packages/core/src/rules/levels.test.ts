import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Severity } from '../findings/index.ts';
import {
  ALL_CLEAR,
  bothLevels,
  isAllClear,
  type LevelEffect,
  type LevelStates,
  type LevelTimes,
  type LevelVerdicts,
  onLevelsEdited,
  RULE_LEVELS,
  stepLevels,
  stepRule,
  type Verdict,
  worstRaised,
} from './index.ts';

const STEP = 10_000;
const HOLDS: Verdict = { is: 'holds' };
const BREAKS: Verdict = { is: 'breaks' };
const TIMES: LevelTimes = { warning: { holds: 60_000, eases: 30_000 }, critical: { holds: 20_000, eases: 30_000 } };
/** What a value says against 80 and 90, with a clear level of 70. */
const at = (value: number | null): LevelVerdicts => {
  if (value === null) return bothLevels({ is: 'noData' });
  const against = (bound: number): Verdict => (value > bound ? HOLDS : value > 70 ? { is: 'between' } : BREAKS);
  return { warning: against(80), critical: against(90) };
};
function play(values: readonly LevelVerdicts[], times = TIMES, start: LevelStates = ALL_CLEAR) {
  let states = start;
  const told: (LevelEffect & { step: number })[] = [];
  values.forEach((verdicts, i) => {
    const [next, effects] = stepLevels({ states, verdicts, at: i * STEP, times });
    states = next;
    for (const effect of effects) told.push({ ...effect, step: i });
  });
  return { states, told };
}
const repeat = (value: number | null, count: number) => Array<LevelVerdicts>(count).fill(at(value));

describe('two levels of one rule', () => {
  it('are told as one: raised as a warning, worse, and clear with the last', () => {
    const { told, states } = play([...repeat(85, 8), ...repeat(95, 4), ...repeat(60, 5)]);
    expect(told).toEqual([
      { tell: 'raised', severity: 'warning', at: 60_000, since: 0, step: 6 },
      { tell: 'worse', at: 100_000, since: 80_000, step: 10 },
      { tell: 'cleared', at: 150_000, since: 0, step: 15 },
    ]);
    expect(isAllClear(states)).toBe(true);
  });
  it('raised as critical first where that holds sooner; the warning that follows is told to nobody', () => {
    expect(play(repeat(95, 10)).told).toEqual([
      { tell: 'raised', severity: 'critical', at: 20_000, since: 0, step: 2 },
    ]);
  });
  it('what stays past the clear level stays raised, however long', () => {
    const { told } = play([...repeat(85, 7), ...repeat(75, 50), ...repeat(65, 4)]);
    expect(told.map(({ tell, step }) => [tell, step])).toEqual([
      ['raised', 6],
      ['cleared', 60],
    ]);
  });
  it('back to a warning is told by itself to nobody', () => {
    const back: LevelVerdicts = { warning: HOLDS, critical: BREAKS };
    const { told, states } = play([...repeat(95, 8), ...Array<LevelVerdicts>(4).fill(back)]);
    expect(told.map(({ tell }) => tell)).toEqual(['raised', 'lighter']);
    expect(worstRaised(states)).toBe('warning');
  });
  it('an object that goes ends both, told once', () => {
    const { told } = play([...repeat(95, 8), bothLevels({ is: 'gone' })]);
    expect(told.at(-1)).toMatchObject({ tell: 'ended', why: 'object gone', since: 0 });
    expect(told.filter(({ tell }) => tell === 'ended')).toHaveLength(1);
  });
  it('a level that the rule loses ends without a word where the other is raised', () => {
    const both = play(repeat(95, 8)).states;
    const edit = (times: LevelTimes, stillMatched = true) =>
      onLevelsEdited({ states: both, times, stillMatched, at: 99 });
    expect(edit({ warning: TIMES.warning! })[1]).toEqual([{ tell: 'lighter', at: 99, since: 0 }]);
    expect(edit({ critical: TIMES.critical! })[1]).toEqual([]);
    expect(edit({})[1]).toEqual([{ tell: 'ended', at: 99, since: 0, why: 'rule changed' }]);
    expect(edit(TIMES, false)[1]).toMatchObject([{ tell: 'ended', why: 'rule changed' }]);
  });
});

/** A second implementation, by looking back over everything that was seen: what is raised at a moment, of one level. */
function raisedBySight(verdicts: readonly Verdict[], holds: number, eases: number): boolean[] {
  let raised = false;
  return verdicts.map((verdict, i) => {
    const back = (fits: (one: Verdict) => boolean) => {
      let count = 0;
      while (count <= i && fits(verdicts[i - count]!)) count++;
      return count;
    };
    if (verdict.is === 'gone') raised = false;
    else if (!raised && verdict.is === 'holds') raised = (back(({ is }) => is === 'holds') - 1) * STEP >= holds;
    else if (raised && verdict.is === 'breaks') raised = (back(({ is }) => is === 'breaks') - 1) * STEP < eases;
    return raised;
  });
}

describe('whatever is seen', () => {
  const verdict = fc.oneof(
    { weight: 5, arbitrary: fc.constant(HOLDS) },
    { weight: 4, arbitrary: fc.constant(BREAKS) },
    fc.constantFrom<Verdict>({ is: 'noData' }, { is: 'between' }, { is: 'gone' }),
  );
  const times = fc.record({
    holds: fc.integer({ min: 0, max: 5 }).map((n) => n * STEP),
    eases: fc.integer({ min: 0, max: 5 }).map((n) => n * STEP),
  });
  const history = fc.array(fc.record({ warning: verdict, critical: verdict }), { maxLength: 80 });

  it('each level is raised when looking back over everything says so', () => {
    fc.assert(
      fc.property(history, times, times, (seen, warning, critical) => {
        const own: LevelTimes = { warning, critical };
        const expected = {
          warning: raisedBySight(
            seen.map((one) => one.warning),
            warning.holds,
            warning.eases,
          ),
          critical: raisedBySight(
            seen.map((one) => one.critical),
            critical.holds,
            critical.eases,
          ),
        };
        let states = ALL_CLEAR;
        seen.forEach((verdicts, i) => {
          [states] = stepLevels({ states, verdicts, at: i * STEP, times: own });
          const worst: Severity | null = expected.critical[i] ? 'critical' : expected.warning[i] ? 'warning' : null;
          expect(worstRaised(states)).toBe(worst);
        });
      }),
    );
  });
  it('a listener knows from what is told what is raised, and how gravely', () => {
    fc.assert(
      fc.property(history, times, times, (seen, warning, critical) => {
        let states = ALL_CLEAR;
        let known: Severity | null = null;
        seen.forEach((verdicts, i) => {
          const [next, effects] = stepLevels({ states, verdicts, at: i * STEP, times: { warning, critical } });
          states = next;
          for (const effect of effects) {
            if (effect.tell === 'raised') {
              expect(known).toBeNull();
              known = effect.severity;
            } else if (effect.tell === 'worse') {
              expect(known).toBe('warning');
              known = 'critical';
            } else if (effect.tell === 'lighter') {
              expect(known).toBe('critical');
              known = 'warning';
            } else {
              expect(known).not.toBeNull();
              known = null;
            }
          }
          expect(known).toBe(worstRaised(states));
        });
      }),
    );
  });
  it('stopping and going on from what was kept changes nothing', () => {
    fc.assert(
      fc.property(history, times, times, (seen, warning, critical) => {
        const own: LevelTimes = { warning, critical };
        const whole = play(seen, own);
        let states = ALL_CLEAR;
        const told: unknown[] = [];
        seen.forEach((verdicts, i) => {
          // kept as JSON, and read back
          const kept = JSON.parse(JSON.stringify(states)) as LevelStates;
          const [next, effects] = stepLevels({ states: kept, verdicts, at: i * STEP, times: own });
          states = next;
          for (const effect of effects) told.push({ ...effect, step: i });
        });
        expect(told).toEqual(whole.told);
        expect(states).toEqual(whole.states);
      }),
    );
  });
  it('a level that the rule does not have is never raised', () => {
    fc.assert(
      fc.property(history, times, fc.constantFrom(...RULE_LEVELS), (seen, own, level) => {
        const { told } = play(seen, { [level]: own });
        for (const effect of told) if (effect.tell === 'raised') expect(effect.severity).toBe(level);
        expect(told.some(({ tell }) => tell === 'worse' || tell === 'lighter')).toBe(false);
      }),
    );
  });
});

describe('readings in a row', () => {
  const three = { holds: 0, readings: 3, eases: 0 };
  const raisedAfter = (verdicts: readonly Verdict[]): number => {
    let state = ALL_CLEAR.warning;
    return verdicts.findIndex((verdict, i) => {
      [state] = stepRule({ state, verdict, at: i * STEP, times: three });
      return state.kind === 'raised';
    });
  };
  it('each is counted once, however often it is judged', () => {
    const read = (reading: number): Verdict => ({ is: 'holds', reading });
    expect(raisedAfter([read(1), read(1), read(1), read(2), read(2), read(3)])).toBe(5);
  });
  it('one of which a part is missing does not count, nor does it break the row', () => {
    expect(raisedAfter([HOLDS, { is: 'holds', partial: true }, HOLDS, HOLDS])).toBe(3);
    expect(raisedAfter([HOLDS, HOLDS, BREAKS, HOLDS, HOLDS, HOLDS])).toBe(5);
  });
});
