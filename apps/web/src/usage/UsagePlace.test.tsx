import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { UsageAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../state/testServer.tsx';
import { UsagePlace } from './UsagePlace.tsx';

afterEach(cleanUp);
const figures = (use: number | null, tightness: number | null) => ({
  use,
  peak: use,
  request: 1,
  limit: tightness === null ? null : 2,
  limitIs: tightness === null ? 'none' : 'limit',
  unlimited: tightness === null ? 'main' : null,
  tightness,
  heading: null,
});
const row = (key: string, use: number, tightness: number | null, more: object = {}) => ({
  key,
  name: key.slice(key.indexOf(':') + 1),
  kind: null,
  severity: null,
  finding: null,
  present: true,
  pods: 1,
  ready: null,
  desired: null,
  usage: { cpu: figures(use, tightness), memory: figures(use * 1e9, null) },
  throttled: null,
  ...more,
});
const LEVELS = ['cluster', 'namespace', 'workload'] as const;
const ROWS = [
  [row('seaward', 5, 0.5)],
  [row('berths', 1, 0.2), row('tides', 2, 0.9, { severity: 'critical', finding: 'It fails.' })],
  [row('deployment:tide-model', 2, 0.9)],
];
const answerFor = (path: string[], more: object = {}) =>
  UsageAnswer.parse({
    window: { from: 1, to: 2, live: true },
    path,
    columns: LEVELS.slice(0, path.length + 1).map((level, i) => ({
      level,
      rows: ROWS[i],
      left: i === 1 ? 3 : 0,
      summary: `summary ${i}`,
    })),
    blind: [],
    ...more,
  });

function serveUsage(more: object = {}) {
  return serveAnswers({
    'GET /api/usage?': ({ path }: { path: string }) => ({
      status: 200,
      body: answerFor(
        (new URLSearchParams(path.slice(path.indexOf('?'))).get('in') ?? '').split('/').filter(Boolean),
        more,
      ),
    }),
    'GET /api/usage/object': () => ({
      status: 404,
      body: { code: 'notFound', text: 'Nothing of this name was there.', fields: [] },
    }),
  });
}
const press = (key: string) => act(() => fireEvent.keyDown(document.body, { key }));
const chosen = () =>
  screen
    .getAllByRole('option', { selected: true })
    .map((option) => option.getAttribute('title'))
    .filter((title) => title !== null);

describe('Usage', () => {
  it('is walked by keys: down, in, between, out, and the address follows', async () => {
    serveUsage();
    const router = drawAt('/usage', <UsagePlace />);
    await screen.findByRole('option', { name: /^seaward/ });
    await press('j');
    await waitFor(() => expect(chosen()).toEqual(['seaward']));
    await screen.findByRole('listbox', { name: 'Namespaces' });
    await press('ArrowRight');
    await waitFor(() => expect(chosen()).toEqual(['seaward', 'tides']));
    await press('j');
    await waitFor(() => expect(chosen()).toEqual(['seaward', 'berths']));
    await press('ArrowUp');
    await waitFor(() => expect(router.state.location.search).toContain('in=seaward/tides'));
    await press('h');
    await waitFor(() => expect(chosen()).toEqual(['seaward']));
    await press('m');
    await waitFor(() => expect(router.state.location.search).toContain('of=memory'));
  });
  it('sorts by tightness, tells findings in the row’s name, and says what is left out', async () => {
    serveUsage();
    drawAt('/usage?in=seaward', <UsagePlace />);
    const list = await screen.findByRole('listbox', { name: 'Namespaces' });
    const names = within(list)
      .getAllByRole('option')
      .map((option) => option.getAttribute('aria-label'));
    expect(names[0]).toMatch(/^tides\. CPU: 2.00 cores in use, 100 % of its limit of 2.00 cores.*critical: It fails\./);
    expect(names[1]).toMatch(/^berths/);
    expect(list.textContent).toContain('3 more are not shown');
    fireEvent.change(screen.getByLabelText('order of Namespaces'), { target: { value: 'name' } });
    expect(within(list).getAllByRole('option')[0]!.getAttribute('title')).toBe('berths');
    fireEvent.change(screen.getByLabelText('resource'), { target: { value: 'memory' } });
    await waitFor(() =>
      expect(within(list).getAllByRole('option')[0]!.getAttribute('aria-label')).toMatch(
        /memory:.*no limit, because main has none/,
      ),
    );
  });
  it('opens a row with the pointer, cuts its strip, and closes the sheet with Esc', async () => {
    serveUsage();
    const router = drawAt('/usage?in=seaward', <UsagePlace />);
    fireEvent.click(await screen.findByRole('option', { name: /^tides/ }));
    await screen.findByRole('listbox', { name: 'Workloads' });
    expect(router.state.location.search).toContain('in=seaward/tides');
    expect((await screen.findByRole('alert')).textContent).toContain('Nothing of this name was there.');
    await press('Escape');
    await waitFor(() => expect(screen.queryByRole('complementary')).toBeNull());
    expect(router.state.location.search).toContain('sheet=closed');
    await press('Enter');
    expect(await screen.findByRole('complementary', { name: 'object sheet' })).toBeTruthy();
  });
  it('says what it is blind to, and keeps what is on screen when an answer fails', async () => {
    serveUsage({ blind: ['seaward is blind: No answer in time.'] });
    drawAt('/usage?in=seaward', <UsagePlace />);
    expect((await screen.findByText('partly blind')).parentElement!.textContent).toContain('No answer in time.');
    expect(screen.getByRole('option', { name: /^tides/ })).toBeTruthy();
  });
  it('leads a newcomer to Sources, and says what failed', async () => {
    serveAnswers({
      'GET /api/usage?': UsageAnswer.parse({
        window: { from: 1, to: 2, live: true },
        path: [],
        columns: [{ level: 'cluster', rows: [], left: 0, summary: '' }],
        blind: [],
      }),
    });
    drawAt('/usage', <UsagePlace />);
    expect(await screen.findByRole('link', { name: 'connect a cluster' })).toBeTruthy();
    cleanUp();
    serveAnswers({
      'GET /api/usage?': () => ({
        status: 503,
        body: { code: 'unavailable', text: 'The database is away.', fields: [] },
      }),
    });
    drawAt('/usage', <UsagePlace />);
    expect((await screen.findByRole('alert')).textContent).toContain('The database is away.');
  });
});
