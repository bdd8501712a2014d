import { fireEvent, screen, waitFor } from '@testing-library/react';
import type { MetricNamesAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { OwnState } from './OwnState.tsx';

afterEach(cleanUp);
const metric = (name: string, more: Partial<MetricNamesAnswer['metrics'][number]> = {}) => ({
  name,
  type: 'gauge' as const,
  unit: '',
  series: 1,
  help: `help of ${name}`,
  from: 'Zetopsis itself',
  last: 3,
  trace: [1, null, 3],
  text: `read ${name}`,
  ...more,
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
      'GET /api/measures/metrics': {
        metrics: [
          metric('zetopsis_odd'),
          metric('zetopsis_memory_resident_bytes', { unit: 'bytes', last: 2 ** 30 }),
          metric('not_of_zetopsis_'),
          metric('zetopsis_questions', { series: 2, last: null }),
        ],
        left: 0,
      } satisfies MetricNamesAnswer,
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
    expect([...figures.querySelectorAll('li')].map(({ textContent }) => textContent)).toEqual([
      'memory of the process1.00 GiB',
      'questions that are worked on, or waitno value yet',
    ]);
    expect((await screen.findByRole('list', { name: 'own log lines' })).textContent).toContain('code stopped');
    fireEvent.click(screen.getByRole('button', { name: '1 other own figure' }));
    expect(figures.textContent).toContain('help of zetopsis_odd');
    fireEvent.click(screen.getByRole('button', { name: /memory of the process/ }));
    await waitFor(() => expect(router.state.location.pathname).toBe('/measures'));
    expect(decodeURIComponent(router.state.location.search.replaceAll('+', ' '))).toContain(
      'read zetopsis_memory_resident_bytes',
    );
  });
  it('says when there is nothing yet', async () => {
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/measures/metrics': { metrics: [], left: 0 },
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
    expect(await screen.findByText(/Its own page was not read yet/)).toBeTruthy();
    expect(await screen.findByText(/It wrote nothing since/)).toBeTruthy();
  });
});
