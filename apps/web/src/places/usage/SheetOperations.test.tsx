import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { OperationsAnswer, SheetAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers, sessionAs } from '../../state/testServer.tsx';
import { SheetOperations } from './SheetOperations.tsx';

afterEach(cleanUp);
const figures = { failedShare: 0, half: 0.02, nearlyAll: 0.09, satisfaction: 0.98 };
const one = (operation: string, requests: number, more = {}) => ({
  ...figures,
  operation,
  requests,
  cold: 0,
  browsers: 0,
  ...more,
});
const answer: OperationsAnswer = {
  window: { from: 0, to: 100_000, live: true },
  target: 0.3,
  all: { ...figures, requests: 300 },
  operations: [
    one('list', 200),
    one('book', 90, { failedShare: 0.2, nearlyAll: 0.4, cold: 9 }),
    one('print', 10, { nearlyAll: 2, browsers: 5 }),
  ],
  pods: [
    { ...figures, pod: 'front-a', requests: 240 },
    { ...figures, pod: 'front-b', requests: 60 },
  ],
  versions: [
    { ...figures, version: '1.1', pods: 1, requests: 240, failedShare: 0.08 },
    { ...figures, version: '1.0', pods: 1, requests: 60 },
  ],
  uneven: { pod: 'front-a', times: 2.4 },
  was: null,
};
const sheet = {
  level: 'workload',
  kind: null,
  path: ['seaward', 'quay', 'deployment:front'],
} as unknown as SheetAnswer; // as far as it is looked at
const serve = (body: unknown) =>
  serveAnswers({ 'GET /api/session': sessionAs('administrator'), 'GET /api/usage/operations': body });
const names = () =>
  within(screen.getByRole('list', { name: 'operations' }))
    .getAllByRole('listitem')
    .map(({ textContent }) => /^[a-z]+/.exec(textContent ?? '')?.[0]?.replace(/\d.*/, ''));

describe('operations in a sheet', () => {
  it('stand in the order that is chosen, against the target that is set', async () => {
    const asked = serve(answer);
    drawAt('/usage', <SheetOperations sheet={sheet} />);
    expect(await screen.findByText(/3\.00 per s, 0 % failed, 95 of 100 within 90 ms/)).toBeTruthy();
    expect(names()).toEqual(['list', 'book', 'print']);
    const list = screen.getByRole('list', { name: 'operations' });
    expect(list.textContent).toContain('20 % failed · half within 20 ms, 95 of 100 within 400 ms');
    expect(list.textContent).toContain('10 % first answers of a program');
    expect(list.textContent).toContain('50 % from browsers');
    fireEvent.change(screen.getByLabelText('order of operations'), { target: { value: 'slowest first' } });
    expect(names()).toEqual(['print', 'book', 'list']);
    fireEvent.change(screen.getByLabelText('order of operations'), { target: { value: 'most failed first' } });
    expect(names()[0]).toBe('book');
    fireEvent.change(screen.getByLabelText(/satisfied within/), { target: { value: '1' } });
    await waitFor(() => expect(asked.some(({ path }) => path.endsWith('target=1'))).toBe(true));
  });
  it('tell versions side by side, how it is spread, and what was in the window compared with', async () => {
    serve({ ...answer, was: [one('list', 100)] });
    drawAt('/usage?against=1h', <SheetOperations sheet={sheet} />);
    const versions = await screen.findByRole('list', { name: 'versions side by side' });
    expect(versions.textContent).toContain('1.1 1 pod2.40 per s8.0 % failed');
    expect(screen.getByText('Uneven: front-a gets 2.4 times its part.')).toBeTruthy();
    expect(screen.getByRole('list', { name: 'what each pod gets' }).textContent).toContain('front-a80 %');
    expect(screen.getByText(/then 1\.00 per s, 0 % failed/)).toBeTruthy();
    expect(screen.getAllByText(/not asked then/)).toHaveLength(2);
  });
  it('are left out where nothing is told, and of what answers nobody', async () => {
    const asked = serve({ ...answer, all: { ...answer.all, requests: 0 }, operations: [], pods: [], versions: [] });
    drawAt('/usage', <SheetOperations sheet={sheet} />);
    await waitFor(() => expect(asked.some(({ path }) => path.includes('operations'))).toBe(true));
    await waitFor(() => expect(screen.queryByRole('region', { name: 'Operations' })).toBeNull());
    cleanUp();
    const none = serve(answer);
    drawAt('/usage', <SheetOperations sheet={{ ...sheet, level: 'namespace' }} />);
    expect(none.some(({ path }) => path.includes('operations'))).toBe(false);
  });
  it('say why they could not be read', async () => {
    serveAnswers({
      'GET /api/session': sessionAs('administrator'),
      'GET /api/usage/operations': () => ({
        status: 413,
        body: { code: 'tooLarge', text: 'Look at one pod.', fields: [] },
      }),
    });
    drawAt('/usage', <SheetOperations sheet={sheet} />);
    expect(await screen.findByText(/Look at one pod/)).toBeTruthy();
  });
});
