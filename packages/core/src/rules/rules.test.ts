import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { END_MARKER } from '../samples/index.ts';
import {
  againstLevels,
  boundPast,
  bySeverity,
  CLEAR,
  composeMessage,
  type MessageFacts,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  type Side,
  stepRule,
  stillHolding,
  stricterOf,
  type Thresholds,
  textStrip,
  type Verdict,
  withOtherBounds,
} from './index.ts';

const times = { holds: 60_000, eases: 30_000 };
const HOLDS: Verdict = { is: 'holds' };
const BREAKS: Verdict = { is: 'breaks' };
const NO_DATA: Verdict = { is: 'noData' };
const GONE: Verdict = { is: 'gone' };

/** Verdicts every 10 s from time 0. */
function play(verdicts: readonly Verdict[], start: RuleState = CLEAR) {
  let state = start;
  const told: (RuleEffect & { step: number })[] = [];
  verdicts.forEach((verdict, i) => {
    const [next, effects] = stepRule({ state, verdict, at: i * 10_000, times });
    state = next;
    for (const effect of effects) told.push({ ...effect, step: i });
  });
  return { state, told };
}
const repeat = (verdict: Verdict, count: number) => Array<Verdict>(count).fill(verdict);

describe('the state machine', () => {
  it('raises after the hold time, clears after the clear time, and tells both once', () => {
    const { state, told } = play([...repeat(HOLDS, 10), ...repeat(BREAKS, 10)]);
    expect(told).toEqual([
      { tell: 'raised', at: 60_000, since: 0, step: 6 },
      { tell: 'cleared', at: 130_000, since: 0, step: 13 },
    ]);
    expect(state).toEqual(CLEAR);
  });
  it('a break while building starts the hold again', () => {
    expect(play([...repeat(HOLDS, 5), BREAKS, ...repeat(HOLDS, 6)]).told).toEqual([]);
  });
  it('no data while building starts the hold again when data return', () => {
    expect(play([...repeat(HOLDS, 5), NO_DATA, ...repeat(HOLDS, 7)]).told).toMatchObject([
      { tell: 'raised', since: 60_000 },
    ]);
  });
  it('raised stays raised without data, unseen since then, and is seen again', () => {
    const { state } = play([...repeat(HOLDS, 7), NO_DATA, NO_DATA]);
    expect(state).toMatchObject({ kind: 'raised', unseenSince: 70_000 });
    expect(play([...repeat(HOLDS, 7), NO_DATA, HOLDS]).state).toMatchObject({ unseenSince: null });
  });
  it('back from easing is told to nobody', () => {
    const { state, told } = play([...repeat(HOLDS, 7), BREAKS, HOLDS]);
    expect(state.kind).toBe('raised');
    expect(told).toHaveLength(1);
  });
  it('clear time does not run while unseen', () => {
    expect(play([...repeat(HOLDS, 7), BREAKS, ...repeat(NO_DATA, 10)]).told).toHaveLength(1);
  });
  it('an object that goes ends what was raised, told as such; what was building just goes', () => {
    expect(play([...repeat(HOLDS, 7), GONE]).told.at(-1)).toMatchObject({ tell: 'ended', why: 'object gone' });
    expect(play([...repeat(HOLDS, 7), BREAKS, GONE]).told.at(-1)).toMatchObject({ tell: 'ended' });
    expect(play([HOLDS, GONE])).toEqual({ state: CLEAR, told: [] });
  });
  it('an earlier beginning that the objects prove counts, a later one than now does not', () => {
    expect(stepRule({ state: CLEAR, verdict: { is: 'holds', since: 0 }, at: 3_000_000, times })[1]).toEqual([
      { tell: 'raised', at: 3_000_000, since: 0 },
    ]);
    expect(stepRule({ state: CLEAR, verdict: { is: 'holds', since: 9e9 }, at: 1000, times })[0]).toEqual({
      kind: 'building',
      since: 1000,
    });
  });
  it('hold 0 raises at once', () => {
    expect(stepRule({ state: CLEAR, verdict: HOLDS, at: 5, times: { holds: 0, eases: 0 } })[0].kind).toBe('raised');
  });
  it('whatever comes, raised and its end are told in turn', () => {
    const verdict = fc.constantFrom(HOLDS, HOLDS, BREAKS, NO_DATA, GONE);
    fc.assert(
      fc.property(fc.array(verdict, { maxLength: 120 }), (verdicts) => {
        const { state, told } = play(verdicts);
        told.forEach((effect, i) => {
          expect(effect.tell === 'raised').toBe(i % 2 === 0);
        });
        expect(told.length % 2 === 1).toBe(state.kind === 'raised' || state.kind === 'easing');
      }),
    );
  });
  it('an edit restarts holds and closes what is not matched any more', () => {
    const raised = play(repeat(HOLDS, 7)).state;
    expect(onRuleEdited({ kind: 'building', since: 0 }, true, 9)).toEqual([CLEAR, []]);
    expect(onRuleEdited(raised, true, 9)).toEqual([raised, []]);
    expect(onRuleEdited(raised, false, 9)).toEqual([CLEAR, [{ tell: 'ended', at: 9, since: 0, why: 'rule changed' }]]);
  });
});

it('a container’s memory is what was read last and still holds', () => {
  const at = (newest: number | null, time: number) =>
    stillHolding(newest === null ? null : { value: newest, at: 30_000 }, time, 37_500)?.value ?? null;
  expect([
    at(95, 30_000),
    at(95, 67_500),
    at(95, 67_501),
    at(Number.NaN, 30_000),
    at(END_MARKER, 30_000),
    at(null, 0),
  ]).toEqual([95, 95, null, null, null, null]);
});
it('a value is held against each level, and against where it is over', () => {
  const level = (bound: number) => ({ bound, low: null, holdsSeconds: 0, readings: null });
  const above = {
    levels: { warning: level(80), critical: level(90) },
    clears: { bound: 70, low: null },
    side: 'above' as const,
  };
  const is = (value: number | null, thresholds: Thresholds) => {
    const { warning, critical } = againstLevels(value, thresholds);
    return [warning.is, critical.is];
  };
  expect([95, 90, 85, 80, 75, 70, null].map((value) => is(value, above))).toEqual([
    ['holds', 'holds'],
    ['holds', 'between'],
    ['holds', 'between'],
    ['between', 'between'],
    ['between', 'between'],
    ['breaks', 'breaks'],
    ['noData', 'noData'],
  ]);
  const below: Thresholds = {
    levels: { warning: level(20), critical: null },
    clears: { bound: null, low: null },
    side: 'below',
  };
  expect([is(10, below), is(20, below)]).toEqual([
    ['holds', 'breaks'],
    ['breaks', 'breaks'],
  ]);
});
it('what is found holds on the levels up to its severity', () => {
  expect(bySeverity('critical', 5)).toEqual({
    warning: { is: 'holds', since: 5 },
    critical: { is: 'holds', since: 5 },
  });
  expect(bySeverity('warning', null)).toEqual({ warning: { is: 'holds' }, critical: { is: 'breaks' } });
  expect(bySeverity(null, null).warning.is).toBe('breaks');
});

describe('messages', () => {
  const facts: MessageFacts = {
    change: 'raised',
    severity: 'critical',
    title: 'tide-model <b>uses</b>\r\nBcc: x@y.test 91 %',
    place: ['seaward', 'tides'],
    rule: 'memory',
    at: 1_795_572_000_000,
    since: 1_795_571_000_000,
    value: '1.86 GiB',
    limit: '2.00 GiB',
    share: 0.93,
    by: null,
    reason: 'It climbs.',
    evidence: 'e',
    changed: null,
    runbook: '',
    links: [],
    nextStep: 'Look.',
    team: 'Tides',
    link: 'http://z.test/usage?a=1&b=2',
    zone: 'UTC',
  };
  it('say what, where, since, value, limit, reason, what to try, whose, and a link', () => {
    const { text } = composeMessage(facts);
    for (const part of [
      'seaward › tides',
      'UTC (17 min)',
      '1.86 GiB',
      '2.00 GiB',
      'It climbs.',
      'Look.',
      'Tides',
      facts.link,
    ])
      expect(text).toContain(part);
  });
  it('say of what is clear again how it stands now, beside how it stood then', () => {
    const { text, subject } = composeMessage({ ...facts, change: 'cleared', by: { value: '0.40 GiB', share: 0.2 } });
    expect(subject).toMatch(/^Clear again: /);
    expect(text).toMatch(/Value now +0\.40 GiB/);
    expect(text).toMatch(/Value then +1\.86 GiB/);
    expect(text).toContain(textStrip(0.2));
    // what is gone has no value any more
    const gone = composeMessage({ ...facts, change: 'ended' }).text;
    expect(gone).not.toMatch(/Value now/);
    expect(gone).toMatch(/Value then +1\.86 GiB/);
  });
  it('let nothing of a name through into headers or markup', () => {
    const { subject, html } = composeMessage(facts);
    expect(subject).not.toMatch(/[\r\n]/);
    expect(html).not.toContain('<b>uses');
    expect(html).toContain('&lt;b&gt;uses');
  });
  it('a strip is as long as its limit and breaks out when over', () => {
    expect(textStrip(0)).toHaveLength(textStrip(1).length);
    expect(textStrip(0.5)).toContain('████████████████─');
    expect(textStrip(1.2)).toMatch(/┤▶$/);
  });
});

describe('numbers of some objects', () => {
  const level = (bound: number) => ({ bound, low: null, holdsSeconds: 0, readings: null });
  const rule = (side: Side): Thresholds => ({
    side,
    levels: { warning: level(side === 'below' ? 20 : 80), critical: level(side === 'below' ? 10 : 90) },
    clears: { bound: side === 'below' ? 30 : 70, low: null },
  });
  it('take the place of the rule’s own, where they are given, and add no level', () => {
    const other = withOtherBounds(rule('above'), { warning: 75, critical: null, clears: 60 });
    expect([other.levels.warning!.bound, other.levels.critical!.bound, other.clears.bound]).toEqual([75, 90, 60]);
    const single: Thresholds = { ...rule('above'), levels: { warning: level(80), critical: null } };
    expect(withOtherBounds(single, { warning: null, critical: 85, clears: null }).levels.critical).toBeNull();
  });
  it('that a team asks for never let anything pass that the rule would tell', () => {
    const asked = fc.option(fc.integer({ min: 0, max: 100 }));
    fc.assert(
      fc.property(
        fc.constantFrom<Side>('above', 'below'),
        asked,
        asked,
        fc.integer({ min: 0, max: 100 }),
        (side, warning, critical, value) => {
          const [before, after] = [rule(side), stricterOf(rule(side), { warning, critical })].map((of) =>
            againstLevels(value, of),
          );
          for (const of of ['warning', 'critical'] as const) {
            if (before![of].is === 'holds') expect(after![of].is).toBe('holds');
            if (before![of].is === 'between') expect(after![of].is).not.toBe('breaks');
          }
        },
      ),
    );
  });
  it('outside of two, hold on both sides and are over between those at which it clears', () => {
    const outside: Thresholds = {
      side: 'outside',
      levels: { warning: { ...level(80), low: 20 }, critical: { ...level(90), low: 10 } },
      clears: { bound: 70, low: 30 },
    };
    const is = (value: number) => {
      const { warning, critical } = againstLevels(value, outside);
      return [warning.is, critical.is];
    };
    expect([95, 85, 75, 50, 25, 15, 5].map(is)).toEqual([
      ['holds', 'holds'],
      ['holds', 'between'],
      ['between', 'between'],
      ['breaks', 'breaks'],
      ['between', 'between'],
      ['holds', 'between'],
      ['holds', 'holds'],
    ]);
    expect([95, 85, 5].map((value) => boundPast(value, outside)?.bound)).toEqual([90, 80, 90]);
  });
});
