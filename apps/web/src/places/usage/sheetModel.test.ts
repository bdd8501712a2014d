import type { FlowLines, SheetAnswer } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { axisTicks } from '../../drawing/axisTicks.ts';
import {
  alertsBesides,
  chartPoints,
  chartTop,
  figureWords,
  flowPoints,
  flowWords,
  fullWords,
  gapsOf,
  isMeasured,
  isRaised,
  type MeasuredSheet,
} from './sheetModel.ts';

const figures = {
  use: 0.5,
  mean: 0.5,
  peak: 0.5,
  request: 1,
  limit: 2,
  limitIs: 'limit' as const,
  unlimited: null,
  tightness: 0.25,
  heading: null,
};
const alert = (reason: string, toldBy: number | null) => ({
  toldBy,
  severity: 'critical' as const,
  title: 't',
  reason,
  since: 0,
  nextStep: '',
});
const finding = {
  code: 'failed' as const,
  severity: 'critical' as const,
  reason: 'It fails.',
  evidence: '',
  since: 0,
  nextStep: '',
};
const sheet = (part: Partial<MeasuredSheet>): MeasuredSheet => ({
  level: 'pod',
  name: 'p',
  kind: null,
  path: ['c', 'n', 'w', 'p'],
  owner: null,
  createdAt: null,
  endedAt: null,
  facts: [],
  findings: [],
  raised: [],
  usage: { cpu: figures, memory: { ...figures, use: 2 ** 30, limit: 2 ** 31 } },
  throttled: null,
  grid: { start: 100, step: 10, count: 3 },
  cpu: { use: [null, 0.4, 0.5], request: [1, 1, 1], limit: [2, 2, 2], against: [0.1, null, 0.3], empty: null },
  memory: { use: [], request: [], limit: [], against: null, empty: { code: 'notRead', of: null } },
  against: null,
  requests: [],
  measures: null,
  flows: [],
  volumes: [],
  quotas: [],
  runs: null,
  nextDueAt: null,
  related: [],
  runningOut: null,
  elsewhere: [],
  rollout: null,
  changes: [],
  logs: [],
  tables: [],
  left: 0,
  marks: [],
  restarts: 0,
  containers: [],
  nodes: [],
  events: [],
  eventsMissing: null,
  ...part,
});

describe('the sheet', () => {
  it('tells one cause once', () => {
    const both = sheet({ raised: [alert('It fails.', 0), alert('It climbs.', null)], findings: [finding] });
    expect(alertsBesides(both).map(({ reason }) => reason)).toEqual(['It climbs.']);
    expect([isRaised(both, 0), isRaised(both, 1)]).toEqual([true, false]);
  });
  it('draws what was read where it was read, with the limit when use comes near it', () => {
    const points = chartPoints(sheet({}), 'cpu');
    expect(points.map(({ at, use }) => [at, use])).toEqual([
      [100, null],
      [110, 0.4],
      [120, 0.5],
    ]);
    expect(points.map(({ against }) => against)).toEqual([0.1, null, 0.3]);
    expect(chartTop(points)).toMatchObject({ limitShown: true });
    expect(chartTop(points).top).toBeGreaterThan(2);
    const far = points.map((point) => ({ ...point, limit: 100 }));
    expect(chartTop(far)).toMatchObject({ limitShown: false });
    expect(chartTop(far).top).toBeLessThan(1);
    expect(chartTop([]).top).toBeGreaterThan(0);
  });
  it('says the figures with their limit, and that there is none', () => {
    expect(figureWords('cpu', sheet({}))).toBe('0.50 of 2.00 cores limit, 25 %');
    expect(figureWords('memory', sheet({}))).toBe('1.00 GiB of 2.00 GiB limit, 50 %');
    expect(
      figureWords('cpu', sheet({ usage: { cpu: { ...figures, limit: null, limitIs: 'none' }, memory: figures } })),
    ).toBe('0.50 cores, no limit');
    expect(figureWords('cpu', sheet({ usage: { cpu: { ...figures, use: null }, memory: figures } }))).toMatch(
      /^nothing read/,
    );
  });
  it('draws the flows on the same axis and says where they stand', () => {
    const network: FlowLines = {
      title: 'Network',
      unit: 'bytes per s',
      lines: [
        { name: 'received', values: [null, 1024, 2048], against: [1, 2, 3] },
        { name: 'sent', values: [1, 2, null], against: null },
      ],
      limit: null,
      empty: null,
    };
    expect(flowPoints(network, sheet({}))[2]).toEqual({
      at: 120,
      value0: 2048,
      against0: 3,
      value1: null,
      against1: null,
      limit: null,
    });
    expect(flowWords(network)).toBe('received 2.00 KiB per s, sent not read');
    const files: FlowLines = {
      title: 'Used on the volume',
      unit: 'bytes',
      lines: [{ name: 'used', values: [1, 2, 2 ** 30], against: null }],
      limit: [1, 1, 2 ** 31],
      empty: null,
    };
    expect(flowWords(files)).toBe('1.00 GiB, 50 % of 2.00 GiB');
  });
  it('tells when a volume will be full, not of what lies far ahead', () => {
    expect(fullWords(4 * 86_400_000)).toBe('full in about 4 d, if it goes on like this');
    expect(fullWords(0)).toBe('full now');
    expect([fullWords(null), fullWords(400 * 86_400_000)]).toEqual([null, null]);
  });
  it('knows what uses nothing itself', () => {
    const quota: SheetAnswer = { ...sheet({}), usage: null, cpu: null, memory: null };
    expect([isMeasured(sheet({})), isMeasured(quota)]).toEqual([true, false]);
  });
});

describe('gaps', () => {
  const lines = (request: (number | null)[]) => ({ use: [], request, limit: [], against: null, empty: null });
  const long = (part: Partial<MeasuredSheet> = {}) =>
    sheet({ grid: { start: 0, step: 10, count: 8 }, cpu: lines(Array(8).fill(1)), ...part });
  const read = [null, null, null, 4, null, 5, null, null];
  it('reach from the reading before to the next one; a single one that is missing is none', () => {
    expect(gapsOf(read, long())).toEqual([
      { from: 0, to: 30 },
      { from: 50, to: 70 },
    ]);
    expect(gapsOf(Array(8).fill(1), long())).toEqual([]);
  });
  it('are none where the object was not there: before it came, after it ended, while nothing of it ran', () => {
    expect(gapsOf(read, long({ createdAt: 10, endedAt: 60 }))).toEqual([]);
    expect(gapsOf(read, long({ cpu: lines([null, null, null, 1, 1, 1, 1, 1]) }))).toEqual([{ from: 50, to: 70 }]);
  });
});

describe('a chart’s axis', () => {
  it.each([0.003, 0.4, 1, 3.6, 7, 99, 1234, 8e6])('has two or three round values up to %d', (top) => {
    const ticks = axisTicks(top, String);
    expect(ticks.length).toBeGreaterThanOrEqual(2);
    expect(ticks.length).toBeLessThanOrEqual(3);
    expect(Math.max(...ticks)).toBeLessThanOrEqual(top);
    expect(Math.max(...ticks)).toBeGreaterThan(top * 0.4);
    for (const tick of ticks) expect(Number(tick.toPrecision(2))).toBeCloseTo(tick, 9);
  });
  it('counts bytes in their own units', () => {
    const bytes = (value: number) => `${value / 2 ** 30} GiB`;
    expect(axisTicks(2.3 * 2 ** 30, bytes).map((tick) => tick / 2 ** 30)).toEqual([1, 2]);
    expect(axisTicks(608 * 2 ** 20, bytes).map((tick) => tick / 2 ** 20)).toEqual([200, 400, 600]);
  });
  it('has none where nothing is drawn', () => {
    expect(axisTicks(0, String)).toEqual([]);
    expect(axisTicks(Number.POSITIVE_INFINITY, String)).toEqual([]);
  });
});
