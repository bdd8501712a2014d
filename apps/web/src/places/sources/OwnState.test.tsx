import { fireEvent, screen, waitFor } from '@testing-library/react';
import { MeasureAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { OwnState } from './OwnState.tsx';

afterEach(cleanUp);
const measured = (points: [number, number | null][], unit: string): MeasureAnswer =>
  MeasureAnswer.parse({
    text: '',
    shownAs: null,
    series: points.length === 0 ? [] : [{ labels: {}, name: null, unit, points }],
    left: 0,
    read: { series: 1, samples: 2, resolution: 'samples' },
    notes: [],
    nothing: points.length === 0 ? 'There is nothing of that name.' : null,
    steps: [],
    examples: [],
    took: 1,
  });
const line = (text: string, level: 'info' | 'error') => ({
  at: Date.now() - 5000,
  level,
  text,
  fields: [['code', 'stopped']],
  traceId: '',
  pod: null,
  container: null,
  wording: null,
});

describe('Zetopsis itself', () => {
  it('tells its figures, those to look at first by what they say, each with its measure; and what it writes', async () => {
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'POST /api/measures/evaluate': ({ body }: { body: unknown }) => ({
        status: 200,
        body: JSON.stringify(body).includes('memory_resident')
          ? measured(
              [
                [1, 2 ** 31],
                [2, 2 ** 30],
                [3, null],
              ],
              'bytes',
            )
          : measured([], ''),
      }),
      'GET /api/records/lines': {
        lines: [line('everything waited 1200 ms', 'error'), line('packed', 'info')],
        more: false,
        day: { lines: 2, traced: 0 },
        known: true,
        dropped: null,
        gaps: [],
      },
    });
    const router = drawAt('/sources/state', <OwnState />);
    const figures = await screen.findByRole('list', { name: 'own figures' });
    await screen.findByText('1.00 GiB');
    const told = [...figures.querySelectorAll('li')].map(({ textContent }) => textContent);
    expect(told).toContain('memory of the process1.00 GiB, at most 2.00 GiB');
    await waitFor(() => expect(figures.textContent).toContain('messages that waitnone so far'));
    expect((await screen.findByRole('list', { name: 'own log lines' })).textContent).toContain('code stopped');
    fireEvent.click(screen.getByRole('button', { name: /memory of the process/ }));
    await waitFor(() => expect(router.state.location.pathname).toBe('/measures'));
    expect(decodeURIComponent(router.state.location.search.replaceAll('+', ' '))).toContain(
      'read zetopsis_memory_resident_bytes',
    );
  });
  it('says when there is nothing yet', async () => {
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'POST /api/measures/evaluate': measured([], ''),
      'GET /api/records/lines': {
        lines: [],
        more: false,
        day: { lines: 0, traced: 0 },
        known: false,
        dropped: null,
        gaps: [],
      },
    });
    drawAt('/sources/state', <OwnState />);
    expect((await screen.findAllByText('none so far')).length).toBeGreaterThan(3);
    expect(await screen.findByText(/It wrote nothing since/)).toBeTruthy();
  });
});
