import { fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { ImportAnswer, SourcesAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { calmStore } from '../../state/storeFixture.ts';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { SourcesPlace } from './SourcesPlace.tsx';
import { importWords, spaceWords } from './sourcesModel.ts';

afterEach(cleanUp);
const NOW = Date.now();
const GIB = 1024 ** 3;
const connection = {
  id: '00000000-0000-4000-8000-000000000001',
  name: 'seaward',
  address: 'https://seaward.test',
  authority: '',
  nodePage: { path: '/metrics', intervalSeconds: 15 },
  environment: '',
  region: '',
  flavour: '',
  may: 'administer',
  state: 'reading',
  since: NOW,
  reason: null,
  nextStep: null,
  lastContactAt: NOW,
  kinds: [],
} as const;
const endpoint = {
  id: 7,
  kind: 'node',
  connection: 'seaward',
  name: 'seaward-01',
  scout: null,
  group: '',
  address: 'https://127.0.0.1/metrics',
  intervalSeconds: 15,
  state: 'read',
  since: NOW,
  lastReadingAt: NOW,
  samples: 3,
  bytes: 10,
  durationMs: 1,
  problems: 0,
  cut: null,
  lastError: null,
  lastErrorAt: null,
  nextDueAt: null,
} as const;
const sources = (store: Partial<SourcesAnswer['store']> = {}, more: object = {}): SourcesAnswer => ({
  at: NOW,
  connections: [{ ...connection, kinds: [] }],
  endpoints: [{ ...endpoint, ...more }],
  store: { ...calmStore, ...store },
});
const run: ImportAnswer = {
  id: 3,
  cluster: 'seaward',
  about: 'seaward-01',
  what: 'samples',
  by: 'maren',
  state: 'running',
  parts: 4,
  partsDone: 1,
  added: 1200,
  same: 3,
  other: 1,
  leftOut: 2,
  problem: 'Line 7, column 3: not a number.',
  startedAt: NOW,
  endedAt: null,
};

describe('what the store says of itself', () => {
  const region = async (store: Partial<SourcesAnswer['store']>, more: object = {}) => {
    serveAnswers({ 'GET /api/sources': sources(store, more), 'GET /api/imports': { imports: [] } });
    drawAt('/sources', <SourcesPlace />);
    return (await screen.findByRole('region', { name: 'store' })).textContent;
  };
  it('is nothing but its size while all is well', async () => {
    expect(
      await region({
        series: 5,
        space: { usedBytes: GIB, roomBytes: 10 * GIB, room: 'disk', fullAt: null, hoursKnown: 40 },
      }),
    ).toBe('Store5 series known. What was read is stored. 1.00 GiB taken of 10.0 GiB on its disk; it does not grow.');
  });
  it('is what keeps PostgreSQL from taking readings, how much waits, and what was given up', async () => {
    const text = await region({
      problem: 'its disk is full: give it room, or shorten the retention',
      problemSince: NOW - 60_000,
      waiting: 12,
      waitingBytes: 2048,
      lost: 3,
      packing: 'it cannot be reached',
    });
    expect(text).toMatch(/PostgreSQL takes no readings for 6\d s: its disk is full: give it room/);
    expect(text).toContain('12 readings (2.00 KiB) wait in memory');
    expect(text).toContain('3 readings had to be given up.');
    expect(text).toContain('Packing stands still: it cannot be reached.');
    expect(text).not.toContain('What was read is stored');
  });
  it('is what was cut, here and at the endpoint, and what was not taken', async () => {
    const text = await region(
      { refusedSeries: 40, tooOld: 5, doubledOther: 1, heldBy: 'other-host' },
      { cut: '40 of its series are not kept: this endpoint has as many as one may.' },
    );
    expect(text).toContain('40 series are past a limit and not kept');
    expect(text).toContain('5 samples came too late to be taken; 1 reading of a moment that had one already');
    expect(text).toContain('Another process of Zetopsis (other-host) reads and writes');
    cleanUp();
    serveAnswers({ 'GET /api/sources': sources({}, { cut: '40 of its series are not kept: this endpoint is full.' }) });
    drawAt('/sources/endpoints', <SourcesPlace />, '/sources/:part?');
    expect(await screen.findByText(/40 of its series are not kept: this endpoint/)).toBeTruthy();
  });
});

describe('space in words', () => {
  const space = { usedBytes: GIB, roomBytes: 2 * GIB, room: 'set' as const, fullAt: null, hoursKnown: 3 };
  it('says when it is full, or why that cannot be said', () => {
    expect(spaceWords(space, NOW)).toBe(
      '1.00 GiB taken of 2.00 GiB set for it; when it is full can be said after half a day.',
    );
    expect(spaceWords({ ...space, fullAt: NOW + 5 * 86_400_000 }, NOW)).toMatch(/full in 5 d at this pace\.$/);
    expect(spaceWords({ ...space, roomBytes: null, room: null }, NOW)).toMatch(/how much room there is can be set/);
  });
});

describe('history imports', () => {
  it('show how far they are, what they took and what was wrong, and can be cancelled', async () => {
    const asked = serveAnswers({
      'GET /api/sources': sources(),
      'GET /api/imports': { imports: [run] },
      'DELETE /api/imports/3': () => ({ status: 204, body: null }),
    });
    drawAt('/sources', <SourcesPlace />);
    const row = await screen.findByRole('row', { name: /seaward › seaward-01/ });
    expect(row.textContent).toContain('1 of 4');
    expect(within(row).getByRole('progressbar').getAttribute('value')).toBe('1');
    expect(row.textContent).toContain('1,200 samples, 3 known already, 1 known otherwise, which stay, 2 left out');
    expect(row.textContent).toContain('Line 7, column 3');
    fireEvent.click(within(row).getByRole('button', { name: 'cancel import 3' }));
    await waitFor(() => expect(asked.some(({ method }) => method === 'DELETE')).toBe(true));
  });
  it('take a file for an endpoint, ask for one that is missing, and keep the form when it is refused', async () => {
    const asked = serveAnswers({
      'GET /api/sources': sources(),
      'GET /api/imports': { imports: [] },
      'POST /api/imports': () => ({
        status: 413,
        body: { code: 'tooLarge', text: 'A file may have 256 MiB at most: cut it.', fields: [] },
      }),
    });
    drawAt('/sources', <SourcesPlace />);
    fireEvent.click(await screen.findByRole('button', { name: 'import a file' }));
    fireEvent.click(screen.getByRole('button', { name: 'import' }));
    expect((await screen.findByRole('alert')).textContent).toBe('choose a file');
    fireEvent.change(screen.getByLabelText('File'), { target: { files: [new File(['a 1 1\n# EOF\n'], 'a.txt')] } });
    fireEvent.click(screen.getByRole('button', { name: 'import' }));
    expect(await screen.findByText(/A file may have 256 MiB at most/)).toBeTruthy();
    const sent = asked.find(({ method }) => method === 'POST');
    expect(sent?.path).toContain('cluster=seaward');
    expect(sent?.path).toContain('node=seaward-01');
    expect(sent?.body).toBe('a 1 1\n# EOF\n');
    fireEvent.change(screen.getByLabelText('What'), { target: { value: 'states of objects' } });
    expect(screen.queryByLabelText('Endpoint of the node')).toBeNull();
  });
  it('are not shown to those who administer nothing', async () => {
    const answer = sources();
    serveAnswers({
      'GET /api/sources': { ...answer, connections: [{ ...connection, may: 'read' }] },
      'GET /api/imports': { imports: [] },
    });
    drawAt('/sources', <SourcesPlace />);
    await screen.findByRole('region', { name: 'store' });
    expect(screen.queryByRole('region', { name: 'history imports' })).toBeNull();
  });
  it('of states are told as states', () => {
    expect(importWords({ ...run, what: 'states of objects', same: 0, other: 0, leftOut: 0 })).toBe('1,200 states');
  });
});
