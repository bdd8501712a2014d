import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import { TapeAnswer } from '@zetopsis/contract';
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
  const asked = serveAnswers({ 'GET /api/usage/tape': tape });
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
  it('says how old the data are', async () => {
    drawTape('/now');
    await waitFor(() => expect(screen.getByTestId('data-age').textContent).toMatch(/newest reading \d s old/));
  });
});
