import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { FollowsAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { Follows } from './Follows.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const done = () => ({ status: 204, body: null });
const own: FollowsAnswer['follows'][number] = {
  key: 'pier-data',
  document: { cluster: 'seaward', namespace: 'pier-data', workloads: ['archive'], note: 'until it pushes' },
  owner: 'Platform',
  mayChange: true,
  state: {
    open: 3,
    waiting: [{ pod: 'archive-1', container: 'archive', why: 'pods/log is forbidden', since: NOW - 60_000 }],
    waitingInAll: 4,
    tooMany: 7,
    lines: 1200,
    masked: 2,
    newestAt: NOW - 4000,
  },
  gaps: [{ pod: 'archive-0', container: 'archive', from: NOW - 90_000, to: NOW - 80_000, why: 'gone' }],
};
const answer = (more: Partial<FollowsAnswer> = {}): FollowsAnswer => ({
  follows: [own],
  namespaces: [{ cluster: 'seaward', namespace: 'pier-data', workloads: ['archive', 'queue'] }],
  mostContainers: 200,
  ...more,
});

describe('log lines that are followed', () => {
  it('tell how many come, what does not and why, what is too many, and what is missing', async () => {
    serveAnswers({ 'GET /api/follows': answer() });
    drawAt('/sources/following', <Follows />);
    const row = await screen.findByRole('article', { name: 'seaward / pier-data' });
    for (const words of [
      'archive: 3 containers followed now, 1200 lines since the start, 2 times something masked',
      '7 containers not followed',
      'pods/log is forbidden',
      'and 3 others',
      'the cluster had thrown them away',
      'until it pushes',
    ])
      expect(row.textContent).toContain(words);
  });
  it('are chosen by workload, and a refusal leaves what was typed', async () => {
    const asked = serveAnswers({
      'GET /api/follows': answer({ follows: [] }),
      'POST /api/follows': () => ({ status: 403, body: { code: 'notAllowed', text: 'not yours', fields: [] } }),
    });
    drawAt('/sources/following', <Follows />);
    fireEvent.click(await screen.findByRole('button', { name: 'follow a namespace' }));
    const form = screen.getByRole('complementary', { name: 'follow' });
    fireEvent.click(within(form).getByLabelText('queue'));
    fireEvent.change(within(form).getByLabelText('Note'), { target: { value: 'for now' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Follow it from now on' }));
    expect(await within(form).findByText('not yours')).toBeTruthy();
    expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
      cluster: 'seaward',
      namespace: 'pier-data',
      workloads: ['queue'],
      note: 'for now',
    });
    expect((within(form).getByLabelText('Note') as HTMLTextAreaElement).value).toBe('for now'); // a text area by its label
  });
  it('are changed, and followed no longer', async () => {
    const asked = serveAnswers({
      'GET /api/follows': answer(),
      'PUT /api/follows/pier-data': done,
      'DELETE /api/follows/pier-data': done,
    });
    drawAt('/sources/following', <Follows />);
    fireEvent.click(await screen.findByRole('button', { name: 'change it' }));
    fireEvent.click(screen.getByLabelText('archive'));
    fireEvent.click(screen.getByRole('button', { name: 'Change it' }));
    await waitFor(() => expect(screen.queryByRole('complementary', { name: 'follow' })).toBeNull());
    expect(asked.find(({ method }) => method === 'PUT')?.body).toMatchObject({ workloads: [] });
    fireEvent.click(screen.getByRole('button', { name: 'remove' }));
    fireEvent.click(await screen.findByRole('button', { name: 'Remove' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
  it('offer nothing to whoever may follow none', async () => {
    serveAnswers({ 'GET /api/follows': answer({ follows: [{ ...own, mayChange: false }], namespaces: [] }) });
    drawAt('/sources/following', <Follows />);
    await screen.findByRole('article', { name: 'seaward / pier-data' });
    expect(screen.queryByRole('button')).toBeNull();
  });
});
