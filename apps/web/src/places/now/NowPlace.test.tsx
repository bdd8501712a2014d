import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { NowAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { rowOf } from '../../state/rowFixture.ts';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { NowPlace } from './NowPlace.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const figures = {
  use: 1.9e9,
  mean: 1.9e9,
  peak: 1.9e9,
  request: 1e9,
  limit: 2e9,
  limitIs: 'limit',
  unlimited: null,
  tightness: 0.95,
  heading: null,
};
const row = {
  ...rowOf('tide-model', null),
  key: 'deployment:tide-model',
  kind: 'deployment',
  ready: 1,
  desired: 1,
  usage: { cpu: figures, memory: figures },
};
const alert = {
  id: 1,
  rule: 'memory',
  ruleKey: 'rule',
  trial: false,
  hushed: null,
  taken: null,
  mayTake: true,
  severity: 'warning',
  title: 'tide-model uses 95 % of its memory limit',
  path: ['seaward', 'tides', 'deployment:tide-model'],
  team: 'Tides',
  since: NOW - 600_000,
  raisedAt: NOW - 300_000,
  endedAt: null,
  endedHow: null,
  unseenSince: NOW - 240_000,
  easingSince: null,
  value: '1.9 GiB',
  limit: '2 GiB; more',
  reason: 'It climbs.',
  evidence: 'e',
  changed: 'rollout 1 → 2',
  nextStep: 'Look.',
  told: [{ to: 'tides@skerrivale.test', state: 'sent', at: NOW, error: null }],
};
const finding = {
  code: 'fewerReady',
  severity: 'critical',
  reason: '2 of 3 pods are not ready.',
  evidence: '',
  since: NOW,
  nextStep: 'x',
};
const empty = {
  at: NOW,
  alerts: [],
  failing: [],
  tightest: [],
  runningOut: null,
  changed: [],
  blind: [],
  connections: 1,
  endpoints: { read: 14, all: 14 },
};
const full = NowAnswer.parse({
  ...empty,
  alerts: [alert],
  failing: [
    { path: ['seaward', 'tides', 'deployment:tide-model'], team: 'Tides', finding, criticality: 'ordinary', more: 0 },
    { path: ['seaward', 'berths', 'deployment:quay-board'], team: null, finding, criticality: 'critical', more: 2 },
  ],
  tightest: [{ path: ['seaward', 'tides', 'deployment:tide-model'], team: 'Tides', resource: 'memory', row }],
  changed: [
    {
      at: NOW - 1000,
      kind: 'rollout',
      severity: null,
      title: 'rollout x 1 → 2',
      path: ['seaward', 'tides', 'deployment:x'],
    },
  ],
  blind: [{ what: 'seaward › seaward-02', reason: 'No answer in time.', since: NOW - 120_000, nextStep: null }],
  endpoints: { read: 13, all: 14 },
});

describe('Now', () => {
  it('leads with what is raised: what, why, since when, whose, what changed, who was told, and that it is unseen', async () => {
    serveAnswers({ 'GET /api/now': full });
    drawAt('/now?window=3h', <NowPlace />);
    const card = (await screen.findByText('tide-model uses 95 % of its memory limit')).closest('li')!;
    for (const words of [
      'It climbs.',
      'rollout 1 → 2',
      'seaward › tides › tide-model',
      '1.9 GiB of 2 GiB',
      'Tides',
      '10 min',
      'told tides@skerrivale.test',
      'unseen for 4 min',
    ])
      expect(card.textContent).toContain(words);
    expect(within(card).getByRole('img', { name: 'warning' })).toBeTruthy();
    expect(within(card).getByRole('link').getAttribute('href')).toBe(
      '/usage?in=seaward/tides/deployment:tide-model&window=3h',
    );
  });
  it('is taken with a note, by key alone, and given back', async () => {
    const asked = serveAnswers({ 'GET /api/now': full, 'POST /api/alerts/': () => ({ status: 204, body: null }) });
    drawAt('/now', <NowPlace />);
    fireEvent.click(await screen.findByRole('button', { name: /^take: tide-model uses/ }));
    const note = screen.getByRole('textbox', { name: /^note to taking/ });
    expect(document.activeElement).toBe(note);
    fireEvent.keyDown(note, { key: 'Escape' });
    expect(screen.queryByRole('textbox', { name: /^note to taking/ })).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: /^take: tide-model uses/ }));
    fireEvent.change(screen.getByRole('textbox', { name: /^note to taking/ }), { target: { value: 'more room' } });
    fireEvent.click(screen.getByRole('button', { name: 'Take it' }));
    await waitFor(() => expect(asked.at(-1)).toMatchObject({ method: 'GET' }));
    expect(asked.find(({ method }) => method === 'POST')).toMatchObject({
      path: '/api/alerts/1/take',
      body: { note: 'more room' },
    });
    cleanUp();
    const taken = { ...alert, taken: { by: 'maren', at: NOW - 60_000, note: 'more room' } };
    const again = serveAnswers({
      'GET /api/now': { ...full, alerts: [taken] },
      'POST /api/alerts/': () => ({ status: 204, body: null }),
    });
    drawAt('/now', <NowPlace />);
    expect((await screen.findByText('maren')).parentElement!.textContent).toMatch(/looks after it since .*: more room/);
    fireEvent.click(screen.getByRole('button', { name: /^give back/ }));
    await waitFor(() => expect(again.find(({ method }) => method === 'POST')?.body).toEqual({ note: null }));
  });
  it('tells one cause once, and the rest in one line each', async () => {
    serveAnswers({ 'GET /api/now': full });
    drawAt('/now', <NowPlace />);
    const failing = await screen.findByRole('region', { name: 'failing' });
    expect(within(failing).getAllByRole('listitem')).toHaveLength(1);
    expect(failing.textContent).toContain('1 more told above');
    expect(failing.textContent).toContain('berths › quay-board');
    expect(failing.textContent).toContain('and 2 more');
    expect(failing.textContent).toContain('critical place');
  });
  it('shows the tightest with their strips in words, what changed, and blind spots', async () => {
    serveAnswers({ 'GET /api/now': full });
    drawAt('/now', <NowPlace />);
    expect((await screen.findByRole('region', { name: 'tightest' })).textContent).toContain('95 %');
    expect(screen.getByRole('img', { name: /^memory: 1.77 GiB in use, 95 % of its limit of 1.86 GiB/ })).toBeTruthy();
    expect(screen.getByRole('region', { name: 'changed in this window' }).textContent).toContain('rollout x 1 → 2');
    const blind = screen.getByRole('region', { name: 'blind spots' });
    expect(blind.textContent).toContain('13 of 14 endpoints read');
    expect(blind.textContent).toContain('No answer in time.');
  });
  it('says so where nothing is wrong', async () => {
    serveAnswers({ 'GET /api/now': empty });
    drawAt('/now', <NowPlace />);
    for (const words of [
      'Nothing is raised.',
      'Everything does what was asked of it.',
      'No rollout, no restart, no change of settings.',
      'Every source delivers.',
      'Nothing with a limit was read in this window.',
    ])
      expect(await screen.findByText(words)).toBeTruthy();
  });
  it('sends a newcomer to Sources', async () => {
    serveAnswers({ 'GET /api/now': { ...empty, connections: 0 }, 'GET /api/session': sessionAs('administrator') });
    drawAt('/now', <NowPlace />);
    expect((await screen.findByRole('link', { name: 'connect a cluster' })).getAttribute('href')).toMatch(/^\/sources/);
  });
  it('says what failed, and tries again', async () => {
    let tries = 0;
    serveAnswers({
      'GET /api/now': () =>
        ++tries === 1
          ? { status: 500, body: { code: 'unforeseen', text: 'Something unforeseen went wrong.', fields: [] } }
          : { status: 200, body: empty },
    });
    drawAt('/now', <NowPlace />);
    expect((await screen.findByRole('alert')).textContent).toContain('Something unforeseen went wrong.');
    screen.getByRole('button', { name: 'try again' }).click();
    expect(await screen.findByText('Nothing is raised.')).toBeTruthy();
  });
  it('does not trust an answer of another shape', async () => {
    serveAnswers({ 'GET /api/now': { surprise: true } });
    drawAt('/now', <NowPlace />);
    expect((await screen.findByRole('alert')).textContent).toContain('not what this page expects');
  });
});
