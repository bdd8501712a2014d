import { screen, within } from '@testing-library/react';
import { SheetAnswer } from '@zetopsis/contract';
import { afterEach, describe, expect, it } from 'vitest';
import { cleanUp, drawAt, serveAnswers } from '../../state/testServer.tsx';
import { ObjectSheet } from './ObjectSheet.tsx';

afterEach(cleanUp);
const NOW = Date.now();
const line = (values: (number | null)[]) => ({ name: 'used', values, against: null });
const figures = (use: number | null, limit: number | null, limitIs: string) => ({
  use,
  mean: use,
  peak: use,
  request: null,
  limit,
  limitIs,
  unlimited: null,
  tightness: use === null || limit === null ? null : use / limit,
  heading: null,
});
const thing = (more: object): SheetAnswer =>
  SheetAnswer.parse({
    level: 'object',
    name: 'data-archive-0',
    kind: 'volume claim',
    path: ['seaward', 'pier-data', 'volume-claim:data-archive-0'],
    owner: 'Platform',
    createdAt: null,
    endedAt: null,
    facts: [],
    findings: [],
    raised: [],
    usage: null,
    against: null,
    throttled: null,
    grid: { start: NOW - 20_000, step: 10_000, count: 3 },
    cpu: null,
    memory: null,
    requests: [],
    flows: [],
    marks: [],
    restarts: 0,
    containers: [],
    nodes: [],
    volumes: [],
    quotas: [],
    runs: null,
    nextDueAt: null,
    related: [],
    runningOut: null,
    measures: null,
    elsewhere: [],
    rollout: null,
    changes: [],
    logs: [],
    tables: [],
    left: 0,
    events: [],
    eventsMissing: null,
    ...more,
  });
function draw(sheet: SheetAnswer, more = '') {
  serveAnswers({ 'GET /api/usage/object': sheet });
  return drawAt(`/usage?in=${sheet.path.join('/')}${more}`, <ObjectSheet close={() => undefined} />);
}

describe('the sheet of what uses nothing itself', () => {
  it('a claim: against its size, when it is full, whose it is, and no chart of CPU', async () => {
    draw(
      thing({
        volumes: [
          {
            path: ['seaward', 'pier-data', 'volume-claim:data-archive-0'],
            name: 'data-archive-0',
            usedBy: 'archive-0',
            figures: figures(176 * 2 ** 30, 200 * 2 ** 30, 'size'),
            fullIn: 4 * 86_400_000,
          },
        ],
        flows: [
          { title: 'Used on the volume', unit: 'bytes', lines: [line([1, 2, 3])], limit: [4, 4, 4], empty: null },
        ],
        related: [
          {
            kind: 'persistent volume',
            name: 'vol-1',
            path: ['seaward', 'persistent-volume:vol-1'],
            words: 'its volume',
            severity: null,
          },
        ],
      }),
    );
    const volumes = await screen.findByRole('region', { name: 'Volumes, used of their size' });
    expect(
      within(volumes).getByRole('img', { name: /^volume: 176 GiB in use, 88 % of its size of 200 GiB/ }),
    ).toBeTruthy();
    expect(volumes.textContent).toContain('full in about 4 d, if it goes on like this');
    expect(screen.getByText('Platform')).toBeTruthy();
    expect(screen.getByRole('region', { name: 'Used on the volume' })).toBeTruthy();
    expect(screen.queryByRole('region', { name: 'CPU' })).toBeNull();
    expect(screen.getByRole('link', { name: 'vol-1' }).getAttribute('href')).toContain(
      'in=seaward/persistent-volume:vol-1',
    );
  });
  it('a quota: each bound in its unit, tightest first', async () => {
    draw(
      thing({
        name: 'compute',
        kind: 'quota',
        quotas: [
          {
            path: ['slipway', 'boarding', 'quota:compute'],
            name: 'compute',
            rows: [
              { resource: 'pods', hard: 20, used: 8 },
              { resource: 'requests.cpu', hard: 4, used: 3.84 },
              { resource: 'limits.memory', hard: 2 ** 33, used: null },
            ],
          },
        ],
      }),
    );
    const quota = await screen.findByRole('region', { name: /^Quota compute/ });
    expect(
      within(quota)
        .getAllByRole('listitem')
        .map(({ textContent }) => textContent),
    ).toEqual([
      expect.stringContaining('requests.cpu3.84 cores of 4.00 cores96 %'),
      expect.stringContaining('pods8 of 2040 %'),
      expect.stringContaining('limits.memorynot counted yet of 8.00 GiB'),
    ]);
  });
  it('a service: ports and endpoints in tables', async () => {
    draw(
      thing({
        name: 'queue',
        kind: 'service',
        tables: [
          { title: 'Ports', columns: ['name', 'port'], rows: [['amq', '5672']] },
          { title: 'Endpoints', columns: ['pod', 'ready'], rows: [] },
        ],
      }),
    );
    const ports = await screen.findByRole('region', { name: 'Ports' });
    expect(within(ports).getByRole('row', { name: 'amq 5672' })).toBeTruthy();
    expect(screen.getByRole('region', { name: 'Endpoints' }).textContent).toContain('None.');
  });
});

describe('the sheet of what uses something', () => {
  const lines = {
    use: [0.1, 0.2, 0.3],
    request: [1, 1, 1],
    limit: [2, 2, 2],
    against: null as (number | null)[] | null,
    empty: null,
  };
  const measured = (more: object) =>
    thing({
      level: 'workload',
      name: 'replan-night',
      kind: 'cron job',
      path: ['seaward', 'berths-batch', 'cron-job:replan-night'],
      usage: { cpu: figures(0.3, 2, 'limit'), memory: figures(1e9, 2e9, 'limit') },
      cpu: lines,
      memory: lines,
      ...more,
    });
  it('a cron job: its runs with outcome, and when the next one is due', async () => {
    draw(
      measured({
        nextDueAt: NOW + 3_600_000,
        runs: [
          {
            name: 'r2',
            outcome: 'failed',
            startedAt: NOW - 7_200_000,
            endedAt: NOW - 5_040_000,
            end: 'replan ended with code 3',
            retries: 1,
          },
          {
            name: 'r1',
            outcome: 'succeeded',
            startedAt: NOW - 9_000_000,
            endedAt: NOW - 8_940_000,
            end: 'replan ended with code 0',
            retries: 0,
          },
        ],
      }),
    );
    const runs = await screen.findByRole('region', { name: 'Runs in this window' });
    expect(runs.textContent).toContain('(in 60 min)');
    const rows = within(runs).getAllByRole('row');
    expect(rows[1]?.textContent).toMatch(/36 min.*failed.*1 ×.*replan ended with code 3/);
    expect(rows[2]?.textContent).toMatch(/60 s.*done.*never/);
  });
  it('compared: a double line in the strips and the charts, and its figures in the table twin', async () => {
    const then = { use: 0.1, mean: 0.1, peak: 0.1 };
    draw(
      measured({ against: { cpu: then, memory: then }, cpu: { ...lines, against: [0.05, 0.06, 0.07] } }),
      '&against=1d',
    );
    expect(await screen.findByRole('img', { name: /against 0.10 cores in use then/ })).toBeTruthy();
    expect(screen.getByTitle(/0.30 cores on average, 0.10 cores in the window compared with/).textContent).toBe(
      '+200 %',
    );
    const cpu = screen.getByRole('region', { name: 'CPU' });
    expect(cpu.textContent).toContain('double line: the window compared with');
    const button = within(cpu).getByRole('button', { name: 'CPU as a table' });
    button.click();
    expect(await within(cpu).findByRole('columnheader', { name: 'use, against' })).toBeTruthy();
    expect(within(cpu).getAllByRole('row')[1]?.textContent).toContain('0.30 cores70 millicores');
  });
  it('says when the other window does not have it', async () => {
    draw(measured({}), '&against=1d');
    expect(await screen.findByText('The window compared with does not have it.')).toBeTruthy();
  });
});
