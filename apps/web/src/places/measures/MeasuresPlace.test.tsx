import { fireEvent, screen } from '@testing-library/react';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { MeasuresPlace } from './MeasuresPlace.tsx';

afterEach(cleanUp);
const metrics = {
  metrics: [
    {
      name: 'boats_total',
      type: 'counter',
      unit: '',
      series: 3,
      help: 'Boats that came in.',
      from: 'harbour and 1 more',
      last: 0.5,
      trace: [null, 0.25, 0.5],
      text: 'read boats_total\n  per second over 5m\n',
    },
  ],
  left: 2,
};
const answer = {
  text: 'read boats_total\n  per second over 5m\n',
  shownAs: null,
  series: [
    {
      labels: { quay: 'north' },
      name: null,
      unit: 'per second',
      points: [
        [1, 0.5],
        [2, 1.5, ['partial']],
      ],
    },
    {
      labels: { quay: 'south' },
      name: null,
      unit: 'per second',
      points: [
        [1, 2],
        [2, 4],
      ],
    },
  ],
  left: 0,
  read: { series: 3, samples: 120, resolution: 'samples' },
  notes: ['A window was widened.'],
  nothing: null,
  steps: [],
  examples: [],
  took: 12,
};
const kept = {
  key: 'boats-an-hour',
  title: 'Boats an hour',
  note: 'Look at it before the tide.',
  team: 'quays',
  owner: 'Quays',
  text: 'read boats_total\n  growth over 1h\n',
  unit: '',
  problem: null,
  readBy: ['All of the harbour'],
  mayChange: true,
};
const saved = { measures: [kept], teams: [{ key: 'quays', name: 'Quays' }], everybody: false };
const base = {
  'GET /api/session': sessionAs('member'),
  'GET /api/measures/metrics': metrics,
  'GET /api/measures/saved': saved,
};

describe('Measures', () => {
  it('begins with a metric, asks for it, and says what must be known to read the answer', async () => {
    const asked = serveAnswers({ ...base, 'POST /api/measures/evaluate': answer });
    drawAt('/measures?in=seaward/tides', <MeasuresPlace />);
    fireEvent.click(await screen.findByRole('button', { name: 'ask about boats_total' }));
    const rows = (await screen.findByRole('table', { name: 'last values' })).querySelectorAll('tr');
    expect([...rows].map((row) => row.textContent)).toEqual([
      expect.stringMatching(/^south4\.00 per s/),
      expect.stringMatching(/^north1\.50 per s.*partial/),
    ]);
    const metric = screen.getByRole('button', { name: 'ask about boats_total' });
    expect(metric.textContent).toContain('one of them 0.50 per s');
    expect(metric.title).toBe('Boats that came in.\nread from harbour and 1 more');
    expect(screen.getByText('A window was widened.')).toBeTruthy();
    expect(screen.getByText(/read 3 series, 120 samples/)).toBeTruthy();
    expect(screen.getByText('2 more: type a part of the name.')).toBeTruthy();
    const [sent] = asked.filter(({ method }) => method === 'POST');
    expect(sent?.body).toMatchObject({ text: answer.text, in: ['seaward', 'tides'], explain: false });
  });
  it('says why nothing is drawn, and what is wrong', async () => {
    serveAnswers({ ...base, 'POST /api/measures/evaluate': { ...answer, series: [], nothing: 'No series fits.' } });
    drawAt('/measures?measure=read+x', <MeasuresPlace />);
    expect(await screen.findByText('No series fits.')).toBeTruthy();
    cleanUp();
    serveAnswers({
      ...base,
      'POST /api/measures/evaluate': () => ({
        status: 400,
        body: { code: 'invalid', text: 'line 1, column 1: “read” was expected', fields: [] },
      }),
    });
    drawAt('/measures?measure=raed+x', <MeasuresPlace />);
    expect((await screen.findByRole('alert')).textContent).toContain('“read” was expected');
  });
  it('marks what happened meanwhile in what is looked at', async () => {
    const raised = { at: 1, kind: 'raised', severity: 'warning', title: 'north is full', path: ['seaward'] };
    const tape = {
      span: { from: 0, to: 3, live: true },
      grid: { start: 0, step: 1, count: 3 },
      load: [null, null, null],
      loadOf: 'everything',
      marks: [raised, { ...raised, at: 9, title: 'long after it' }],
      stretches: [],
      hushes: [],
      gaps: [],
      newestAt: 3,
    };
    serveAnswers({ ...base, 'POST /api/measures/evaluate': answer, 'GET /api/usage/tape': tape });
    drawAt('/measures?measure=read+x', <MeasuresPlace />);
    const marks = await screen.findAllByTestId('mark');
    expect(marks.map(({ title }) => title)).toEqual([expect.stringMatching(/north is full$/)]);
  });
  it('shows the steps when they are asked for', async () => {
    const step = {
      binding: 'use',
      text: 'read boats_total',
      kind: 'counter',
      read: { series: 3, samples: 120 },
      lines: 3,
      points: { there: 5, none: 1, partial: 1, atLeast: 0, filled: 0 },
      took: 31,
      series: [answer.series[0]],
      left: 2,
    };
    const asked = serveAnswers({ ...base, 'POST /api/measures/evaluate': { ...answer, steps: [step] } });
    drawAt('/measures?measure=read+x', <MeasuresPlace />);
    fireEvent.click(await screen.findByLabelText('show the steps'));
    const steps = await screen.findByRole('region', { name: 'steps' });
    expect(steps.textContent).toContain('use = read boats_total3 series, 120 samples');
    expect(steps.textContent).toContain('1 without value, 1 partial');
    expect(steps.textContent).toContain('31 ms');
    expect(asked.filter(({ method }) => method === 'POST').at(-1)?.body).toMatchObject({ explain: true });
  });
  it('draws it in another way, hides a line and takes it along; the way stands in the address', async () => {
    serveAnswers({ ...base, 'POST /api/measures/evaluate': answer });
    const router = drawAt('/measures?measure=read+x', <MeasuresPlace />);
    fireEvent.change(await screen.findByLabelText('drawn as'), { target: { value: 'bars' } });
    const bars = await screen.findByRole('figure', { name: 'ranked bars of the measure' });
    expect(bars.querySelectorAll('li')).toHaveLength(2);
    expect(router.state.location.search).toContain('drawn=bars');
    fireEvent.click(screen.getByRole('button', { name: 'hide south' }));
    expect(bars.querySelectorAll('li')).toHaveLength(1);
    fireEvent.click(screen.getByRole('button', { name: 'hide north' }));
    fireEvent.click(screen.getByRole('button', { name: 'show all lines' }));
    expect(screen.getByRole('figure', { name: 'ranked bars of the measure' }).querySelectorAll('li')).toHaveLength(2);
    fireEvent.click(screen.getByRole('button', { name: 'take it along' }));
    expect(screen.getByRole('figure', { name: 'from a shell, with a token of yours' }).textContent).toContain(
      '/api/measures/evaluate',
    );
  });
  it('asks for the window compared with as well, and says what a line was then', async () => {
    const asked = serveAnswers({ ...base, 'POST /api/measures/evaluate': answer });
    drawAt('/measures?measure=read+x&against=1d&every=60000', <MeasuresPlace />);
    const rows = (await screen.findByRole('table', { name: 'last values' })).querySelectorAll('tbody tr');
    expect(rows[0]?.textContent).toContain('4.00 per s (+0');
    const [now, then] = asked
      .filter(({ method }) => method === 'POST')
      .map(({ body }) => body as { from: number; step: number });
    expect(Math.abs(now!.from - then!.from)).toBeGreaterThan(86_300_000);
    expect(now!.step).toBe(60_000);
  });
  it('keeps a text under a title for a team, and says what is wrong with either', async () => {
    const refused = {
      code: 'conflict',
      text: '“x” is what another is called',
      fields: [{ path: 'title', text: '“x” is what another is called' }],
    };
    const asked = serveAnswers({
      ...base,
      'POST /api/measures/evaluate': answer,
      'POST /api/measures/saved': () => ({ status: 409, body: refused }),
    });
    drawAt('/measures?measure=read+x', <MeasuresPlace />);
    fireEvent.click(await screen.findByRole('button', { name: 'keep it' }));
    fireEvent.change(screen.getByLabelText('Title'), { target: { value: 'x' } });
    fireEvent.click(screen.getByRole('button', { name: 'Keep it with the text above' }));
    expect((await screen.findByRole('alert')).textContent).toContain('what another is called');
    expect(asked.find(({ method, path }) => method === 'POST' && path.endsWith('saved'))?.body).toEqual({
      title: 'x',
      note: '',
      team: 'quays',
      text: 'read x',
    });
  });
  it('shows a saved measure with its title, whose it is, who reads it, and its versions', async () => {
    serveAnswers({
      ...base,
      'POST /api/measures/evaluate': answer,
      'GET /api/measures/saved/boats-an-hour/versions': {
        versions: [
          {
            revision: 7,
            at: 1_795_960_000_000,
            by: 'tove',
            was: 'changed',
            document: { ...kept, text: 'read boats_total\n  growth over 2h\n' },
            lines: [
              { is: 'removed', text: '  growth over 1h' },
              { is: 'added', text: '  growth over 2h' },
            ],
          },
        ],
      },
    });
    const router = drawAt('/measures', <MeasuresPlace />);
    fireEvent.click(await screen.findByRole('button', { name: /^Boats an hour/ }));
    expect(router.state.location.search).toContain('saved=boats-an-hour');
    expect(await screen.findByText(/^Quays · read by All of the harbour$/)).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'versions' }));
    fireEvent.click(await screen.findByRole('button', { name: 'take this text up again' }));
    expect(router.state.location.search).toContain('2h');
  });
});
