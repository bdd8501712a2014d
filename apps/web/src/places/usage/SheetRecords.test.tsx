import { fireEvent, screen, within } from '@testing-library/react';
import type { SheetAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { SheetLines } from './SheetLines.tsx';
import { SheetTraces } from './SheetTraces.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const TRACE = '4bf92f3577b34da6a3ce929d0e0e4736';
/** As much of a sheet as these look at. */
const sheet = (level: string) =>
  ({ level, path: ['seaward', 'ticketing', 'deployment:booking-front'] }) as unknown as SheetAnswer;
const line = (more: object) => ({
  at: NOW - 5000.25,
  level: 'error',
  text: 'seat ledger did not answer',
  fields: [['after_ms', '2500']],
  traceId: TRACE,
  pod: 'booking-front-1',
  container: 'booking-front',
  wording: { number: 7, text: 'seat ledger did not answer' },
  ...more,
});

describe('log lines of a sheet', () => {
  const draw = (answer: object, level = 'workload') => {
    const asked = serveAnswers({ 'GET /api/records/lines': answer });
    drawAt('/usage', <SheetLines sheet={sheet(level)} />);
    return asked;
  };
  it('tell level, text, fields, trace and where they are from, and which share has a trace', async () => {
    const asked = draw({
      lines: [line({}), line({ text: 'x', level: null, traceId: '' })],
      more: false,
      day: { lines: 400, traced: 100 },
      known: true,
      dropped: null,
      gaps: [],
    });
    const list = await screen.findByRole('list', { name: 'log lines' });
    const [first, second] = within(list).getAllByRole('listitem');
    expect(first!.textContent).toContain('errorbooking-front-1trace 4bf92f35…seat ledger did not answerafter_ms 2500');
    expect(second!.textContent).not.toContain('trace');
    expect(screen.getByText(/400 lines within 24 h, 25 % of them bear a trace id/)).toBeTruthy();
    expect(asked.find(({ path }) => path.startsWith('/api/records/lines'))!.path).toContain('deployment');
  });
  it('are the first few, until all are asked for', async () => {
    draw({
      lines: Array.from({ length: 30 }, (_, i) => line({ at: NOW - i * 1000 })),
      more: true,
      day: { lines: 99, traced: 0 },
      known: true,
      dropped: null,
      gaps: [],
    });
    fireEvent.click(await screen.findByRole('button', { name: 'show all 30 newest' }));
    expect(screen.getAllByRole('listitem')).toHaveLength(30);
    expect(screen.getByText(/Older ones are in the window/)).toBeTruthy();
  });
  it('say why there are none', async () => {
    draw({ lines: [], more: false, day: { lines: 0, traced: 0 }, known: false, dropped: null, gaps: [] });
    expect(await screen.findByText(/No program sends log lines of it/)).toBeTruthy();
    cleanUp();
    draw({ lines: [], more: false, day: { lines: 12, traced: 0 }, known: true, dropped: null, gaps: [] });
    expect(await screen.findByText(/None came within this window; 12 lines within the last 24 h/)).toBeTruthy();
  });
  it('are not asked for where none can be, and tell a failure', async () => {
    const asked = serveAnswers({});
    drawAt('/usage', <SheetLines sheet={sheet('object')} />);
    expect(asked.filter(({ path }) => path.includes('records'))).toEqual([]);
    cleanUp();
    serveAnswers({
      'GET /api/records/lines': () => ({ status: 503, body: { code: 'unavailable', text: 'not now', fields: [] } }),
    });
    drawAt('/usage', <SheetLines sheet={sheet('pod')} />);
    expect(await screen.findByText('not now')).toBeTruthy();
  });
});

describe('traces of a sheet', () => {
  const trace = (more: object) => ({
    traceId: TRACE,
    at: NOW - 60_000,
    took: 1200,
    operation: 'POST /bookings',
    failed: false,
    pod: 'booking-front-1',
    container: 'booking-front',
    whole: { took: 1500, spans: 9, failed: true, orphans: 2 },
    weight: 10,
    ...more,
  });
  const step = (spanId: string, more: object) => ({
    spanId,
    parentId: '',
    name: 'POST /bookings',
    kind: 'server',
    at: NOW - 60_000,
    took: 1200,
    failed: false,
    message: '',
    fields: [],
    service: 'booking-front',
    pod: null,
    node: null,
    ...more,
  });
  it('are the slowest and the failed, scaled up where not all are kept, each with its steps', async () => {
    const asked = serveAnswers({
      'GET /api/records/traces?': {
        slowest: [trace({})],
        failed: [trace({ failed: true, weight: 1, operation: 'GET /seats' })],
        traces: 420,
        failures: 3,
        sampled: true,
        whole: true,
      },
      [`GET /api/records/traces/${TRACE}`]: {
        traceId: TRACE,
        steps: [
          step('1'.repeat(16), {}),
          step('2'.repeat(16), { name: 'hold', service: 'seat-ledger', failed: true, message: 'no seat' }),
        ],
        hidden: 4,
        left: 0,
        orphans: 2,
        open: true,
      },
    });
    drawAt('/usage', <SheetTraces sheet={sheet('workload')} />);
    const slowest = await screen.findByRole('list', { name: 'traces: slowest' });
    expect(slowest.textContent).toMatch(
      /POST \/bookings.*failed elsewhere.*1\.20 s.*9 steps, 1\.50 s in all · stands for 10 · the parent of 2 never came/,
    );
    expect(screen.getByText(/about 420 traces within this window, 3 failed; not all are kept/)).toBeTruthy();
    expect(screen.getByRole('list', { name: 'traces: failed, newest first' }).textContent).toContain('GET /seats');
    fireEvent.click(within(slowest).getByRole('button'));
    const steps = await screen.findByRole('list', { name: 'steps of the trace' });
    expect(steps.textContent).toContain('no seat');
    expect(
      screen.getByText(
        /4 steps elsewhere, which you may not see · the parent of 2 steps never came · more of it may still come/,
      ),
    ).toBeTruthy();
    expect(asked.filter(({ path }) => path.includes(TRACE))).toHaveLength(1);
  });
  it('are not there where none were sent', async () => {
    serveAnswers({
      'GET /api/records/traces': { slowest: [], failed: [], traces: 0, failures: 0, sampled: false, whole: true },
      'GET /api/records/lines': {
        lines: [],
        more: false,
        day: { lines: 0, traced: 0 },
        known: false,
        dropped: null,
        gaps: [],
      },
    });
    drawAt(
      '/usage',
      <>
        <SheetTraces sheet={sheet('workload')} />
        <SheetLines sheet={sheet('workload')} />
      </>,
    );
    await screen.findByText(/No program sends log lines/);
    expect(screen.queryByRole('region', { name: 'Traces' })).toBeNull();
  });
});
