import { execFileSync } from 'node:child_process';
import { readPage } from '@zetopsis/core/exposition';
import { describe, expect, it } from 'vitest';
import { csvOf, curlOf, openMetricsOf } from './exports.ts';
import type { MeasureLine } from './measuresModel.ts';

const line = (labels: Record<string, string>, values: readonly (number | null)[], unit = 'bytes'): MeasureLine => ({
  labels,
  name: null,
  unit,
  points: values.map((value, i) => [1_795_960_000_000 + i * 60_000, value]),
});

describe('a measure that is taken along', () => {
  it('as CSV has units, everything, and no cell that a spreadsheet would run', () => {
    expect(csvOf([line({ pod: '=cmd' }, [1.23456789, null]), line({ pod: 'b' }, [2, 3])])).toBe(
      "time,'=cmd (bytes),b (bytes)\r\n2026-11-29T13:46:40.000Z,1.23456789,2\r\n2026-11-29T13:47:40.000Z,,3\r\n",
    );
  });
  it('as OpenMetrics is a page that can be read again, times included', () => {
    const page = openMetricsOf([
      line({ 'pod.name': 'a"b', '0': 'x' }, [1, null, 3]),
      line({ 'pod.name': 'c' }, [4, 5, 6]),
    ]);
    const read = readPage(new TextEncoder().encode(page), { form: 'openmetrics' });
    expect(read.problems).toEqual([]);
    expect([...read.values]).toEqual([1, 3, 4, 5, 6]);
    expect([...(read.times ?? [])].slice(0, 2)).toEqual([1_795_960_000_000, 1_795_960_120_000]);
    expect(page).toContain('# UNIT measure_bytes bytes');
  });
  it('as a line for a shell keeps to itself what stands in quotes', () => {
    const body = { text: `read a where b is "it's" and c is "$HOME"` };
    const told = curlOf('http://127.0.0.1:8484', body);
    const said = execFileSync('sh', ['-c', told.replace(/^curl/, "printf '%s\\n'")], { env: { TOKEN: 'of mine' } });
    const words = said.toString().trim().split('\n');
    expect(words).toContain('Authorization: Bearer of mine');
    expect(JSON.parse(words[words.indexOf('-d') + 1]!)).toEqual(body);
  });
});
