import { MapAnswer, TableAnswer, UsageAnswer } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { mapInPieces, tableInPieces, usageInPieces } from './inPieces.ts';
import { rowOf } from './rowFixture.ts';

const row = (name: string) => rowOf(name, null);
const rows = Array.from({ length: 650 }, (_, i) => row(`pod-${i}`));
const usage = (own: unknown) => ({
  window: { from: 1, to: 2, live: true },
  path: [],
  against: null,
  of: null,
  columns: [
    { level: 'cluster', rows: [row('c')], left: 0, summary: '' },
    { level: 'pod', rows: own, left: 3, summary: 's' },
  ],
  blind: [],
});
const inTable = (name: string) => ({
  ...row(name),
  path: ['c', name],
  received: null,
  sent: null,
  files: null,
  volumes: null,
  volumeSize: null,
});
const table = (own: unknown) => ({ window: { from: 1, to: 2, live: true }, level: 'pod', rows: own, left: 0 });

describe('an answer checked in pieces', () => {
  it('is what it would be in one go, and draws come in between', async () => {
    let drawn = 0;
    const drawing = setInterval(() => drawn++);
    const answer = await usageInPieces(usage(rows));
    clearInterval(drawing);
    expect(answer).toEqual(UsageAnswer.parse(usage(rows)));
    expect(drawn).toBeGreaterThan(0);
    const asTable = rows.map(({ name }) => inTable(name));
    expect(await tableInPieces(table(asTable))).toEqual(TableAnswer.parse(table(asTable)));
    expect(Object.isFrozen(answer)).toBe(true);
  });
  it('of a map is what it would be in one go, and refused for one bad link', async () => {
    const box = (i: number) => ({
      key: `a/b/${i}`,
      kind: 'workload',
      cluster: 'a',
      namespace: 'b',
      name: `${i}`,
      keeps: '',
      team: null,
      path: null,
      severity: null,
      finding: null,
      besides: null,
      cpu: null,
      memory: null,
      holds: null,
    });
    const boxes = Array.from({ length: 450 }, (_, i) => box(i));
    const map = { at: 1, comparedAt: null, boxes, links: [], trouble: [], left: 0, nothing: null };
    expect(await mapInPieces(map)).toEqual(MapAnswer.parse(map));
    await expect(mapInPieces({ ...map, boxes: [...boxes, { ...box(1), cpu: 'high' }] })).rejects.toThrow();
    await expect(mapInPieces({ ...map, links: [{}] })).rejects.toThrow();
    await expect(mapInPieces({ ...map, at: null })).rejects.toThrow();
  });
  it('is refused for one bad row among hundreds, a bad head, or no rows', async () => {
    const bad = [...rows];
    bad[640] = { ...row('bad'), pods: 'many' as unknown as number };
    await expect(usageInPieces(usage(bad))).rejects.toThrow(/this is not a number/);
    await expect(usageInPieces({ ...usage(rows), path: 7 })).rejects.toThrow();
    await expect(usageInPieces(usage('rows'))).rejects.toThrow();
    await expect(usageInPieces(null)).rejects.toThrow();
    await expect(tableInPieces(table([row('without a path')]))).rejects.toThrow();
  });
});
