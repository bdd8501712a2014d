import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { AdminPlace } from './AdminPlace.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const SELF = '00000000-0000-4000-8000-000000000001';
const OTHER = '00000000-0000-4000-8000-000000000002';
const session = (role: string) => ({
  person: { id: SELF, name: 'maren', role },
  firstStart: false,
  demo: null,
  zone: 'UTC',
  teams: ['Ferries'],
  administrators: ['maren'],
  permits: [
    { level: 'operate', cluster: null, namespace: 'ticketing', why: 'team Ferries owns it by its name', own: true },
  ],
});
const people = [
  { id: SELF, name: 'maren', role: 'administrator', createdAt: NOW, lastSignInAt: NOW },
  { id: OTHER, name: 'tove', role: 'member', createdAt: NOW, lastSignInAt: null },
];
const entry = (id: number, more: object = {}) => ({
  id,
  at: NOW,
  who: 'maren',
  by: 'person',
  action: 'change a rule',
  on: String(id),
  outcome: 'done',
  detail: '',
  from: '127.0.0.1',
  ...more,
});
const first = {
  entries: [
    entry(9, { outcome: 'refused', detail: 'Only an administrator may do this.' }),
    entry(8, {
      who: 'Zetopsis',
      by: 'zetopsis',
      action: 'cluster turned blind',
      on: 'seaward',
      outcome: 'failed',
      from: '',
    }),
  ],
  more: true,
};
const answers = {
  'GET /api/session': session('administrator'),
  'GET /api/admin/people': people,
  'GET /api/admin/audit': first,
};

/** The part stands in the address, as the router has it. */
const drawPart = (part: string) => drawAt(`/admin/${part}`, <AdminPlace />, '/admin/:part?');

describe('Admin', () => {
  it('tells who did what with which outcome, and loads older entries', async () => {
    const asked = serveAnswers({
      ...answers,
      'GET /api/admin/audit?by=anyone&before=8': {
        entries: [entry(7, { action: 'sign in', on: 'maren' })],
        more: false,
      },
    });
    drawPart('audit');
    const audit = await screen.findByRole('region', { name: 'audit' });
    const refused = await within(audit).findByRole('row', { name: /maren change a rule 9 refused/ });
    expect(refused.textContent).toContain('Only an administrator may do this.');
    expect(within(audit).getByRole('row', { name: /Zetopsis cluster turned blind seaward failed/ })).toBeTruthy();
    fireEvent.click(within(audit).getByRole('button', { name: 'older entries' }));
    expect(await within(audit).findByRole('row', { name: /sign in maren done/ })).toBeTruthy();
    expect(within(audit).queryByRole('button', { name: 'older entries' })).toBeNull();
    expect(asked.some(({ path }) => path.includes('before=8'))).toBe(true);
  });
  it('searches, and says so when nothing fits', async () => {
    serveAnswers({ ...answers, 'GET /api/admin/audit?text=nothing': { entries: [], more: false } });
    drawPart('audit');
    fireEvent.change(await screen.findByLabelText('search the audit log'), { target: { value: 'nothing' } });
    expect(await screen.findByText('No entry fits.')).toBeTruthy();
  });
  it('adds a person, keeps what was typed when refused, and says why', async () => {
    const refusal = () => ({
      status: 409,
      body: { code: 'conflict', text: 'in use', fields: [{ path: 'name', text: 'in use' }] },
    });
    const asked = serveAnswers({ ...answers, 'POST /api/admin/people': refusal });
    drawPart('people');
    fireEvent.click(await screen.findByRole('button', { name: 'add a person' }));
    const form = screen.getByRole('form', { name: 'add a person' });
    fireEvent.change(within(form).getByLabelText('Name'), { target: { value: 'Tove' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Add' }));
    expect((await within(form).findByRole('alert')).textContent).toMatch(/at least 10 characters/);
    fireEvent.change(within(form).getByLabelText(/^First password/), { target: { value: 'long enough now' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Add' }));
    await waitFor(() => expect(within(form).getByRole('alert').textContent).toBe('in use'));
    expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
      name: 'tove',
      role: 'member',
      password: 'long enough now',
    });
  });
  it('asks twice before removing somebody, and never offers to remove oneself', async () => {
    const asked = serveAnswers({
      ...answers,
      [`DELETE /api/admin/people/${OTHER}`]: () => ({ status: 204, body: null }),
      [`PATCH /api/admin/people/${OTHER}`]: () => ({
        status: 409,
        body: { code: 'conflict', text: 'This is the last administrator.', fields: [] },
      }),
    });
    drawPart('people');
    fireEvent.click(await screen.findByRole('button', { name: 'remove tove' }));
    expect(asked.some(({ method }) => method === 'DELETE')).toBe(false);
    expect(screen.queryByRole('button', { name: 'remove maren' })).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'make tove administrator' }));
    expect((await screen.findByRole('alert')).textContent).toBe('This is the last administrator.');
    fireEvent.click(screen.getByRole('button', { name: 'really remove tove' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
  it('shows the tokens of somebody, revokes one, and signs them out everywhere', async () => {
    const TOKEN = '00000000-0000-4000-8000-000000000009';
    const token = {
      id: TOKEN,
      name: 'nightly export',
      bound: { level: 'read', cluster: 'seaward', namespace: null },
      createdAt: NOW,
      expiresAt: NOW + 86_400_000,
      lastUsedAt: null,
    };
    const gone = () => ({ status: 204, body: null });
    const asked = serveAnswers({
      ...answers,
      [`GET /api/admin/people/${OTHER}/tokens`]: [token],
      [`GET /api/admin/people/${SELF}/tokens`]: [],
      [`DELETE /api/admin/people/${OTHER}/tokens/${TOKEN}`]: gone,
      [`DELETE /api/admin/people/${OTHER}/sessions`]: gone,
    });
    drawPart('people');
    fireEvent.click(await screen.findByRole('button', { name: 'tokens of maren' }));
    expect(await screen.findByText('maren has no token.')).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'tokens of tove' }));
    const list = await screen.findByRole('list', { name: 'tokens of tove' });
    expect(list.textContent).toMatch(/nightly export.*as far as tove may.*expires in 24 h.*not used yet/);
    fireEvent.click(within(list).getByRole('button', { name: 'remove token nightly export' }));
    fireEvent.click(screen.getByRole('button', { name: 'sign tove out everywhere' }));
    expect((await screen.findByText(', signed out everywhere')).tagName).toBe('SPAN');
    expect(asked.filter(({ method }) => method === 'DELETE').map(({ path }) => path)).toHaveLength(2);
    expect(screen.queryByRole('button', { name: 'sign maren out everywhere' })).toBeNull();
  });
  it('gives a member the own sight, tokens and password, and says who can do the rest', async () => {
    const asked = serveAnswers({
      'GET /api/session': session('member'),
      'GET /api/tokens': [],
      'POST /api/session/password': () => ({ status: 204, body: null }),
    });
    drawPart('people');
    expect(await screen.findByText(/audit log are for administrators: ask maren/)).toBeTruthy();
    expect(screen.queryByRole('link', { name: 'Audit' })).toBeNull();
    const sight = screen.getByRole('region', { name: 'what you see, and why' });
    expect(sight.textContent).toContain('ticketing in every cluster');
    expect(sight.textContent).toContain('team Ferries owns it by its name');
    expect(asked.some(({ path }) => path.includes('/admin/'))).toBe(false);
    fireEvent.change(screen.getByLabelText('Present password'), { target: { value: 'old' } });
    fireEvent.change(screen.getByLabelText('New password'), { target: { value: 'long enough now' } });
    fireEvent.click(screen.getByRole('button', { name: 'Change it' }));
    expect(await screen.findByText('changed; you are signed out everywhere else')).toBeDefined();
    expect((screen.getByLabelText('New password') as HTMLInputElement).value).toBe('');
  });
});
