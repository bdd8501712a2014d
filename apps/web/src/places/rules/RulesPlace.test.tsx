import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { RuleDocument, RulesAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { RulesPlace } from './RulesPlace.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const memory = {
  key: 'containerMemory',
  document: {
    name: 'memory of a container near its limit',
    when: { is: 'container memory' },
    levels: { warning: { bound: 0.9, holdsSeconds: 300 } },
    clears: { afterSeconds: 300 },
  },
  owner: null,
  unit: '',
  shownAs: 'percent',
  problem: null,
  mayChange: true,
  matched: 120,
  building: 1,
  raised: 2,
  worst: 'warning',
  lastRaisedAt: NOW - 60_000,
  judgedAt: NOW - 5000,
  tookMs: 14,
};
const ready = {
  ...memory,
  key: 'readyPods',
  document: {
    name: 'a workload has fewer ready pods than desired',
    when: { is: 'fewer ready' },
    levels: { critical: {} },
  },
  problem: 'it takes more than 10 s',
};
const parsed = ({ document, ...rest }: typeof memory | typeof ready) => ({
  ...rest,
  document: RuleDocument.parse(document),
});
const answer = RulesAnswer.parse({
  rules: [parsed(memory), parsed(ready)],
  teams: [{ key: 'tides', name: 'Tides' }],
  everywhere: true,
  unowned: ['berths'],
  history: [],
  deliveries: [
    {
      id: 5,
      to: 'a@skerrivale.test',
      subject: 'Critical: x',
      state: 'dead',
      createdAt: NOW,
      sentAt: null,
      attempts: 9,
      nextAt: null,
      error: 'Nothing listens.',
      answer: null,
      together: false,
    },
    {
      id: 6,
      to: 'b@skerrivale.test',
      subject: 'Warning: y',
      state: 'waiting',
      createdAt: NOW,
      sentAt: null,
      attempts: 1,
      nextAt: NOW + 60_000,
      error: 'No answer.',
      answer: null,
      together: false,
    },
  ],
  mail: { configured: true, text: 'Messages go out.' },
});
const session = (role: string) => ({
  person: { id: '00000000-0000-4000-8000-000000000000', name: 'maren', role },
  firstStart: false,
  demo: null,
  zone: 'UTC',
  teams: [],
  permits: [],
  administrators: ['maren'],
});
const done = () => ({ status: 204, body: null });

describe('Rules', () => {
  it('lists each rule as a sentence with how it stands, and what cannot be judged', async () => {
    serveAnswers({ 'GET /api/rules': answer, 'GET /api/session': session('administrator') });
    drawAt('/rules', <RulesPlace />, '/rules/:rule?');
    const rows = within(await screen.findByRole('table', { name: 'rules' })).getAllByRole('row');
    expect(rows[1]!.textContent).toContain('above 90 % of its limit for 5 min, tell the owner (warning)');
    expect(rows[1]!.textContent).toMatch(/platformon120.*2 1 building.*14 ms$/);
    expect(rows[2]!.textContent).toContain('it takes more than 10 s');
  });
  it('say how many fit, or how many are found; none that fits is a mistake, nothing found is none', async () => {
    const rule = (name: string, when: object, matched: number | null, state = 'on') =>
      RulesAnswer.shape.rules.element.parse({
        ...memory,
        key: name,
        document: RuleDocument.parse({ name, when, state, levels: { warning: {} } }),
        matched,
        building: null,
        raised: 0,
        worst: null,
      });
    const rules = [
      rule('ready', { is: 'fewer ready' }, 0),
      rule('found', { is: 'finding', codes: [] }, 0),
      rule('silent', { is: 'not read' }, 3),
      rule('off', { is: 'fewer ready' }, 0, 'off'),
      rule('hidden', { is: 'finding', codes: [] }, null),
    ];
    serveAnswers({ 'GET /api/rules': { ...answer, rules }, 'GET /api/session': session('administrator') });
    drawAt('/rules', <RulesPlace />, '/rules/:rule?');
    const rows = within(await screen.findByRole('table', { name: 'rules' })).getAllByRole('row');
    const matched = rows.slice(1).map((row) => within(row).getAllByRole('cell')[3]!.textContent);
    expect(matched).toEqual(['0 none fits', '0 found', '3 found', '', '']);
  });
  const sheet = {
    rule: parsed(memory),
    objects: [
      {
        name: 'model-1 › main',
        path: ['seaward', 'tides'],
        state: 'raised',
        severity: 'warning',
        since: NOW - 12.2 * 60_000,
        unseenSince: null,
        value: '93 % of 2.00 GiB',
      },
    ],
    left: 4,
    history: [],
    versions: [{ revision: 7, at: NOW, by: 'maren', lines: [{ is: 'added', text: 'name: memory' }] }],
  };
  it('shows what a rule looks at, and changes it in the words it is said in', async () => {
    const asked = serveAnswers({
      'GET /api/rules': answer,
      'GET /api/rules/containerMemory': sheet,
      'GET /api/session': session('administrator'),
      'PUT /api/rules/containerMemory': done,
    });
    drawAt('/rules/containerMemory', <RulesPlace />, '/rules/:rule?');
    const objects = await screen.findByRole('region', { name: 'what it looks at' });
    expect(objects.textContent).toMatch(/model-1 › main.*93 % of 2.00 GiBraised for 12 min.*and 4 more/);
    expect(screen.getByRole('region', { name: 'versions' }).textContent).toContain('revision 7');
    fireEvent.click(screen.getByRole('button', { name: 'change it' }));
    const share = screen.getByLabelText('warning above, %') as HTMLInputElement; // an input by its label
    expect(share.value).toBe('90');
    fireEvent.change(share, { target: { value: 'high' } });
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    expect((await screen.findByRole('alert')).textContent).toBe('this is not a number');
    fireEvent.change(share, { target: { value: '85.5' } });
    fireEvent.change(screen.getByLabelText('warning holds for'), { target: { value: '1 min' } });
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PUT')?.body).toMatchObject({
        levels: { warning: { bound: 0.855, holdsSeconds: 60 }, critical: null },
        clears: { bound: null, afterSeconds: 300 },
      }),
    );
    // the form is shut when it was taken
    expect(await screen.findByRole('region', { name: 'what it looks at' })).toBeTruthy();
  });
  it('rehearses a draft, and moves its threshold with the thumb on the curve', async () => {
    const asked = serveAnswers({
      'GET /api/rules': answer,
      'GET /api/session': session('administrator'),
      'POST /api/rules/rehearse': {
        from: NOW - 86_400_000,
        to: NOW,
        step: 60_000,
        objects: 12,
        raised: [
          {
            name: 'north',
            path: ['seaward'],
            team: 'Tides',
            severity: 'warning',
            since: NOW - 9e6,
            raisedAt: NOW - 8e6,
            endedAt: NOW - 7e6,
            most: '0.93',
          },
        ],
        left: 0,
        messages: { all: 2, nights: 1, unowned: 0, byTeam: [{ team: 'Tides', all: 2, nights: 1 }] },
        flapping: 0,
        raisedMinutes: 16,
        curve: [
          { bound: 0.5, raised: 9, raisedMinutes: 90, missed: 1 },
          { bound: 0.7, raised: 1, raisedMinutes: 16, missed: 1 },
          { bound: 0.9, raised: 0, raisedMinutes: 0, missed: 1 },
        ],
        drawn: {
          times: [NOW - 60_000, NOW],
          lines: [{ name: 'gauge-reader', values: [0.2, null] }],
        },
        troubles: [
          { title: 'the quay is flooded', path: ['seaward', 'tides'], from: NOW - 8.5e6, to: NOW - 8e6, lead: 120_000 },
          { title: 'the lamp is out', path: ['seaward', 'tides'], from: NOW - 8.5e6, to: NOW - 8e6, lead: null },
        ],
        unit: '',
        shownAs: null,
        notes: ['Read from roll-ups of 5 min.'],
        took: 20,
      },
      'POST /api/rules': () => ({ status: 201, body: { key: 'high-water' } }),
    });
    const router = drawAt('/rules/new?measure=read+tide_level', <RulesPlace />, '/rules/:rule?');
    fireEvent.change(await screen.findByLabelText('warning above'), { target: { value: '0.7' } });
    fireEvent.click(screen.getByRole('button', { name: 'See what it would have done' }));
    const rehearsal = await screen.findByRole('region', { name: 'rehearsal' });
    expect(rehearsal.textContent).toContain('1 alert (7 a week)');
    expect(rehearsal.textContent).toContain('2 messages, 1 of them at night · Tides 2 (1 at night)');
    const thumb = within(rehearsal).getByRole('slider', { name: 'threshold' });
    expect(thumb.getAttribute('aria-valuetext')).toBe('0.7: 7 alerts a week');
    const line = () => within(rehearsal).getByRole('figure', { name: 'what it looks at, with its number' }).textContent;
    expect(line()).toContain('with the number at 0.7: gauge-reader');
    expect(within(rehearsal).getByRole('region', { name: 'trouble at that time' }).textContent).toContain(
      '1 of 2 would have been missed',
    );
    fireEvent.change(thumb, { target: { value: '2' } });
    expect((screen.getByLabelText('warning above') as HTMLInputElement).value).toBe('0.9');
    expect(line()).toContain('with the number at 0.9: gauge-reader');
    // without a name nothing is kept, and nothing lost
    fireEvent.click(screen.getByRole('button', { name: 'Add the rule' }));
    expect((await screen.findByRole('alert')).textContent).toBe('a rule has a name');
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'high water' } });
    fireEvent.click(screen.getByRole('button', { name: 'Add the rule' }));
    await waitFor(() => expect(router.state.location.pathname).toBe('/rules/high-water'));
    expect(asked.find(({ path, method }) => path === '/api/rules' && method === 'POST')?.body).toMatchObject({
      name: 'high water',
      state: 'on trial',
      when: { is: 'measure', text: 'read tide_level', compare: 'above' },
      levels: { warning: { bound: 0.9 } },
    });
  });
  it('names namespaces nobody owns, and messages that were given up', async () => {
    const asked = serveAnswers({
      'GET /api/rules': answer,
      'GET /api/session': session('administrator'),
      'POST /api/deliveries/5/retry': done,
    });
    drawAt('/rules', <RulesPlace />, '/rules/:rule?');
    expect((await screen.findByText('Nobody would be told')).parentElement!.textContent).toContain('about berths');
    expect(screen.getByRole('link', { name: 'give them an owner' }).getAttribute('href')).toMatch(/^\/admin\/teams/);
    const messages = screen.getByRole('region', { name: 'messages' });
    expect(messages.textContent).toContain('next try in ');
    expect(messages.textContent).toContain('Nothing listens.');
    fireEvent.click(within(messages).getByRole('button', { name: 'given up; try again' }));
    await waitFor(() => expect(asked.some(({ path }) => path === '/api/deliveries/5/retry')).toBe(true));
  });
  it('shows which rules were loud, a click from a draft that would be quieter', async () => {
    serveAnswers({
      'GET /api/rules': answer,
      'GET /api/rules/containerMemory': sheet,
      'GET /api/session': session('administrator'),
      'GET /api/rules/containerMemory/quieter': {
        from: NOW - 7 * 86_400_000,
        to: NOW,
        asItIs: { raised: 4, messages: 8 },
        asSuggested: { raised: 1, messages: 2 },
      },
      'GET /api/noise': {
        from: NOW - 30 * 86_400_000,
        to: NOW,
        rules: [
          {
            key: 'containerMemory',
            name: 'memory of a container near its limit',
            raised: 12,
            messages: 24,
            nights: 7,
            flapping: 3,
            shortLived: 9,
            taken: 0,
            suggestion: { is: 'hold longer', ms: 900_000, fewer: 9 },
          },
        ],
      },
    });
    drawAt('/rules', <RulesPlace />, '/rules/:rule?');
    const noise = await screen.findByRole('region', { name: 'noise' });
    expect(noise.textContent).toContain('limit12247' + '39' + 'held for 15 min: 9 alerts of 12 fewer');
    expect(
      await within(noise).findByText('rehearsed over 7 d: 1 alert instead of 4, 2 messages instead of 8'),
    ).toBeTruthy();
    fireEvent.click(within(noise).getByRole('link'));
    const holds = (await screen.findByLabelText('warning holds for')) as HTMLInputElement; // an input by its label
    expect(holds.value).toBe('15 min');
  });
  it('offers a member nothing that would be refused, and says who can', async () => {
    serveAnswers({
      'GET /api/rules': { ...answer, everywhere: false, teams: [] },
      'GET /api/session': session('member'),
      'GET /api/channels': { channels: [] },
      'GET /api/hushes': { hushes: [], at: NOW },
      'GET /api/stretches': { stretches: [], at: NOW, teams: [] },
    });
    drawAt('/rules', <RulesPlace />, '/rules/:rule?');
    expect(await screen.findByText(/^None: a load/)).toBeTruthy();
    expect(await screen.findByText(/written by administrators, and by members of a team/)).toBeTruthy();
    expect(screen.queryByRole('link', { name: 'write a rule' })).toBeNull();
    expect(screen.queryByRole('button')).toBeNull();
  });
});
