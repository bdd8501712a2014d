import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { RulesAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { RulesPlace } from './RulesPlace.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const memory = {
  id: 1,
  kind: 'containerMemory',
  name: 'memory of a container near its limit',
  enabled: true,
  severity: 'warning',
  holdsSeconds: 300,
  easesSeconds: 300,
  above: 0.9,
  watching: 120,
  building: 1,
  raised: 2,
  judgedAt: NOW - 5000,
};
const ready = {
  ...memory,
  id: 2,
  kind: 'readyPods',
  name: 'a workload has fewer ready pods than desired',
  severity: 'critical',
  above: null,
};
const answer = RulesAnswer.parse({
  rules: [memory, ready],
  mayChange: true,
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
  it('says each rule as a sentence with its state, and changes it in the words it is said in', async () => {
    const asked = serveAnswers({
      'GET /api/rules': answer,
      'GET /api/session': session('administrator'),
      'PATCH /api/rules/1': done,
    });
    drawAt('/rules', <RulesPlace />);
    const rule = await screen.findByRole('article', { name: memory.name });
    expect(rule.textContent).toContain('above 90 % of its limit for 5 min');
    expect(rule.textContent).toContain('watching 120 objects · 1 building · 2 raised');
    fireEvent.click(await within(rule).findByRole('button', { name: /^change the rule/ }));
    const share = within(rule).getByLabelText('above, % of limit') as HTMLInputElement; // an input by its label
    expect(share.value).toBe('90');
    fireEvent.change(share, { target: { value: '0' } });
    fireEvent.click(within(rule).getByRole('button', { name: 'Save' }));
    expect((await within(rule).findByRole('alert')).textContent).toBe('above 0 %');
    fireEvent.change(share, { target: { value: '85.5' } });
    fireEvent.change(within(rule).getByLabelText('holds for'), { target: { value: '1 min' } });
    fireEvent.click(within(rule).getByRole('button', { name: 'Save' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PATCH')?.body).toEqual({
        enabled: true,
        severity: 'warning',
        holdsSeconds: 60,
        easesSeconds: 300,
        above: 0.855,
      }),
    );
  });
  it('names namespaces nobody owns, and messages that were given up', async () => {
    const asked = serveAnswers({
      'GET /api/rules': answer,
      'GET /api/session': session('administrator'),
      'POST /api/deliveries/5/retry': done,
    });
    drawAt('/rules', <RulesPlace />);
    expect((await screen.findByText('Nobody would be told')).parentElement!.textContent).toContain('about berths');
    expect(screen.getByRole('link', { name: 'give them an owner' }).getAttribute('href')).toMatch(/^\/admin\/teams/);
    const messages = screen.getByRole('region', { name: 'messages' });
    expect(messages.textContent).toContain('next try in ');
    expect(messages.textContent).toContain('Nothing listens.');
    fireEvent.click(within(messages).getByRole('button', { name: 'given up; try again' }));
    await waitFor(() => expect(asked.some(({ path }) => path === '/api/deliveries/5/retry')).toBe(true));
  });
  it('offers a member nothing that would be refused, and says who can', async () => {
    serveAnswers({ 'GET /api/rules': { ...answer, mayChange: false }, 'GET /api/session': session('member') });
    drawAt('/rules', <RulesPlace />);
    expect(await screen.findByText(/for administrators: ask maren/)).toBeTruthy();
    expect(screen.queryByRole('button')).toBeNull();
  });
});
