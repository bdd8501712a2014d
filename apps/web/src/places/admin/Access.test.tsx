import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { calmStore } from '../../state/storeFixture.ts';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Grants } from './Grants.tsx';
import { Teams } from './Teams.tsx';
import { Tokens } from './Tokens.tsx';
import { readOwnership, writeOwnership } from './teamForm.ts';

afterEach(cleanUp);
const NOW = Date.now();
const SELF = '00000000-0000-4000-8000-000000000001';
const TOVE = '00000000-0000-4000-8000-000000000002';
const people = [
  { id: SELF, name: 'maren', role: 'administrator', createdAt: NOW, lastSignInAt: NOW },
  { id: TOVE, name: 'tove', role: 'member', createdAt: NOW, lastSignInAt: null },
];
const done = () => ({ status: 204, body: null });
const team = {
  key: 'ferries',
  name: 'Ferries',
  email: 'ferries@skerrivale.test',
  members: ['tove'],
  owns: [
    { by: 'name', cluster: null, namespace: 'ticketing' },
    { by: 'label', cluster: 'slipway', key: 'team', is: 'ferries' },
  ],
  namespaces: [{ cluster: 'seaward', namespace: 'ticketing', why: 'by its name' }],
};
const sources = {
  at: NOW,
  connections: [],
  endpoints: [],
  store: calmStore,
};

describe('what a team owns, as a line', () => {
  it('is read back as it was written', () => {
    for (const own of [
      { by: 'name', cluster: null, namespace: 'tides' },
      { by: 'name', cluster: 'seaward', namespace: 'tides' },
      { by: 'label', cluster: null, key: 'example.test/team', is: 'tides' },
      { by: 'annotation', cluster: 'landward', key: 'owner', is: 'the tides crew' },
      { by: 'object', cluster: 'seaward', namespace: 'tides', workload: 'deployment:tide-model' },
    ] as const)
      expect(readOwnership(writeOwnership(own))).toEqual(own);
  });
  it('that says nothing is nothing', () => {
    for (const line of ['', 'Two Words', 'label team', 'object tides', 'a/b/c']) expect(readOwnership(line)).toBeNull();
  });
});

describe('teams', () => {
  const answers = { 'GET /api/admin/teams': { teams: [team], unowned: [{ cluster: 'seaward', namespace: 'berths' }] } };
  it('says what they own, who is in them, and what nobody owns', async () => {
    serveAnswers(answers);
    drawAt('/admin/teams', <Teams />);
    expect(await screen.findByText('seaward › ticketing')).toBeTruthy();
    expect(screen.getByRole('region', { name: 'namespaces without an owner' }).textContent).toContain(
      'Nobody would be told about seaward › berths.',
    );
  });
  it('keeps what was typed, says which line is wrong, then what the server refuses', async () => {
    const refused = () => ({
      status: 409,
      body: {
        code: 'conflict',
        text: 'x',
        fields: [{ path: 'owns.1', text: 'tides belongs to Tides. Remove it there first.' }],
      },
    });
    const asked = serveAnswers({ ...answers, 'PUT /api/admin/teams/ferries': refused });
    drawAt('/admin/teams', <Teams />);
    fireEvent.click(await screen.findByRole('button', { name: 'change Ferries' }));
    const form = screen.getByRole('form', { name: 'change Ferries' });
    const owns = within(form).getByLabelText('Owns, one a line') as HTMLTextAreaElement;
    expect(owns.value).toBe('ticketing\nslipway/label team=ferries');
    fireEvent.change(owns, { target: { value: 'ticketing\nNot Good' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Save' }));
    expect((await within(form).findByRole('alert')).textContent).toContain('“Not Good” names nothing');
    fireEvent.change(owns, { target: { value: 'ticketing\ntides' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(within(form).getByRole('alert').textContent).toContain('tides belongs to Tides'));
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
      name: 'Ferries',
      email: 'ferries@skerrivale.test',
      members: ['tove'],
      owns: [
        { by: 'name', cluster: null, namespace: 'ticketing' },
        { by: 'name', cluster: null, namespace: 'tides' },
      ],
      linesADay: null,
    });
  });
});

describe('grants', () => {
  const sight = {
    person: 'tove',
    teams: ['Ferries'],
    permits: [
      { level: 'operate', cluster: null, namespace: 'ticketing', why: 'team Ferries owns it by its name', own: true },
    ],
    clusters: [
      { cluster: 'landward', whole: false, namespaces: [], hidden: 8 },
      {
        cluster: 'seaward',
        whole: false,
        namespaces: [{ namespace: 'ticketing', level: 'operate', why: ['team Ferries owns it by its name'] }],
        hidden: 11,
      },
    ],
  };
  const answers = {
    'GET /api/admin/grants': [
      { key: 'lund-read', person: 'lund', team: null, may: 'read', cluster: null, namespace: null },
    ],
    'GET /api/admin/people': people,
    [`GET /api/admin/people/${SELF}/sight`]: { ...sight, person: 'maren' },
    [`GET /api/admin/people/${TOVE}/sight`]: sight,
    'GET /api/admin/teams': { teams: [team], unowned: [] },
    'GET /api/sources': sources,
  };
  it('says what a person sees, and why, and what stays hidden', async () => {
    serveAnswers(answers);
    drawAt('/admin/grants#tove', <Grants />);
    const section = await screen.findByRole('region', { name: 'what a person sees, and why' });
    expect((await within(section).findByRole('row', { name: /^ticketing in every cluster/ })).textContent).toContain(
      'team Ferries owns it by its name',
    );
    expect(section.textContent).toContain('landward nothing; 8 namespaces hidden');
    expect(section.textContent).toContain('11 hidden, shown as one nameless share');
  });
  it('grants to a person or a team, and takes back only when asked twice', async () => {
    const asked = serveAnswers({
      ...answers,
      'POST /api/admin/grants': done,
      'DELETE /api/admin/grants/lund-read': done,
    });
    drawAt('/admin/grants', <Grants />);
    fireEvent.click(await screen.findByRole('button', { name: 'grant something' }));
    const form = screen.getByRole('form', { name: 'grant something' });
    fireEvent.click(within(form).getByRole('button', { name: 'Grant' }));
    expect((await within(form).findByRole('alert')).textContent).toBe('to whom?');
    await within(form).findByRole('option', { name: 'team Ferries' });
    fireEvent.change(within(form).getByLabelText('To'), { target: { value: 'team ferries' } });
    fireEvent.change(within(form).getByLabelText(/^Namespace/), { target: { value: 'tides' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Grant' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
        team: 'ferries',
        may: 'read',
        cluster: null,
        namespace: 'tides',
      }),
    );
    fireEvent.click(screen.getByRole('button', { name: /^take back: lund may read every cluster/ }));
    expect(asked.some(({ method }) => method === 'DELETE')).toBe(false);
    fireEvent.click(screen.getByRole('button', { name: /^really take back/ }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
});

it('a token is told once, and bound as asked', async () => {
  const made = {
    id: SELF,
    name: 'release script',
    bound: { level: 'read', cluster: 'seaward', namespace: null },
    createdAt: NOW,
    expiresAt: NOW + 86_400_000,
    lastUsedAt: null,
    token: 'told-once',
  };
  const asked = serveAnswers({ 'GET /api/tokens': [], 'POST /api/tokens': made });
  drawAt('/admin/yours', <Tokens />);
  fireEvent.click(await screen.findByRole('button', { name: 'make a token' }));
  const form = screen.getByRole('form', { name: 'make a token' });
  fireEvent.click(within(form).getByRole('button', { name: 'Make it' }));
  expect((await within(form).findByRole('alert')).textContent).toBe('what is it for?');
  fireEvent.change(within(form).getByLabelText('What for'), { target: { value: 'release script' } });
  fireEvent.change(within(form).getByLabelText(/^Cluster/), { target: { value: 'seaward' } });
  fireEvent.click(within(form).getByRole('button', { name: 'Make it' }));
  expect(await screen.findByText('told-once')).toBeTruthy();
  expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
    name: 'release script',
    days: 30,
    bound: { level: 'read', cluster: 'seaward', namespace: null },
  });
  fireEvent.click(screen.getByRole('button', { name: 'I have it' }));
  expect(screen.queryByText('told-once')).toBeNull();
});
