import { fireEvent, screen, waitFor } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../state/testServer.tsx';
import { GoTo } from './GoTo.tsx';

afterEach(cleanUp);
/** What the list asks of a page, and this page's layout never gives. */
function layOut() {
  vi.stubGlobal(
    'ResizeObserver',
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
  Element.prototype.scrollIntoView = () => {};
}

const object = (name: string) => ({
  kind: 'workload',
  name,
  path: ['seaward', 'tides', `deployment:${name}`],
  where: 'seaward / tides',
  goneAt: null,
});
const answers = (...names: string[]) => ({ status: 200, body: { found: names.map(object), lookedAt: 90 } });

/** What each text finds comes when the test says so. */
function slowFinder() {
  const waiting = new Map<string, (answer: ReturnType<typeof answers>) => void>();
  serveAnswers({
    'GET /api/session': sessionAs('member'),
    'GET /api/find': ({ path }: { path: string }) =>
      new Promise((resolve) => waiting.set(new URL(path, 'http://a.test').searchParams.get('q') ?? '', resolve)),
  });
  return async (typed: string, ...names: string[]) => {
    await waitFor(() => expect(waiting.has(typed)).toBe(true));
    waiting.get(typed)?.(answers(...names));
    await screen.findByRole('option', { name: new RegExp(`^${names[0]}`) });
  };
}

describe('the finder', () => {
  it('has the first one picked, however late it came, unless somebody moved in the list', async () => {
    layOut();
    const answer = slowFinder();
    const router = drawAt('/now', <GoTo open close={() => {}} />);
    const field = screen.getByRole('combobox');
    const picked = async (name: string) =>
      expect((await screen.findByRole('option', { selected: true, name: new RegExp(`^${name}`) })).isConnected).toBe(
        true,
      );
    fireEvent.change(field, { target: { value: 'quay' } });
    await answer('quay', 'quay-log', 'quay-front');
    await picked('quay-log');
    fireEvent.change(field, { target: { value: 'quayf' } });
    await answer('quayf', 'quay-front', 'quay-log');
    await picked('quay-front');
    fireEvent.keyDown(field, { key: 'ArrowDown' });
    await picked('quay-log');
    fireEvent.change(field, { target: { value: 'quayfr' } });
    await answer('quayfr', 'quay-front', 'quay-log');
    await picked('quay-front');
    fireEvent.keyDown(field, { key: 'Enter' });
    await waitFor(() => expect(router.state.location.pathname).toBe('/usage'));
    expect(decodeURIComponent(router.state.location.search)).toContain('deployment:quay-front');
  });
});
