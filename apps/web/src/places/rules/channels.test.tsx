import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { ChannelDocument } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { Channels } from './Channels.tsx';

afterEach(cleanUp);
const document = ChannelDocument.parse({ name: 'Tides chat', team: 'tides', address: 'http://chat.test/hooks/1' });
const channel = {
  key: 'tides-chat',
  document,
  owner: 'Tides',
  signs: true,
  mayChange: true,
  waiting: 2,
  lastSentAt: null,
  lastError: 'It answered 500 instead of taking the message.',
};
const teams = [{ key: 'tides', name: 'Tides' }];
const done = () => ({ status: 204, body: null });

describe('channels', () => {
  it('say how they stand, are tested and changed; a secret that is not typed stays', async () => {
    const asked = serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/channels': { channels: [channel] },
      'POST /api/channels/tides-chat/test': done,
      'PUT /api/channels/tides-chat': done,
    });
    drawAt('/rules', <Channels teams={teams} />);
    const line = (await screen.findByText('Tides chat')).closest('li')!;
    expect(line.textContent).toContain('signed · nothing was sent yet · 2 waiting');
    expect(line.textContent).toContain('It answered 500');
    fireEvent.click(screen.getByRole('button', { name: 'test Tides chat' }));
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith('/test'))).toBe(true));
    fireEvent.click(screen.getByRole('button', { name: 'change Tides chat' }));
    const form = within(screen.getByRole('form', { name: 'change the channel Tides chat' }));
    fireEvent.change(form.getByLabelText(/^Body/), { target: { value: '{"text": "{titel}"}' } });
    fireEvent.click(form.getByRole('button', { name: 'Save' }));
    expect((await form.findByRole('alert')).textContent).toMatch(/^there is no field \{titel\}/);
    fireEvent.change(form.getByLabelText(/^Body/), { target: { value: '{"text": "{title}"}' } });
    fireEvent.click(form.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(screen.queryByRole('form')).toBeNull());
    expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
      document: { ...document, template: '{"text": "{title}"}' },
      secret: null,
    });
  });
  it('are added for a team; what the server finds wrong stands at its field', async () => {
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/channels': { channels: [] },
      'POST /api/channels': () => ({
        status: 409,
        body: { code: 'conflict', text: 'no', fields: [{ path: 'team', text: 'this team is not there' }] },
      }),
    });
    drawAt('/rules', <Channels teams={teams} />);
    expect(await screen.findByText(/^None: teams are told by email/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'add one' }));
    const form = within(screen.getByRole('form', { name: 'add a channel' }));
    fireEvent.change(form.getByLabelText('Name'), { target: { value: 'Chat' } });
    fireEvent.change(form.getByLabelText('Address'), { target: { value: 'chat' } });
    fireEvent.click(form.getByRole('button', { name: 'Add the channel' }));
    expect((await form.findByRole('alert')).textContent).toMatch(/^this is no address/);
    fireEvent.change(form.getByLabelText('Address'), { target: { value: 'https://chat.test/x' } });
    fireEvent.click(form.getByRole('button', { name: 'Add the channel' }));
    expect(await form.findByText('this team is not there')).toBeTruthy();
  });
});
