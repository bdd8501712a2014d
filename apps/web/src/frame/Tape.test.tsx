import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { StretchDocument, TapeAnswer } from '@zetopsis/contract';
import { HOUR } from '@zetopsis/core/units';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../state/testServer.tsx';
import { Tape } from './Tape.tsx';
import { readView } from './useView.ts';

afterEach(() => {
  cleanUp();
  vi.restoreAllMocks();
});
const NOW = Date.now();
const rollout = (at: number, title: string) => ({
  at,
  kind: 'rollout',
  severity: null,
  title,
  path: ['seaward', 'manifests', 'deployment:declaration-checker'],
});
const tape = TapeAnswer.parse({
  span: { from: NOW - 12 * HOUR, to: NOW, live: true },
  grid: { start: NOW - 12 * HOUR, step: HOUR, count: 13 },
  load: Array.from({ length: 13 }, () => 1),
  loadOf: 'all clusters',
  marks: [
    rollout(NOW - 10 * HOUR, 'rollout declaration-checker 1 → 2'),
    rollout(NOW - 2 * HOUR, 'rollout declaration-checker 2 → 3'),
    { at: NOW - 5 * HOUR, kind: 'revision', severity: null, title: 'revision 7: maren changed team Tides', path: [] },
  ],
  stretches: [
    {
      key: 'tide',
      kind: 'load',
      title: 'spring tide',
      path: ['seaward'],
      from: NOW - 6 * HOUR,
      to: NOW - 5 * HOUR,
      mayChange: false,
    },
    { key: 'flood', kind: 'trouble', title: 'the quay floods', path: [], from: NOW - HOUR, to: null, mayChange: true },
  ],
  hushes: [{ reason: 'the archive is moved', from: NOW - 3 * HOUR, to: NOW - 2 * HOUR }],
  gaps: [],
  newestAt: NOW - 3000,
});

/** The drawing waits for a width, which this page's layout never gives. */
function drawTape(path: string) {
  vi.spyOn(HTMLElement.prototype, 'clientWidth', 'get').mockReturnValue(1000);
  vi.stubGlobal(
    'ResizeObserver',
    class {
      constructor(private readonly tell: (entries: unknown[]) => void) {}
      observe() {
        queueMicrotask(() => this.tell([]));
      }
      disconnect() {}
    },
  );
  vi.spyOn(HTMLElement.prototype, 'getBoundingClientRect').mockReturnValue(new DOMRect(0, 0, 1000, 72));
  const asked = serveAnswers({
    'GET /api/usage/tape': tape,
    'GET /api/stretches': {
      stretches: [
        {
          key: 'flood',
          document: StretchDocument.parse({
            kind: 'trouble',
            title: 'the quay floods',
            team: 'quay',
            from: new Date(NOW - HOUR).toISOString(),
            note: 'spring tide, and wind',
          }),
          owner: 'Quay',
          mayChange: true,
        },
      ],
      at: NOW,
      teams: [{ key: 'quay', name: 'Quay' }],
    },
    'PUT /api/stretches/flood': () => ({ status: 204, body: null }),
    'POST /api/stretches': () => ({ status: 201, body: { key: 'new' } }),
    'POST /api/stretches/flood/end': () => ({ status: 204, body: null }),
  });
  return { asked, router: drawAt(path, <Tape />) };
}

describe('the tape', () => {
  it('compares with what is chosen, swaps the two, and compares no more', async () => {
    const { router } = drawTape('/now?window=3h');
    const against = await screen.findByLabelText('against');
    expect(screen.queryByRole('button', { name: 'swap the two windows' })).toBeNull();
    fireEvent.change(against, { target: { value: String(24 * HOUR) } });
    await waitFor(() => expect(router.state.location.search).toContain('against=1d'));
    fireEvent.click(await screen.findByRole('button', { name: 'swap the two windows' }));
    await waitFor(() => expect(router.state.location.search).toContain('against=-1d'));
    fireEvent.change(screen.getByLabelText('against'), { target: { value: '0' } });
    await waitFor(() => expect(router.state.location.search).not.toContain('against'));
  });
  it('a mark leads to its object, to before and after it, and to an earlier one like it', async () => {
    const { router } = drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /rollout declaration-checker 2 → 3/ }));
    const entry = (await screen.findByRole('link', { name: 'rollout declaration-checker 2 → 3' })).closest('li')!;
    expect(within(entry).getByRole('link').getAttribute('href')).toContain(
      'in=seaward/manifests/deployment:declaration-checker',
    );
    fireEvent.click(within(entry).getByRole('button', { name: /^as after / }));
    await waitFor(() => expect(router.state.location.search).toContain('against=8h'));
    expect(router.state.location.search).toContain(`from=${NOW - 2 * HOUR}`);
  });
  it('a mark parts the time before it from the time after it', async () => {
    const { router } = drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /rollout declaration-checker 2 → 3/ }));
    const entry = (await screen.findByRole('link', { name: 'rollout declaration-checker 2 → 3' })).closest('li')!;
    fireEvent.click(within(entry).getByRole('button', { name: 'before and after' }));
    // the time since it, against as much before it: the clock goes on meanwhile
    await waitFor(() => expect(readView(router.state.location.search).shift).not.toBeNull());
    const { window, shift } = readView(router.state.location.search);
    expect(window).toMatchObject({ from: NOW - 2 * HOUR });
    expect('to' in window && window.to - window.from).toBe(shift);
  });
  it('a revision leads to Admin', async () => {
    drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /revision 7/ }));
    expect((await screen.findByRole('link', { name: /^revision 7/ })).getAttribute('href')).toMatch(
      /^\/admin\/revisions/,
    );
  });
  it('leads into a stretch that was marked, and against the time before it', async () => {
    const { router } = drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /^load: spring tide/ }));
    expect(screen.queryByRole('button', { name: 'remove the mark' })).toBeNull();
    fireEvent.click(await screen.findByRole('button', { name: 'against the time before' }));
    await waitFor(() => expect(readView(router.state.location.search).shift).toBe(HOUR));
    expect(readView(router.state.location.search).window).toEqual({ from: NOW - 6 * HOUR, to: NOW - 5 * HOUR });
  });
  it('ends a stretch that goes on', async () => {
    const { asked } = drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /^trouble: the quay floods/ }));
    fireEvent.click(await screen.findByRole('button', { name: 'it ends now' }));
    await waitFor(() => expect(asked.some(({ path }) => path === '/api/stretches/flood/end')).toBe(true));
  });
  it('changes a stretch, with what was noted of it', async () => {
    const { asked } = drawTape('/now?window=3h');
    fireEvent.click(await screen.findByRole('button', { name: /^trouble: the quay floods/ }));
    expect(await screen.findByText('spring tide, and wind')).toBeTruthy();
    fireEvent.click(await screen.findByRole('button', { name: 'change the mark' }));
    const form = within(await screen.findByRole('form', { name: 'change a stretch' }));
    fireEvent.change(form.getByLabelText('Title'), { target: { value: 'the quay flooded' } });
    fireEvent.click(form.getByRole('button', { name: 'Change it' }));
    await waitFor(() => expect(screen.queryByRole('form')).toBeNull());
    expect(asked.find(({ method }) => method === 'PUT')?.body).toMatchObject({
      title: 'the quay flooded',
      team: 'quay',
      to: null,
      note: 'spring tide, and wind',
      from: new Date(NOW - HOUR).toISOString(),
    });
  });
  it('marks the window that is shown, and says at its field what is wrong', async () => {
    const { asked } = drawTape('/usage?in=seaward/tides&window=3h');
    fireEvent.click(await screen.findByRole('button', { name: 'mark it' }));
    fireEvent.click(await screen.findByRole('button', { name: 'Mark it' }));
    expect((await screen.findByRole('alert')).textContent).toBe('a stretch has a title');
    fireEvent.change(screen.getByLabelText('Title'), { target: { value: 'release 3' } });
    fireEvent.change(screen.getByLabelText('It is a'), { target: { value: 'release' } });
    fireEvent.click(screen.getByRole('button', { name: 'one step wider' }));
    fireEvent.click(screen.getByRole('button', { name: 'Mark it' }));
    await waitFor(() => expect(screen.queryByRole('form', { name: 'mark a stretch' })).toBeNull());
    const body = asked.find(({ path, method }) => path === '/api/stretches' && method === 'POST')?.body as {
      from: string;
      to: string;
    };
    expect(body).toMatchObject({ kind: 'release', title: 'release 3', scope: ['seaward'], team: null });
    expect(Date.parse(body.to) - Date.parse(body.from)).toBe(3 * HOUR);
  });
  it('marks what is drawn with Shift held, and sets the window without', async () => {
    const { router } = drawTape('/now?window=3h');
    const drawing = await screen.findByRole('img', { name: /1 hushes/ });
    drawing.setPointerCapture = () => undefined;
    const draw = (shiftKey: boolean) => {
      fireEvent.pointerDown(drawing, { clientX: 200, clientY: 40, pointerId: 1, shiftKey });
      fireEvent.pointerMove(drawing, { clientX: 400, clientY: 40, pointerId: 1 });
      fireEvent.pointerUp(drawing, { clientX: 400, clientY: 40, pointerId: 1 });
    };
    const before = router.state.location.search;
    draw(true);
    expect(await screen.findByRole('form', { name: 'mark a stretch' })).toBeTruthy();
    expect(router.state.location.search).toBe(before);
    fireEvent.click(screen.getByRole('button', { name: 'cancel' }));
    draw(false);
    await waitFor(() => expect(router.state.location.search).not.toBe(before));
  });
  it('says how old the data are', async () => {
    drawTape('/now');
    await waitFor(() => expect(screen.getByTestId('data-age').textContent).toMatch(/newest reading \d+ s old/));
  });
});
