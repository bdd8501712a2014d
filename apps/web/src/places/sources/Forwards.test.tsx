import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { ForwardDocument, type ForwardsAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Forwards } from './Forwards.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const done = () => ({ status: 204, body: null });
const own: ForwardsAnswer['forwards'][number] = {
  key: 'long-store',
  document: ForwardDocument.parse({
    title: 'long store',
    address: 'https://store.example:4318',
    signals: ['logs', 'traces'],
    keys: ['harbour'],
    clusters: ['seaward'],
    leastLevel: 'warning',
    failedOnly: true,
    note: 'kept for a year',
  }),
  proves: false,
  state: {
    waiting: { requests: 3, items: 44, bytes: 2048, since: NOW - 120_000 },
    sent: 900,
    refused: 7,
    dropped: 5,
    lastSentAt: NOW - 130_000,
    trouble: { why: 'It takes no more for now (429).', since: NOW - 120_000 },
    refusal: 'It refused a request for good (400).',
  },
};
const answer = (...forwards: ForwardsAnswer['forwards']): ForwardsAnswer => ({
  forwards,
  keys: ['harbour', 'quay'],
  clusters: ['seaward'],
});

describe('what goes on to other receivers', () => {
  it('tells what is chosen, what waits and why, what was thrown away and what was refused', async () => {
    serveAnswers({ 'GET /api/forwards': answer(own) });
    drawAt('/sources/forwarding', <Forwards />);
    const row = await screen.findByRole('article', { name: 'long store' });
    for (const words of [
      'log lines of level warning and graver, spans that failed of seaward that came with harbour',
      '900 items taken there',
      '44 items wait, 2.00 KiB of 256 MiB, the oldest for 2 min',
      'sent without a token',
      'It takes no more for now (429).',
      '5 items thrown away',
      '7 items refused there',
      'for good (400)',
      'kept for a year',
    ])
      expect(row.textContent).toContain(words);
  });
  it('is added with a token, and what is wrong is said where it is', async () => {
    const asked = serveAnswers({ 'GET /api/forwards': answer(), 'POST /api/forwards': { key: 'long-store' } });
    drawAt('/sources/forwarding', <Forwards />);
    fireEvent.click(await screen.findByRole('button', { name: 'add a receiver' }));
    const form = screen.getByRole('complementary', { name: 'receiver' });
    const type = (label: string | RegExp, value: string) =>
      fireEvent.change(within(form).getByLabelText(label), { target: { value } });
    type('What it is', 'long store');
    type('Address, before /v1/…', 'store');
    for (const label of ['metrics', 'log lines', 'spans']) fireEvent.click(within(form).getByLabelText(label));
    fireEvent.click(within(form).getByRole('button', { name: 'Let it go on' }));
    expect((await within(form).findAllByRole('alert')).map(({ textContent }) => textContent)).toEqual([
      expect.stringContaining('no address'),
      'choose at least one',
    ]);
    expect(asked.some(({ method }) => method === 'POST')).toBe(false);
    type('Address, before /v1/…', 'https://store.example:4318');
    type('Token that it is shown', 'abc');
    fireEvent.click(within(form).getByLabelText('log lines'));
    fireEvent.click(within(form).getByLabelText('quay'));
    fireEvent.click(within(form).getByRole('button', { name: 'Let it go on' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'POST')?.body).toMatchObject({
        secret: 'abc',
        document: { address: 'https://store.example:4318', signals: ['logs'], keys: ['quay'], clusters: [] },
      }),
    );
    await waitFor(() => expect(screen.queryByRole('complementary', { name: 'receiver' })).toBeNull());
  });
  it('is tested, changed with the token as before, and removed', async () => {
    const asked = serveAnswers({
      'GET /api/forwards': answer(own),
      'POST /api/forwards/long-store/test': {
        answers: [
          { signal: 'logs', taken: true, words: 'taken' },
          { signal: 'traces', taken: false, words: 'It has nothing at this path (404): check the address.' },
        ],
      },
      'PUT /api/forwards/long-store': done,
      'DELETE /api/forwards/long-store': done,
    });
    drawAt('/sources/forwarding', <Forwards />);
    fireEvent.click(await screen.findByRole('button', { name: 'test it' }));
    expect((await screen.findByRole('list', { name: 'what it answered' })).textContent).toBe(
      'logs: takentraces: It has nothing at this path (404): check the address.',
    );
    fireEvent.click(screen.getByRole('button', { name: 'change it' }));
    fireEvent.click(screen.getByLabelText(/^off/));
    fireEvent.click(screen.getByRole('button', { name: 'Change it' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PUT')?.body).toMatchObject({
        secret: null,
        document: { use: 'off' },
      }),
    );
    fireEvent.click(screen.getByRole('button', { name: 'remove' }));
    expect((await screen.findByRole('alertdialog')).textContent).toContain('44 items that wait for it are thrown away');
    fireEvent.click(screen.getByRole('button', { name: 'Remove' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
});
