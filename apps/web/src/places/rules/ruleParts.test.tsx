import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { DeliveryAnswer, RuleAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { builtRule } from './builtRule.ts';
import { Deliveries } from './Deliveries.tsx';
import { Late } from './Late.tsx';
import { RehearsalPanel } from './RehearsalPanel.tsx';
import { EMPTY_DRAFT, NO_LEVEL, type RuleDraft } from './ruleDraft.ts';
import { documentOf } from './ruleOfDraft.ts';
import { Stricter } from './Stricter.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const TEAMS = [{ key: 'tides', name: 'Tides' }];
const textIn = (label: string) => (screen.getByLabelText(label) as HTMLInputElement).value; // an input by its label
const type = (label: string, value: string) => fireEvent.change(screen.getByLabelText(label), { target: { value } });

describe('stricter numbers of a team', () => {
  const rule = (document: object, more: Partial<RuleAnswer> = {}) => builtRule(document, { mayChange: false, ...more });
  const open = () => fireEvent.click(screen.getByRole('button', { name: 'make it stricter for a team' }));
  const save = () => fireEvent.click(screen.getByRole('button', { name: 'Save' }));
  it('are written in what the rule is written in, and shown', async () => {
    const asked = serveAnswers({ 'PUT /api/rules/m/stricter': () => ({ status: 204, body: null }) });
    const memory = rule({
      when: { is: 'container memory' },
      levels: { warning: { bound: 0.9 } },
      stricter: { quay: { warning: 0.85, critical: null } },
    });
    drawAt('/rules', <Stricter rule={memory} teams={TEAMS} />);
    expect(screen.getByRole('region', { name: 'stricter numbers' }).textContent).toContain('quay warning at 85 %');
    open();
    expect((screen.getByLabelText('critical, %') as HTMLInputElement).disabled).toBe(true);
    type('warning, %', 'eighty');
    save();
    expect((await screen.findByRole('alert')).textContent).toBe('this is not a number');
    expect(asked).toEqual([]);
    type('warning, %', '80,5 %');
    save();
    await waitFor(() => expect(screen.queryByRole('form')).toBeNull());
    expect(asked[0]?.body).toEqual({ team: 'tides', warning: 0.805, critical: null });
  });
  it('of what runs out are times', async () => {
    const asked = serveAnswers({ 'PUT /api/rules/m/stricter': () => ({ status: 204, body: null }) });
    const full = rule(
      { when: { is: 'running out', text: 'read disk_share' }, levels: { critical: { bound: 86_400 } } },
      { shownAs: null },
    );
    drawAt('/rules', <Stricter rule={full} teams={TEAMS} />);
    open();
    expect(screen.getByLabelText('critical').getAttribute('placeholder')).toBe('now 1 d');
    type('critical', '48');
    save();
    expect((await screen.findByRole('alert')).textContent).toContain('write such as');
    type('critical', '48 h');
    save();
    await waitFor(() => expect(asked[0]?.body).toEqual({ team: 'tides', warning: null, critical: 172_800 }));
  });
  it('that are looser are refused at their field, and nothing is lost', async () => {
    serveAnswers({
      'PUT /api/rules/m/stricter': () => ({
        status: 400,
        body: {
          code: 'invalid',
          text: 'A team may make a rule of the platform stricter for itself, not looser.',
          fields: [{ path: 'warning', text: 'this is looser than the rule' }],
        },
      }),
    });
    drawAt(
      '/rules',
      <Stricter rule={rule({ when: { is: 'container memory' }, levels: { warning: { bound: 0.9 } } })} teams={TEAMS} />,
    );
    open();
    type('warning, %', '95');
    save();
    expect(await screen.findByText('this is looser than the rule')).toBeTruthy();
    expect(screen.getByText(/not looser/)).toBeTruthy();
    expect(textIn('warning, %')).toBe('95');
  });
  it('are for what compares with one number, of the platform', () => {
    serveAnswers({});
    const none = [
      rule({ when: { is: 'fewer ready' }, levels: { warning: {} } }),
      rule({ team: 'tides', when: { is: 'container memory' }, levels: { warning: { bound: 0.9 } } }),
      rule({
        when: { is: 'measure', text: 'read a', compare: 'outside' },
        levels: { warning: { low: 1, bound: 2 } },
      }),
    ];
    drawAt(
      '/rules',
      <main>
        {none.map((one) => (
          <Stricter key={one.document.when.is} rule={one} teams={TEAMS} />
        ))}
      </main>,
    );
    expect(screen.queryByRole('region')).toBeNull();
  });
});

describe('late data', () => {
  const alert = { path: ['seaward', 'tides', 'deployment:gauge-reader'], severity: 'warning', since: NOW - 9e6 };
  it('tell what they would have changed', async () => {
    serveAnswers({
      'GET /api/rules/m/late': {
        from: NOW - 8.64e7,
        to: NOW,
        same: 3,
        wouldHave: [{ ...alert, name: 'gauge-reader', endedAt: NOW - 5.4e6 }],
        wouldNotHave: [{ ...alert, title: 'gauge-reader is wet', endedAt: null }],
      },
    });
    drawAt('/rules', <Late ruleKey="m" />);
    fireEvent.click(screen.getByRole('button', { name: /^compare what was raised/ }));
    const told = await screen.findByRole('list');
    expect(told.textContent).toMatch(/would have been raised: gauge-reader.*for 1 h/);
    expect(told.textContent).toMatch(/would not have been raised: gauge-reader is wet.*for 2 h 30$/);
    expect(screen.getByText(/3 the same/).textContent).not.toContain('nothing that came late');
  });
  it('say so where they would have changed nothing, and why they cannot be compared', async () => {
    let status = 409;
    serveAnswers({
      'GET /api/rules/m/late': () =>
        status === 409
          ? { status, body: { code: 'conflict', text: 'It has not been judged for long enough.', fields: [] } }
          : { status, body: { from: NOW - 9e6, to: NOW, same: 0, wouldHave: [], wouldNotHave: [] } },
    });
    drawAt('/rules', <Late ruleKey="m" />);
    fireEvent.click(screen.getByRole('button'));
    expect(await screen.findByText('It has not been judged for long enough.')).toBeTruthy();
    status = 200;
    fireEvent.click(screen.getByRole('button'));
    expect(await screen.findByText(/nothing that came late would have changed anything/)).toBeTruthy();
    expect(screen.queryByRole('alert')).toBeNull();
  });
});

describe('messages', () => {
  const message = (id: number, part: Partial<DeliveryAnswer> = {}): DeliveryAnswer => ({
    id,
    to: 'tides@skerrivale.test',
    subject: `Warning ${id}`,
    state: 'sent',
    createdAt: NOW - 9e6,
    sentAt: NOW - 9e6,
    attempts: 1,
    nextAt: null,
    error: null,
    answer: null,
    together: false,
    ...part,
  });
  const draw = (newest: readonly DeliveryAnswer[], administrator = true) =>
    drawAt(
      '/rules',
      <Deliveries mail={{ configured: true, text: '' }} newest={newest} administrator={administrator} />,
    );
  it('are found by a word and a state, older ones page by page', async () => {
    const asked = serveAnswers({
      'GET /api/deliveries?text=lamp&state=dead&before=41': { deliveries: [message(7)], more: false },
      'GET /api/deliveries?text=lamp&state=dead': { deliveries: [message(44), message(41)], more: true },
      'GET /api/deliveries': { deliveries: [], more: false },
    });
    draw([message(50)]);
    expect(screen.getByText('Warning 50')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'older ones' })).toBeNull();
    type('find a message', 'lamp');
    type('state of messages', 'dead');
    expect(await screen.findByText('Warning 41')).toBeTruthy();
    expect(screen.queryByText('Warning 50')).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'older ones' }));
    expect(await screen.findByText('Warning 7')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'older ones' })).toBeNull();
    type('find a message', 'nothing like it');
    expect(await screen.findByText('None of these words.')).toBeTruthy();
    expect(asked.length).toBeGreaterThan(0);
    type('find a message', '');
    type('state of messages', '');
    expect(await screen.findByText('Warning 50')).toBeTruthy();
  });
  it('say what a program answered, what was sent with others, and what was refused when tried again', async () => {
    serveAnswers({
      'POST /api/deliveries/3/retry': () => ({
        status: 404,
        body: { code: 'notFound', text: 'This message was sent already, or does not exist.', fields: [] },
      }),
    });
    draw([
      message(1, { answer: '200 {"done":true}' }),
      message(2, { together: true }),
      message(3, { state: 'dead', sentAt: null, error: 'It answered 500.' }),
    ]);
    const lines = within(screen.getByRole('region', { name: 'messages' })).getAllByRole('listitem');
    expect(lines[0]!.textContent).toContain('it answered: 200 {"done":true}');
    expect(lines[1]!.textContent).toContain('sent with others');
    expect(lines[2]!.textContent).toContain('It answered 500.');
    fireEvent.click(screen.getByRole('button', { name: 'given up; try again' }));
    expect(await screen.findByText(/was sent already/)).toBeTruthy();
  });
});

describe('a rehearsal', () => {
  const answered = (curve: object[]) => ({
    from: NOW - 8.64e7,
    to: NOW,
    step: 60_000,
    objects: 4,
    raised: [],
    left: 0,
    messages: { all: 0, nights: 0, unowned: 0, byTeam: [] },
    flapping: 0,
    raisedMinutes: 0,
    curve,
    drawn: { times: [], lines: [] },
    troubles: [],
    unit: '',
    shownAs: null,
    notes: [],
    took: 5,
  });
  const point = (bound: number, raised: number) => ({ bound, raised, raisedMinutes: raised, missed: 0 });
  const panel = (part: Partial<RuleDraft>) => {
    const set: RuleDraft[] = [];
    const draft = { ...EMPTY_DRAFT, name: 'x', text: 'read tide_level', ...part };
    const read = (of: RuleDraft) => {
      const found = documentOf(of);
      return 'document' in found ? found.document : null;
    };
    drawAt(
      '/rules/new',
      <RehearsalPanel draft={draft} setDraft={(next) => set.push(next)} read={read} proposeAtOnce={false} />,
    );
    return set;
  };
  const propose = () => fireEvent.click(screen.getByRole('button', { name: 'propose a threshold' }));
  const bounded = { warning: { ...NO_LEVEL, on: true, bound: '' }, critical: NO_LEVEL };
  it('proposes the number that is nearest on the side on which the rule holds, whatever was chosen before', async () => {
    serveAnswers({ 'POST /api/rules/rehearse': answered([point(1, 20), point(2, 1), point(3, 0)]) });
    // what was compared below as a measure departs above its usual now
    const set = panel({ kind: 'unusual', compare: 'below', levels: bounded });
    propose();
    await waitFor(() => expect(set.at(-1)?.levels.warning.bound).toBe('2'));
  });
  it('of what holds below proposes from below', async () => {
    serveAnswers({ 'POST /api/rules/rehearse': answered([point(1, 0), point(2, 1), point(3, 9)]) });
    const set = panel({ compare: 'below', levels: bounded });
    propose();
    await waitFor(() => expect(set.at(-1)?.levels.warning.bound).toBe('2'));
  });
  it('looks as if the rule had been there since a day, and not into the future', async () => {
    const asked = serveAnswers({ 'POST /api/rules/rehearse': answered([]) });
    panel({ levels: { ...bounded, warning: { ...bounded.warning, bound: '3' } } });
    type('rehearsed over', 'since');
    const look = screen.getByRole('button', { name: 'See what it would have done' }) as HTMLButtonElement;
    expect(look.disabled).toBe(true);
    type('as if it had been there since', '2999-01-01');
    expect(look.disabled).toBe(true);
    type('as if it had been there since', '2026-11-01');
    fireEvent.click(look);
    expect((await screen.findByRole('region', { name: 'rehearsal' })).textContent).toContain(
      'nothing would have been raised',
    );
    expect(asked[0]?.body).toMatchObject({ from: Date.UTC(2026, 10, 1) });
  });
  it('is kept beside another draft', async () => {
    serveAnswers({ 'POST /api/rules/rehearse': answered([]) });
    panel({ levels: { ...bounded, warning: { ...bounded.warning, bound: '3' } } });
    fireEvent.click(screen.getByRole('button', { name: 'See what it would have done' }));
    fireEvent.click(await screen.findByRole('button', { name: /^keep this/ }));
    const compared = screen.getByRole('region', { name: 'two drafts' });
    expect(compared.textContent).toContain('at 3, held 5 min');
    expect(compared.textContent).toContain('not looked at yet');
    fireEvent.click(screen.getByRole('button', { name: 'See what it would have done' }));
    await waitFor(() => expect(compared.textContent).not.toContain('not looked at yet'));
    fireEvent.click(screen.getByRole('button', { name: 'compare no more' }));
    expect(screen.queryByRole('region', { name: 'two drafts' })).toBeNull();
  });
  it('says how far it is, and ends when somebody stops it: that is no failure', async () => {
    serveAnswers({
      'POST /api/rules/rehearse': () => new Promise<never>(() => undefined),
      'GET /api/rules/rehearsals/': { doing: 'judging', share: 0.42 },
    });
    panel({ levels: { ...bounded, warning: { ...bounded.warning, bound: '3' } } });
    fireEvent.click(screen.getByRole('button', { name: 'See what it would have done' }));
    await waitFor(() => expect(screen.getByRole('status').textContent).toContain('Judging what was read, 42 % of it'), {
      timeout: 5000,
    });
    fireEvent.click(screen.getByRole('button', { name: 'stop' }));
    expect(await screen.findByText('Stopped.')).toBeTruthy();
    expect(screen.queryByRole('alert')).toBeNull();
  });
  it('that cannot be made says why', async () => {
    serveAnswers({
      'POST /api/rules/rehearse': () => ({
        status: 400,
        body: { code: 'invalid', text: 'A rehearsal looks at 90 days at most.', fields: [] },
      }),
    });
    panel({ levels: { ...bounded, warning: { ...bounded.warning, bound: '3' } } });
    fireEvent.click(screen.getByRole('button', { name: 'See what it would have done' }));
    expect(await screen.findByText('A rehearsal looks at 90 days at most.')).toBeTruthy();
  });
});
