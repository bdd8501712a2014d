import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { type CoverageAnswer, type EndpointAnswer, ScoutDocument, type TryAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { calmStore } from '../../state/storeFixture.ts';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { SourcesPlace } from './SourcesPlace.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const SESSION = sessionAs('administrator');
const endpoint = (more: Partial<EndpointAnswer> = {}): EndpointAnswer => ({
  id: 7,
  kind: 'given',
  connection: null,
  name: 'lamp',
  scout: null,
  group: '',
  address: 'http://lamp.test/metrics',
  intervalSeconds: 15,
  state: 'read',
  since: NOW - 60_000,
  lastReadingAt: NOW,
  samples: 3,
  bytes: 10,
  durationMs: 1,
  problems: 0,
  cut: null,
  lastError: null,
  lastErrorAt: null,
  nextDueAt: NOW + 9000,
  ...more,
});
const sources = (...endpoints: EndpointAnswer[]) => ({ at: NOW, connections: [], endpoints, store: calmStore });
const draw = (part: string, answers: Record<string, unknown>) => {
  const asked = serveAnswers({
    'GET /api/session': SESSION,
    'GET /api/sources': sources(endpoint()),
    'GET /api/given': { given: [] },
    ...answers,
  });
  drawAt(`/sources/${part}`, <SourcesPlace />, '/sources/:part?');
  return asked;
};
const tried: TryAnswer = {
  ok: true,
  verdict: 'It answers with 2 samples of 1 metric.',
  nextStep: '1 line could not be understood and would count for nothing.',
  durationMs: 12,
  address: 'http://lamp.test/metrics',
  status: 200,
  contentType: 'text/plain',
  form: 'plain text',
  bytes: 40,
  samples: 2,
  series: 1,
  dropped: 1,
  problems: 1,
  lines: [
    { line: 1, text: 'lamp_turns 1', as: 'lamp_turns · quay north = 1', problem: null },
    { line: 2, text: 'lamp ???', as: null, problem: 'column 6: not a number' },
  ],
  more: false,
};

describe('endpoints', () => {
  it('are narrowed by words, kind and state, and an empty list offers all again', async () => {
    draw('endpoints', {
      'GET /api/sources': sources(
        endpoint(),
        endpoint({ id: 8, name: 'crane', state: 'failing', lastError: 'Nothing listens.' }),
        endpoint({ id: 9, name: 'gone', state: 'retired' }),
      ),
    });
    expect(await screen.findByText('1 of 2 pages read')).toBeTruthy();
    expect(screen.queryByText('gone')).toBeNull();
    fireEvent.change(screen.getByLabelText('state'), { target: { value: 'not read' } });
    expect(screen.queryByText('lamp')).toBeNull();
    expect(screen.getByText(/Nothing listens/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText('find an endpoint'), { target: { value: 'nothing like it' } });
    fireEvent.click(screen.getByRole('button', { name: 'show all' }));
    expect(screen.getByText('lamp')).toBeTruthy();
  });

  it('are tried without a name, line by line; nothing is lost when adding is refused', async () => {
    const asked = draw('endpoints', {
      'POST /api/given/try': tried,
      'POST /api/given': () => ({
        status: 409,
        body: {
          code: 'conflict',
          text: 'There is an endpoint called lamp already.',
          fields: [{ path: 'endpoints.0.key', text: 'in use' }],
        },
      }),
    });
    fireEvent.click(await screen.findByRole('button', { name: 'add by address' }));
    fireEvent.click(screen.getByRole('button', { name: 'Try it' }));
    expect(await screen.findByText(/this is no address/)).toBeTruthy();
    fireEvent.change(screen.getByLabelText('Address'), { target: { value: 'http://lamp.test/metrics' } });
    fireEvent.change(screen.getByLabelText('Attach labels, one a line'), { target: { value: 'quay: north' } });
    fireEvent.change(screen.getByLabelText('Leave out, one a line'), { target: { value: 'debug_*' } });
    fireEvent.click(screen.getByRole('button', { name: 'Try it' }));
    const result = await screen.findByRole('status', { name: 'result of the try' });
    expect(result.textContent).toContain('It can be read.');
    expect(result.textContent).toContain('lamp_turns · quay north = 1');
    expect(result.textContent).toContain('column 6: not a number');
    expect(result.textContent).toContain('1 series kept · 1 not kept');
    const body = asked.find(({ path }) => path === '/api/given/try')?.body;
    expect(body).toMatchObject({
      document: { labels: { quay: 'north' }, drop: [{ metric: 'debug_*', label: '', is: '' }], through: null },
    });
    fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'lamp' } });
    fireEvent.click(screen.getByRole('button', { name: 'Add' }));
    expect(await screen.findByText('in use')).toBeTruthy();
    expect((screen.getByLabelText('Address') as HTMLInputElement).value).toBe('http://lamp.test/metrics');
  });

  it('have groups, whose intervals stand in one place', async () => {
    const asked = draw('endpoints', {
      'GET /api/sources': sources(endpoint({ group: 'lights' }), endpoint({ id: 8, name: 'crane' })),
      'GET /api/intervals': {
        document: { intervalSeconds: 15, groups: {} },
        groups: [{ group: 'lights', byGroup: 1, byThemselves: 2 }],
      },
      'PUT /api/intervals': { document: { intervalSeconds: 15, groups: { lights: 60 } }, groups: [] },
    });
    fireEvent.change(await screen.findByLabelText('group'), { target: { value: 'lights' } });
    expect(screen.queryByText('crane')).toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'intervals' }));
    const field = await screen.findByLabelText('Group lights, seconds');
    expect(screen.getByText('1 source read by it, 2 by an interval of their own')).toBeTruthy();
    fireEvent.change(field, { target: { value: '0' } });
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText('at least 1 s')).toBeTruthy();
    fireEvent.change(field, { target: { value: '60' } });
    fireEvent.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() =>
      expect(asked.find(({ method }) => method === 'PUT')?.body).toEqual({
        intervalSeconds: 15,
        groups: { lights: 60 },
      }),
    );
  });

  it('lead from a metric to its series, and are removed for good with what was read', async () => {
    const gone = endpoint({ id: 9, name: 'gone', state: 'retired' });
    const asked = draw('endpoints?endpoint=9', {
      'GET /api/sources': sources(gone),
      'GET /api/endpoints/9/page': () => ({ status: 404, body: { code: 'notFound', text: 'No page.', fields: [] } }),
      'GET /api/endpoints/9/metrics': {
        metrics: [
          { name: 'lit', type: 'gauge', unit: '', help: 'Lamps.', series: 2, state: 'read', lastAt: NOW, value: null },
        ],
        more: 0,
        attached: { shore: 'west' },
        exemplars: [],
        answer: null,
      },
      'GET /api/endpoints/9/series': {
        series: [
          { labels: { quay: 'n' }, state: 'read', lastAt: NOW, value: 7, before: { at: NOW - 60_000, value: 4 } },
          { labels: {}, state: 'gone', lastAt: NOW, value: 2, before: null },
        ],
        more: 0,
      },
      'GET /api/endpoints/9/dependants': { series: 2, metrics: 1, firstAt: NOW, objects: ['host north'], stays: null },
      'DELETE /api/endpoints/9': () => ({ status: 204, body: null }),
    });
    fireEvent.mouseDown(await screen.findByRole('tab', { name: 'Metrics' }), { button: 0 });
    fireEvent.click(await screen.findByRole('button', { name: 'lit' }));
    const series = await screen.findByRole('list', { name: 'series of lit' });
    expect(
      within(series)
        .getAllByRole('listitem')
        .map((item) => item.textContent),
    ).toEqual([expect.stringContaining('quay n7+3 in 60 s'), expect.stringMatching(/^without labelsgone since/)]);
    expect(screen.getByText('shore west')).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'remove for good' }));
    const dialog = await screen.findByRole('alertdialog');
    expect(await within(dialog).findByText('host north is seen through it alone')).toBeTruthy();
    fireEvent.click(within(dialog).getByRole('button', { name: 'Remove it and its history' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });

  it('come as a pasted list, which is not sent while a line is wrong', async () => {
    const asked = draw('endpoints', {
      'POST /api/given': () => ({ status: 201, body: { given: [] } }),
      'POST /api/given/try': ({ body }: { body: { document: { address: string } } }) => ({
        status: 200,
        body: body.document.address.includes('lamp') ? tried : { ...tried, ok: false, verdict: 'Nothing listens.' },
      }),
    });
    fireEvent.click(await screen.findByRole('button', { name: 'paste a list' }));
    const area = screen.getByLabelText('endpoints, one a line');
    fireEvent.change(area, { target: { value: 'lamp,http://lamp.test/,15\ncrane,nowhere,15' } });
    expect(screen.getByText('1 line to mend first')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Add 2 endpoints' }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(area, { target: { value: 'lamp,http://lamp.test/,15\ncrane,http://crane.test/,30' } });
    // each is tried first, and nothing is kept by that
    fireEvent.click(screen.getByRole('button', { name: 'Try them all' }));
    expect(await screen.findByText('Nothing listens.')).toBeTruthy();
    expect(screen.getByText(tried.verdict)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'Add 2 endpoints' }));
    await waitFor(() =>
      expect(asked.find(({ method, path }) => method === 'POST' && path === '/api/given')?.body).toMatchObject({
        endpoints: [{ key: 'lamp' }, { key: 'crane', document: { intervalSeconds: 30 } }],
      }),
    );
    await waitFor(() => expect(screen.queryByLabelText('endpoints, one a line')).toBeNull());
  });
});

describe('coverage', () => {
  const answer: CoverageAnswer = {
    at: NOW,
    share: { containers: 10, read: 8 },
    byNamespace: [{ cluster: 'seaward', namespace: 'tides', team: null, containers: 10, read: 8 }],
    rows: [
      {
        kind: 'node',
        path: ['seaward', 'node:n1'],
        name: 'n1',
        state: 'unread',
        since: NOW - 120_000,
        reason: 'Nothing listens. 2 containers on it cannot be seen either.',
        nextStep: 'Look at its page.',
        step: { does: 'endpoint', to: '7' },
      },
    ],
    inAll: 1,
    changes: [{ endpointId: 7, what: 'lamp', text: 'its series grew from 100 to 200' }],
  };
  it('names what is not read, why, since when, and leads to the endpoint', async () => {
    draw('coverage', { 'GET /api/coverage': answer });
    const row = await screen.findByRole('article', { name: 'n1' });
    expect(row.textContent).toContain('for 2 min');
    expect(row.textContent).toContain('2 containers on it cannot be seen either');
    expect(within(row).getByRole('link', { name: 'look at the endpoint' }).getAttribute('href')).toContain(
      'endpoint=7',
    );
    expect(screen.getByText('8 of 10 running containers read (80 %)')).toBeTruthy();
    expect(screen.getByText(/its series grew from 100 to 200/)).toBeTruthy();
  });
  it('asks a pod’s ports, and says what answers there', async () => {
    const asked = draw('coverage', {
      'GET /api/coverage': answer,
      'GET /api/sources': {
        ...sources(endpoint()),
        connections: [
          {
            id: '00000000-0000-4000-8000-000000000001',
            name: 'seaward',
            address: 'https://seaward.test',
            authority: '',
            nodePage: { path: '/metrics', intervalSeconds: 15 },
            environment: '',
            region: '',
            flavour: '',
            may: 'operate',
            state: 'reading',
            since: 0,
            reason: null,
            nextStep: null,
            lastContactAt: 0,
            kinds: [],
          },
        ],
      },
      'POST /api/pods/ports': {
        node: 'n1',
        nodeAddress: '10.0.0.1',
        address: '10.2.0.7',
        phase: 'running',
        ports: [
          {
            container: 'web',
            port: 9102,
            name: 'pages',
            direct: 'No answer within 3 s.',
            through: 'A metrics page: 3 samples of 2 metrics.',
            readAs: null,
          },
        ],
      },
    });
    const form = await screen.findByRole('form', { name: 'what answers at a pod' });
    expect((within(form).getByRole('button', { name: 'Ask' }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(within(form).getByLabelText('namespace and pod'), { target: { value: 'tides/web-1' } });
    fireEvent.click(within(form).getByRole('button', { name: 'Ask' }));
    const result = await within(form).findByRole('status');
    expect(result.textContent).toContain('running on node n1 (10.0.0.1); its address is 10.2.0.7.');
    expect(result.textContent).toContain('from here: No answer within 3 s.');
    expect(result.textContent).toContain('through the cluster: A metrics page');
    expect(asked.find(({ method }) => method === 'POST')?.body).toEqual({
      cluster: 'seaward',
      namespace: 'tides',
      pod: 'web-1',
    });
  });
  it('says so when everything is read', async () => {
    draw('coverage', { 'GET /api/coverage': { ...answer, rows: [], inAll: 0, changes: [] } });
    expect(await screen.findByText('Everything that should be read is read.')).toBeTruthy();
  });
});

describe('scouts', () => {
  const scout = {
    key: 'pages',
    document: ScoutDocument.parse({ ports: ['pages'] }),
    hasSecret: false,
    found: 3,
    read: 2,
    leftOut: 5,
    held: [{ scout: 'first', pages: 1, series: 40 }],
  };
  it('are previewed with reasons that stand together, and a warning for labels that would merge', async () => {
    const asked = draw('scouts', {
      'GET /api/scouts': { scouts: [scout] },
      'POST /api/scouts/preview': {
        lookedAt: 8,
        found: [
          {
            name: 'pod tides/a :9102/metrics',
            cluster: 'seaward',
            address: 'http://10.0.0.7:9102/metrics',
            every: 15,
            labels: { team: 'x' },
            as: null,
            foundBy: 'other',
          },
        ],
        foundInAll: 1,
        leftOut: ['b', 'c'].map((name) => ({
          cluster: 'seaward',
          object: `pod tides/${name}`,
          why: 'it declares no port',
        })),
        leftOutInAll: 2,
        merging: [{ labels: { team: 'x' }, of: ['one', 'two'] }],
        fresh: 2,
        anew: { pages: 3, series: 90 },
        ended: { pages: 0, series: 0 },
        held: [{ scout: 'other', pages: 1, series: 7 }],
      },
    });
    fireEvent.click(await screen.findByRole('button', { name: 'look or change' }));
    fireEvent.change(screen.getByLabelText('With labels, one a line'), { target: { value: 'a b c' } });
    fireEvent.click(screen.getByRole('button', { name: 'Preview' }));
    expect(await screen.findByText(/no key of a label/)).toBeTruthy();
    expect(asked.some(({ method }) => method === 'POST')).toBe(false);
    fireEvent.change(screen.getByLabelText('With labels, one a line'), { target: { value: 'app: web' } });
    fireEvent.click(screen.getByRole('button', { name: 'Preview' }));
    const preview = await screen.findByRole('status', { name: 'preview' });
    expect(preview.textContent).toContain('1 page at 8 objects');
    expect(preview.textContent).toContain('2 objects: it declares no port');
    expect(preview.textContent).toContain('one, two would all be team x');
    expect(preview.textContent).toContain('read for scout other');
    const changes = within(preview).getByRole('list', { name: 'what would change' });
    expect(
      within(changes)
        .getAllByRole('listitem')
        .map((item) => item.textContent),
    ).toEqual([
      '2 pages are not read yet: how many series begin shows with the first reading.',
      '3 pages would be labelled otherwise: 90 series end, and as many begin anew.',
      '1 page (7 series) is read for scout other, and stays there until somebody moves it.',
    ]);
    expect(asked.find(({ method }) => method === 'POST')?.body).toMatchObject({
      document: { labels: { app: 'web' }, ports: ['pages'] },
      key: 'pages',
    });
  });
  it('take pages of another over, and are removed, only after saying what that does', async () => {
    const asked = draw('scouts', {
      'GET /api/scouts': { scouts: [scout] },
      'POST /api/scouts/pages/take': { scouts: [{ ...scout, held: [] }] },
      'GET /api/scouts/pages/dependants': { pages: 3, series: 120, goOn: [{ scout: 'first', pages: 2 }] },
      'DELETE /api/scouts/pages': () => ({ status: 204, body: null }),
    });
    fireEvent.click(await screen.findByRole('button', { name: 'move them here' }));
    const moving = await screen.findByRole('alertdialog', { name: 'Move 1 page from scout first to pages?' });
    expect(moving.textContent).toContain('up to 40 series end');
    fireEvent.click(within(moving).getByRole('button', { name: 'Move them' }));
    await waitFor(() => expect(asked.find(({ path }) => path.endsWith('/take'))?.body).toEqual({ from: 'first' }));
    await waitFor(() => expect(screen.queryByRole('alertdialog')).toBeNull());
    fireEvent.click(screen.getByRole('button', { name: 'look or change' }));
    fireEvent.click(screen.getByRole('button', { name: 'remove' }));
    const removing = await screen.findByRole('alertdialog', { name: 'Remove scout pages?' });
    expect(await within(removing).findByText('1 page of 3 is read no more')).toBeTruthy();
    expect(removing.textContent).toContain('2 pages are found by scout first, too, and read on with its labels');
    fireEvent.click(within(removing).getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
});
