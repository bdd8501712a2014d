import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  againstLevels,
  bySeverity,
  CLEAR,
  composeMessage,
  type MessageFacts,
  newestAt,
  onRuleEdited,
  type RuleEffect,
  type RuleState,
  stepRule,
  type Thresholds,
  textStrip,
  type Verdict,
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
  const samples = { times: [0, 15_000, 30_000], values: [95, 80, 95] };
  const at = (time: number) => newestAt(samples, time, 37_500)?.value ?? null;
  expect([at(10_000), at(20_000), at(30_000), at(70_000), at(-1)]).toEqual([95, 80, 95, null, null]);
});
it('a value is held against each level, and against where it is over', () => {
  const level = (bound: number) => ({ bound, low: null, holdsSeconds: 0, readings: null });
  const above = { levels: { warning: level(80), critical: level(90) }, clears: { bound: 70, low: null }, side: 'above' as const };
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
  const below: Thresholds = { levels: { warning: level(20), critical: null }, clears: { bound: null, low: null }, side: 'below' };
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
