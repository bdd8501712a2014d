import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { calmStore } from '../../state/storeFixture.ts';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Criticality } from './Criticality.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const connection = (name: string, id: number) => ({
  id: `00000000-0000-4000-8000-00000000000${id}`,
  name,
  address: 'https://127.0.0.1:6443',
  authority: '',
  nodePage: { path: '/metrics', intervalSeconds: 15 },
  environment: '',
  region: '',
  flavour: '',
  may: 'administer',
  state: 'reading',
  since: NOW,
  reason: null,
  nextStep: null,
  lastContactAt: NOW,
  kinds: [],
});
const sources = (...names: string[]) => ({
  at: NOW,
  connections: names.map((name, i) => connection(name, i + 1)),
  endpoints: [],
  store: calmStore,
});
const said = {
  namespace: 'ticketing',
  workload: null,
  is: 'critical',
  because: 'a person says so',
  gone: false,
  byPerson: true,
};
const gone = { ...said, namespace: 'old', workload: 'deployment:web', is: 'trial', gone: true };
const labelled = { ...said, namespace: 'tides', is: 'trial', because: 'label weight=trial', byPerson: false };
const answer = (cluster: string, places: object[] = []) => ({ cluster, label: 'weight', places });
const kept = ({ namespace, workload, is }: { namespace: string; workload: string | null; is: string }) => ({
  namespace,
  workload,
  is,
});

describe('criticality', () => {
  const answers = {
    'GET /api/sources': sources('seaward', 'landward'),
    'GET /api/criticality/seaward': answer('seaward', [said, gone, labelled]),
    'GET /api/criticality/landward': answer('landward'),
  };
  it('says who says it, and what is not there; only what a person said can be taken back', async () => {
    const asked = serveAnswers({ ...answers, 'PUT /api/criticality/seaward': answer('seaward', [gone, labelled]) });
    drawAt('/admin/criticality', <Criticality />);
    const rows = await screen.findAllByRole('row');
    expect(rows.map(({ textContent }) => textContent).join('\n')).toMatch(
      /ticketing.*critical.*a person says so[\s\S]*old › deployment web · not there now.*trial[\s\S]*tides.*trial.*label weight=trial/,
    );
    expect(screen.getAllByRole('button', { name: /^take back/ })).toHaveLength(2);
    fireEvent.click(screen.getByRole('button', { name: 'take back: ticketing is critical' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
        label: 'weight',
        places: [kept(gone)],
      }),
    );
  });
  it('refuses what is no name where it is typed, then says it of a place, beside what was said', async () => {
    const asked = serveAnswers({ ...answers, 'PUT /api/criticality/seaward': answer('seaward') });
    drawAt('/admin/criticality#seaward', <Criticality />);
    const form = await screen.findByRole('form', { name: 'say it of a place' });
    const field = (name: RegExp) => within(form).getByLabelText(name);
    fireEvent.click(within(form).getByRole('button', { name: 'Say so' }));
    expect((await within(form).findByRole('alert')).textContent).toBe('which namespace?');
    fireEvent.change(field(/^Namespace/), { target: { value: 'tides' } });
    fireEvent.change(field(/^Workload/), { target: { value: 'model' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Say so' }));
    expect((await within(form).findByRole('alert')).textContent).toContain('kind:name');
    expect(asked.some(({ method }) => method === 'PUT')).toBe(false);
    fireEvent.change(field(/^Workload/), { target: { value: 'deployment:model' } });
    fireEvent.change(field(/^Is/), { target: { value: 'trial' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Say so' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
        label: 'weight',
        places: [kept(said), kept(gone), { namespace: 'tides', workload: 'deployment:model', is: 'trial' }],
      }),
    );
  });
  it('is of the cluster that is chosen, and says where all is ordinary', async () => {
    serveAnswers(answers);
    drawAt('/admin/criticality', <Criticality />);
    await screen.findByRole('form', { name: 'say it of a place' });
    fireEvent.change(screen.getByLabelText('cluster'), { target: { value: 'landward' } });
    expect(await screen.findByText(/Everything in landward is ordinary/)).toBeTruthy();
  });
  it('another label is used once it is one, and what the server refuses is said', async () => {
    const refuse = () => ({
      status: 409,
      body: { code: 'conflict', text: 'Somebody changed it meanwhile.', fields: [] },
    });
    serveAnswers({ ...answers, 'PUT /api/criticality/seaward': refuse });
    drawAt('/admin/criticality#seaward', <Criticality />);
    const form = await screen.findByRole('form', { name: 'the label that says it' });
    const use = within(form).getByRole('button', { name: 'Use this label' }) as HTMLButtonElement;
    expect(use.disabled).toBe(true);
    fireEvent.change(within(form).getByLabelText(/^Label of/), { target: { value: 'a b' } });
    fireEvent.click(use);
    expect((await within(form).findByRole('alert')).textContent).toContain('a key is letters');
    fireEvent.change(within(form).getByLabelText(/^Label of/), { target: { value: 'harbour/weight' } });
    fireEvent.click(use);
    expect(await screen.findByText(/Somebody changed it meanwhile/)).toBeTruthy();
  });
  it('says so where no cluster is connected, and where it cannot be read', async () => {
    serveAnswers({ 'GET /api/sources': sources() });
    drawAt('/admin/criticality', <Criticality />);
    expect(await screen.findByText('No cluster is connected yet.')).toBeTruthy();
    cleanUp();
    serveAnswers({ 'GET /api/sources': sources('seaward') });
    drawAt('/admin/criticality', <Criticality />);
    expect(await screen.findByText(/nothing here/)).toBeTruthy();
  });
});
