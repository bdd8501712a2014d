import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Masks } from './Masks.tsx';

afterEach(cleanUp);
const done = () => ({ status: 204, body: null });
const own = {
  key: 'passports',
  document: { title: 'passports', team: 'ferries', pattern: 'passport [A-Z][0-9]{7}', note: '' },
  owner: 'Ferries',
  mayChange: true,
};
const answer = { masks: [own], teams: [{ key: 'ferries', name: 'Ferries' }], everybody: false };

describe('what is masked in log lines', () => {
  it('is what always is, and own patterns; one is tried before it counts', async () => {
    const asked = serveAnswers({
      'GET /api/masks': answer,
      'POST /api/masks/preview': {
        looked: 200,
        masked: 3,
        examples: [{ before: 'pass A1234567', after: 'pass ‹masked›' }],
      },
      'POST /api/masks': { key: 'pass' },
    });
    drawAt('/sources/masking', <Masks />);
    expect((await screen.findByRole('article', { name: 'passports' })).textContent).toContain('in lines of Ferries');
    fireEvent.click(screen.getByRole('button', { name: 'add a pattern' }));
    const form = screen.getByRole('complementary', { name: 'mask' });
    fireEvent.change(within(form).getByLabelText('What it is'), { target: { value: 'pass' } });
    fireEvent.change(within(form).getByLabelText('Pattern'), { target: { value: '(' } });
    fireEvent.click(within(form).getByRole('button', { name: 'See what it would mask' }));
    expect((await within(form).findByRole('alert')).textContent).toMatch(/missing/i);
    expect(asked.filter(({ method }) => method === 'POST')).toEqual([]);
    fireEvent.change(within(form).getByLabelText('Pattern'), { target: { value: 'pass [A-Z]+' } });
    fireEvent.click(within(form).getByRole('button', { name: 'See what it would mask' }));
    expect((await screen.findByRole('region', { name: 'what it would mask' })).textContent).toContain(
      '3 of 200 lines of the last hour would have been changed:pass A1234567pass ‹masked›',
    );
    fireEvent.click(within(form).getByRole('button', { name: 'Mask it from now on' }));
    await waitFor(() =>
      expect(asked.find(({ method, path }) => method === 'POST' && path === '/api/masks')?.body).toEqual({
        title: 'pass',
        team: 'ferries',
        pattern: 'pass [A-Z]+',
        note: '',
      }),
    );
    await waitFor(() => expect(screen.queryByRole('complementary', { name: 'mask' })).toBeNull());
  });
  it('is changed and removed, and a refusal is told with nothing lost', async () => {
    const asked = serveAnswers({
      'GET /api/masks': answer,
      'PUT /api/masks/passports': () => ({
        status: 409,
        body: { code: 'conflict', text: 'changed meanwhile', fields: [] },
      }),
      'DELETE /api/masks/passports': done,
    });
    drawAt('/sources/masking', <Masks />);
    fireEvent.click(await screen.findByRole('button', { name: 'change it' }));
    fireEvent.change(screen.getByLabelText('Note'), { target: { value: 'of crews' } });
    fireEvent.click(screen.getByRole('button', { name: 'Change it' }));
    expect(await screen.findByText('changed meanwhile')).toBeTruthy();
    expect((screen.getByLabelText('Note') as HTMLTextAreaElement).value).toBe('of crews'); // a text area by its label
    fireEvent.click(screen.getByRole('button', { name: 'remove' }));
    fireEvent.click(await screen.findByRole('button', { name: 'Remove' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
  it('is only told to who may change none', async () => {
    serveAnswers({ 'GET /api/masks': { masks: [], teams: [], everybody: false } });
    drawAt('/sources/masking', <Masks />);
    expect(await screen.findByText(/Members of a team add them for its lines/)).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'add a pattern' })).toBeNull();
  });
});
