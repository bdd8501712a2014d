import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { UsageAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { rowOf } from '../../state/rowFixture.ts';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { UsagePlace } from './UsagePlace.tsx';

afterEach(cleanUp);
const figures = (use: number | null, tightness: number | null) => ({
  use,
  mean: use,
  peak: use,
  request: 1,
  limit: tightness === null ? null : 2,
  limitIs: tightness === null ? 'none' : 'limit',
  unlimited: tightness === null ? 'main' : null,
  tightness,
  heading: null,
});
const row = (key: string, use: number, tightness: number | null, more: object = {}) => ({
  ...rowOf(key, tightness),
  name: key.slice(key.indexOf(':') + 1),
  usage: { cpu: figures(use, tightness), memory: figures(use * 1e9, null) },
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
    against: null,
    of: null,
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
    expect(screen.getByText(/^3 more are not shown/)).toBeTruthy();
    expect(list.textContent).not.toContain('more are not shown');
    fireEvent.change(screen.getByLabelText('order of Namespaces'), { target: { value: 'name' } });
    expect(within(list).getAllByRole('option')[0]!.getAttribute('title')).toBe('berths');
    fireEvent.change(screen.getByLabelText('resource'), { target: { value: 'memory' } });
    await waitFor(() =>
      expect(within(list).getAllByRole('option')[0]!.getAttribute('aria-label')).toMatch(
        /memory:.*no limit, because main has none/,
      ),
    );
  });
  it('says that a column is empty where a list would be: no list stands there without anything in it', async () => {
    const columns = [
      { level: 'cluster', rows: ROWS[0], left: 0, summary: '' },
      { level: 'namespace', rows: [], left: 0, summary: '' },
    ];
    serveUsage({ columns });
    drawAt('/usage?in=seaward', <UsagePlace />);
    await screen.findByText('Nothing of this kind was there in this window.');
    expect(screen.getAllByRole('listbox').map((list) => list.getAttribute('aria-label'))).toEqual(['Clusters']);
    expect(screen.getByRole('region', { name: 'Namespaces' })).toBeTruthy();
  });
  it('shows another resource once the server has told of it: until then it is awaited, and the address says which', async () => {
    const asked: string[] = [];
    serveAnswers({
      'GET /api/usage?': ({ path }: { path: string }) => {
        const of = new URLSearchParams(path.slice(path.indexOf('?'))).get('of');
        asked.push(of ?? 'none');
        const rows = [
          row('quiet', 5, 0.5, { other: { ...figures(300, null), request: null, unlimited: null } }),
          row('busy', 1, 0.9, { other: { ...figures(3072, null), request: null, unlimited: null } }),
          row('unread', 1, 0.9),
        ];
        return {
          status: 200,
          body: answerFor([], { of, columns: [{ level: 'cluster', rows, left: 0, summary: '' }] }),
        };
      },
    });
    const router = drawAt('/usage', <UsagePlace />);
    const list = await screen.findByRole('listbox', { name: 'Clusters' });
    const labels = () =>
      within(list)
        .getAllByRole('option')
        .map((option) => option.getAttribute('aria-label'));
    expect(labels()[0]).toMatch(/^busy/);
    fireEvent.change(screen.getByLabelText('resource'), { target: { value: 'received' } });
    expect(within(list).getAllByText('…')).toHaveLength(3);
    await waitFor(() => expect(within(list).queryAllByText('…')).toHaveLength(0));
    expect(router.state.location.search).toContain('of=received');
    expect(labels()).toEqual([
      expect.stringMatching(
        /^busy\. received over the network: 3.00 KiB per s; 95 % of the window below 3.00 KiB per s$/,
      ),
      expect.stringMatching(/^quiet/),
      expect.stringMatching(/^unread\. received over the network: not known$/),
    ]);
    expect(within(list).getByText('3.00 KiB/s')).toBeTruthy();
    expect(asked).toEqual(['none', 'received']);
    // CPU and memory are in every answer
    await press('m');
    await waitFor(() => expect(router.state.location.search).not.toContain('of='));
    expect(asked).toEqual(['none', 'received']);
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
  it('goes over nodes as well: by the menu, by a key, and back', async () => {
    const asked = serveUsage();
    const router = drawAt('/usage?in=seaward/tides', <UsagePlace />);
    fireEvent.change(await screen.findByLabelText('below the clusters'), { target: { value: 'node' } });
    await waitFor(() => expect(router.state.location.search).toContain('by=node'));
    expect(router.state.location.search).toContain('in=seaward&');
    await waitFor(() => expect(asked.some(({ path }) => path.includes('by=node'))).toBe(true));
    await press('n');
    await waitFor(() => expect(router.state.location.search).not.toContain('by=node'));
  });
  it('compares: asks with the shift, says the swing, mirrors by a key, and stops', async () => {
    const compared = (cpu: number) => ({
      cpu: { use: cpu, mean: cpu, peak: cpu },
      memory: { use: 1, mean: 1, peak: 1 },
    });
    const rows = [
      row('berths', 1, 0.2, { against: compared(0.8), pairing: 'both' }),
      row('tides', 2, 0.9, { against: compared(1), pairing: 'both' }),
      row('fresh', 0.1, 0.1, { pairing: 'new' }),
    ];
    const columns = [
      { level: 'cluster', rows: ROWS[0], left: 0, summary: '' },
      { level: 'namespace', rows, left: 0, summary: '' },
    ];
    const asked = serveUsage({ columns, against: { from: 1, to: 2, live: false } });
    const router = drawAt('/usage?in=seaward&against=1d', <UsagePlace />);
    const list = await screen.findByRole('listbox', { name: 'Namespaces' });
    expect(asked.some(({ path }) => path.includes('shift=86400000'))).toBe(true);
    expect(
      within(list).getByRole('option', { name: /^tides.*1.00 core in the window compared with: \+100 %/ }),
    ).toBeTruthy();
    expect(
      within(list).getByRole('option', { name: /^fresh.*new: the window compared with does not have it/ }),
    ).toBeTruthy();
    expect(screen.getByText('a day earlier')).toBeTruthy();
    await press('v');
    await waitFor(() => expect(router.state.location.search).toContain('show=mirror'));
    const order = within(list)
      .getAllByRole('option')
      .map((option) => option.getAttribute('title'));
    expect(order).toEqual(['tides', 'berths', 'fresh']);
    fireEvent.click(screen.getByRole('button', { name: 'compare no more' }));
    await waitFor(() => expect(router.state.location.search).toBe('?in=seaward&window=3h'));
  });
  it('shows others as one share that cannot be opened', async () => {
    const others = row('~others', 9, null, { kind: 'others', name: 'others' });
    serveUsage({
      columns: [
        { level: 'cluster', rows: ROWS[0], left: 0, summary: '' },
        { level: 'namespace', rows: [...(ROWS[1] ?? []), others], left: 0, summary: '' },
      ],
    });
    const router = drawAt('/usage?in=seaward', <UsagePlace />);
    const share = await screen.findByRole('option', { name: /^others, as one share/ });
    expect(share.getAttribute('aria-disabled')).toBe('true');
    fireEvent.click(share);
    expect(router.state.location.search).not.toContain('others');
  });
  it('says what it is blind to, and keeps what is on screen when an answer fails', async () => {
    serveUsage({ blind: ['seaward is blind: No answer in time.'] });
    drawAt('/usage?in=seaward', <UsagePlace />);
    expect((await screen.findByText('partly blind')).parentElement!.textContent).toContain('No answer in time.');
    expect(screen.getByRole('option', { name: /^tides/ })).toBeTruthy();
  });
  it('leads a newcomer to Sources, and says what failed', async () => {
    const nothing = {
      'GET /api/usage?': UsageAnswer.parse({
        window: { from: 1, to: 2, live: true },
        path: [],
        against: null,
        of: null,
        columns: [{ level: 'cluster', rows: [], left: 0, summary: '' }],
        blind: [],
      }),
    };
    serveAnswers({ ...nothing, 'GET /api/session': sessionAs('administrator') });
    drawAt('/usage', <UsagePlace />);
    expect(await screen.findByRole('link', { name: 'connect a cluster' })).toBeTruthy();
    cleanUp();
    serveAnswers({ ...nothing, 'GET /api/session': sessionAs('member') });
    drawAt('/usage', <UsagePlace />);
    expect(await screen.findByText('Connecting clusters is for administrators: ask maren.')).toBeTruthy();
    expect(screen.queryByRole('link', { name: 'connect a cluster' })).toBeNull();
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
