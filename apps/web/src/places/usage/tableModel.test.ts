import type { TableRow } from '@zetopsis/contract';
import { describe, expect, it } from 'vitest';
import { COLUMNS, columnsOf, csvOf, FIRST_COLUMNS, fits, jsonOf, sorted, total } from './tableModel.ts';

const figures = (use: number | null, limit: number | null) => ({
  use,
  mean: use,
  peak: use,
  request: 1,
  limit,
  limitIs: limit === null ? ('none' as const) : ('limit' as const),
  unlimited: null,
  tightness: use === null || limit === null ? null : use / limit,
  heading: null,
});
const row = (name: string, cpu: number | null, more: Partial<TableRow> = {}): TableRow =>
  Object.freeze({
    key: name,
    name,
    kind: 'deployment',
    severity: null,
    finding: null,
    present: true,
    goneAt: null,
    pods: 2,
    ready: 2,
    desired: 2,
    usage: { cpu: figures(cpu, 2), memory: figures(2 ** 30, null) },
    throttled: null,
    other: null,
    restarts: 1,
    memoryEnds: 0,
    age: null,
    owner: 'Tides',
    labels: { app: name },
    against: null,
    pairing: null,
    path: ['seaward', 'tides', `deployment:${name}`],
    received: 1024,
    sent: null,
    volumes: null,
    volumeSize: null,
    files: null,
    ...more,
  });
const rows = [row('b', 0.5), row('a', 1.5), row('c', null)];
const column = (key: string) => COLUMNS.find((one) => one.key === key)!;

describe('the table', () => {
  it('sorts figures largest first, words in their order, and what is unknown last either way', () => {
    const names = (key: string, backwards: boolean) => sorted(rows, column(key), backwards).map(({ name }) => name);
    expect(names('cpu', false)).toEqual(['a', 'b', 'c']);
    expect(names('cpu', true)).toEqual(['b', 'a', 'c']);
    expect(names('name', false)).toEqual(['a', 'b', 'c']);
    expect(names('name', true)).toEqual(['c', 'b', 'a']);
  });
  it('adds up amounts, and nothing that cannot be added', () => {
    expect(total(rows, column('cpu'))).toBe('2.00');
    expect(total(rows, column('memory'))).toBe('3.00 GiB');
    expect(total(rows, column('restarts'))).toBe('3');
    expect(total(rows, column('cpuTight'))).toBe('');
    expect(total(rows, column('sent'))).toBe('');
    expect(total([], column('cpu'))).toBe('');
  });
  it('filters by label, owner and findings', () => {
    const all = { label: '', owner: '', state: 'all' as const };
    expect(fits(rows[0]!, { ...all, label: 'app=b' })).toBe(true);
    expect(fits(rows[0]!, { ...all, label: 'app = a' })).toBe(false);
    expect(fits(rows[0]!, { ...all, label: 'app' })).toBe(true);
    expect(fits(row('x', 1, { owner: null }), { ...all, owner: 'nobody' })).toBe(true);
    expect(fits(rows[0]!, { ...all, state: 'found' })).toBe(false);
    expect(fits(row('x', 1, { severity: 'critical' }), { ...all, state: 'found' })).toBe(true);
  });
  it('knows its columns, each once, and keeps the name', () => {
    expect(columnsOf(['memory', 'memory', 'nonsense']).map(({ key }) => key)).toEqual(['name', 'memory']);
    expect(columnsOf(FIRST_COLUMNS)).toHaveLength(FIRST_COLUMNS.length);
  });
  it('is written as CSV with units, whole figures, and no cell that a spreadsheet would run', () => {
    const odd = row('=cmd|"x"', 1.23456789, { finding: 'a, b', severity: 'warning' });
    const csv = csvOf([odd], ['name', 'state', 'cpu', 'sent'].map(column));
    expect(csv).toBe(
      'name,state,CPU (cores),sent (bytes per second)\r\n"\'=cmd|""x""","warning: a, b",1.23456789,\r\n',
    );
    expect(JSON.parse(jsonOf([odd], [column('cpu')]))).toEqual([{ path: odd.path, cpu: 1.23456789 }]);
  });
  it('takes away every figure of every column as the row has it, whole, in both forms', () => {
    const all = [row('a', 0.123456789, { sent: 17.5, volumes: 5, volumeSize: 10, age: 90_000 }), row('b', null)];
    const [, ...lines] = csvOf(all, COLUMNS).trimEnd().split('\r\n');
    const written: Record<string, unknown>[] = JSON.parse(jsonOf(all, COLUMNS));
    all.forEach((own, i) => {
      const cells = lines[i]!.split(',');
      COLUMNS.forEach(({ key, raw }, n) => {
        expect([key, cells[n]]).toEqual([key, raw(own) === null ? '' : String(raw(own))]);
        expect([key, written[i]![key]]).toEqual([key, raw(own)]);
      });
    });
    expect(written[0]!['cpu']).toBe(all[0]!.usage.cpu.use);
  });
  it('says of what is gone when it was last there', () => {
    const gone = row('x', null, { present: false, goneAt: Date.now() - 60_000 });
    expect(column('state').text(gone)).toMatch(/^gone, last there \d\d:\d\d$/);
    expect(column('state').text({ ...gone, goneAt: null })).toMatch(/^gone/);
  });
});
