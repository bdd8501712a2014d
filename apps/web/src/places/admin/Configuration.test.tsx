import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { ConfigurationFile } from './ConfigurationFile.tsx';
import { Retention } from './Retention.tsx';
import { Revisions } from './Revisions.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const revision = (id: number, what: string) => ({
  id,
  at: NOW,
  by: 'maren',
  what,
  changes: [{ kind: 'team', key: 'tides', was: 'changed' }],
});
const difference = {
  kind: 'team',
  key: 'tides',
  was: 'changed',
  lines: [
    { is: 'same', text: 'name: Tides' },
    { is: 'removed', text: 'email: a@b.test' },
    { is: 'added', text: 'email: c@d.test' },
  ],
  warning: null,
};
const changed = (more: object = {}) => ({
  problems: [],
  differences: [difference],
  revision: null,
  along: [],
  ...more,
});

describe('revisions', () => {
  const answers = {
    'GET /api/admin/revisions': {
      revisions: [revision(7, 'changed team Tides'), revision(6, 'added team Tides')],
      more: false,
    },
    'GET /api/admin/revisions/7': { ...revision(7, 'changed team Tides'), differences: [difference] },
    'GET /api/admin/revisions/6': { ...revision(6, 'added team Tides'), differences: [] },
  };
  it('shows the newest, tries before it takes back, and goes to what came of it', async () => {
    const asked = serveAnswers({
      ...answers,
      'POST /api/admin/revisions/7': ({ body }: { body: { tryOnly: boolean } }) => ({
        status: 200,
        body: changed(body.tryOnly ? {} : { revision: 8 }),
      }),
    });
    const router = drawAt('/admin/revisions', <Revisions />);
    const sheet = await screen.findByRole('region', { name: 'revision 7' });
    expect((await within(sheet).findByText(/email: c@d.test/)).textContent).toBe('+ email: c@d.test');
    // the newest one is what is: there is nothing to return to
    expect(within(sheet).queryByRole('button', { name: 'return to it' })).toBeNull();
    fireEvent.click(within(sheet).getByRole('button', { name: 'take it back' }));
    const tried = await screen.findByRole('status', { name: 'what would change' });
    expect(asked.filter(({ method }) => method === 'POST').map(({ body }) => body)).toEqual([
      { act: 'undo', along: true, tryOnly: true },
    ]);
    fireEvent.click(within(tried).getByRole('button', { name: 'yes, take it back' }));
    await waitFor(() => expect(router.state.location.hash).toBe('#8'));
    expect(asked.filter(({ method }) => method === 'POST').at(-1)?.body).toEqual({
      act: 'undo',
      along: false,
      tryOnly: false,
    });
  });
  it('names the later ones that go along, and takes them back together', async () => {
    const along = [{ id: 7, at: NOW, by: 'bent', what: 'changed team Tides' }];
    const asked = serveAnswers({
      ...answers,
      'POST /api/admin/revisions/6': ({ body }: { body: { tryOnly: boolean } }) => ({
        status: 200,
        body: changed({ along, ...(body.tryOnly ? {} : { revision: 8 }) }),
      }),
    });
    const router = drawAt('/admin/revisions#6', <Revisions />);
    fireEvent.click(await screen.findByRole('button', { name: 'take it back' }));
    const tried = await screen.findByRole('status', { name: 'what would change' });
    expect(within(tried).getAllByRole('listitem')[0]?.textContent).toContain('bent changed team Tides');
    fireEvent.click(within(tried).getByRole('button', { name: 'yes, take all 2 back' }));
    await waitFor(() => expect(router.state.location.hash).toBe('#8'));
    expect(asked.filter(({ method }) => method === 'POST').at(-1)?.body).toEqual({
      act: 'undo',
      along: true,
      tryOnly: false,
    });
  });
  it('says why it cannot be turned back, and changes nothing', async () => {
    const asked = serveAnswers({
      ...answers,
      'POST /api/admin/revisions/6': changed({
        differences: [],
        problems: [
          { line: null, column: null, path: 'grant x', text: 'It is given to team tides, which there is not.' },
        ],
      }),
    });
    drawAt('/admin/revisions#6', <Revisions />);
    fireEvent.click(await screen.findByRole('button', { name: 'return to it' }));
    const tried = await screen.findByRole('status', { name: 'what would change' });
    expect(tried.textContent).toContain('grant x: It is given to team tides');
    expect(within(tried).queryByRole('button', { name: 'yes, return to it' })).toBeNull();
    fireEvent.click(within(tried).getByRole('button', { name: 'leave it' }));
    expect(asked.filter(({ method }) => method === 'POST')).toHaveLength(1);
  });
});

describe('the file', () => {
  const file = { text: 'zetopsis: 1\nteams:\n  tides: {}\n', revision: 7 };
  const area = () => screen.findByLabelText('text of the file') as Promise<HTMLTextAreaElement>;
  it('can be applied only as it was tried', async () => {
    const asked = serveAnswers({
      'GET /api/admin/configuration': file,
      'POST /api/admin/configuration': ({ body }: { body: { tryOnly: boolean } }) => ({
        status: 200,
        body: changed(body.tryOnly ? {} : { revision: 8 }),
      }),
    });
    drawAt('/admin/file', <ConfigurationFile />);
    const box = await area();
    const apply = () => screen.getByRole('button', { name: 'apply it' }) as HTMLButtonElement;
    expect(apply().disabled).toBe(true);
    fireEvent.change(box, { target: { value: `${file.text}# more\n` } });
    fireEvent.click(screen.getByRole('button', { name: 'try it' }));
    expect(await screen.findByText('It would change 1 document:')).toBeTruthy();
    expect(apply().disabled).toBe(false);
    fireEvent.change(box, { target: { value: `${file.text}# other\n` } });
    expect(apply().disabled).toBe(true);
    expect(screen.getByText(/The text was changed since/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'try it' }));
    await waitFor(() => expect(apply().disabled).toBe(false));
    fireEvent.click(apply());
    expect((await screen.findByRole('link', { name: 'revision 8' })).getAttribute('href')).toContain(
      '/admin/revisions',
    );
    expect(
      asked.at(-1)?.method === 'POST' || asked.some(({ body }) => (body as { tryOnly?: boolean })?.tryOnly === false),
    ).toBe(true);
  });
  it('leads to the line that is wrong, and loses nothing', async () => {
    serveAnswers({
      'GET /api/admin/configuration': file,
      'POST /api/admin/configuration': changed({
        differences: [],
        problems: [{ line: 3, column: 3, path: 'teams.tides', text: 'a team has a name' }],
      }),
    });
    drawAt('/admin/file', <ConfigurationFile />);
    const box = await area();
    fireEvent.click(screen.getByRole('button', { name: 'try it' }));
    fireEvent.click(await screen.findByRole('button', { name: 'line 3, column 3' }));
    expect(box.value.slice(box.selectionStart, box.selectionEnd)).toBe('  tides: {}');
    expect(screen.getByText(/1 problem; nothing of it can be applied/)).toBeTruthy();
    expect(box.value).toBe(file.text);
  });
});

it('retention: says what is held, keeps days within reason', async () => {
  const keep = {
    samplesDays: 15,
    fiveMinutesDays: 90,
    hoursDays: 400,
    linesDays: 7,
    tracesDays: 3,
    versionsDays: 400,
    eventsDays: 90,
    alertsDays: 730,
    lateMinutes: 60,
    pageMegabytes: 32,
    seriesPerEndpoint: 1000,
    seriesPerTeam: 2000,
    seriesInAll: 3000,
    spaceGigabytes: 0,
  };
  const asked = serveAnswers({
    'GET /api/admin/retention': {
      keep,
      held: [{ what: 'readings, packed', oldestAt: NOW, rows: 12, bytes: 2048 }],
      lastCleanedAt: null,
      problem: 'The database is away.',
    },
    'PUT /api/admin/retention': () => ({ status: 204, body: null }),
  });
  drawAt('/admin/retention', <Retention />);
  expect((await screen.findByRole('row', { name: /readings, packed/ })).textContent).toContain('12 rows2.00 KiB');
  expect(screen.getByText(/The last cleaning failed: The database is away/)).toBeTruthy();
  const days = screen.getByLabelText('Every sample');
  fireEvent.change(days, { target: { value: '0' } });
  fireEvent.click(screen.getByRole('button', { name: 'Save' }));
  expect((await screen.findByRole('alert')).textContent).toBe('at least 1 day');
  fireEvent.change(days, { target: { value: '30' } });
  fireEvent.click(screen.getByRole('button', { name: 'Save' }));
  await waitFor(() => expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({ ...keep, samplesDays: 30 }));
});
