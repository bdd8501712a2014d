import type { MeasureAnswer } from '@zetopsis/contract';
import { type SampleOut, writePage } from '@zetopsis/core/exposition';
import { csvOfRows } from '../../drawing/csv.ts';
import { captionsOf, type MeasureLine } from './measuresModel.ts';

/** A row a moment, a column a line. */
export function csvOf(lines: readonly MeasureLine[]): string {
  const captions = captionsOf(lines);
  const head = captions.map((caption, i) => `${caption}${lines[i]!.unit === '' ? '' : ` (${lines[i]!.unit})`}`);
  const moments = lines[0]?.points ?? [];
  return csvOfRows([
    ['time', ...head],
    ...moments.map(([at], i) => [new Date(at).toISOString(), ...lines.map(({ points }) => points[i]?.[1] ?? null)]),
  ]);
}
/** What the API answered, without what was only for the screen. */
export const jsonOf = ({ text, series, notes, read }: MeasureAnswer): string =>
  `${JSON.stringify({ text, read, notes, series }, null, 1)}\n`;

const labelName = (name: string): string => name.replaceAll(/[^A-Za-z0-9_]/g, '_').replace(/^(?=[0-9])/, '_');
/** Units that an exposition names; others stand in none. */
const UNITS = new Set(['bytes', 'seconds']);
/** Every point with its time, as a page that can be read again. */
export function openMetricsOf(lines: readonly MeasureLine[]): string {
  const unit = UNITS.has(lines[0]?.unit ?? '') ? lines[0]!.unit : '';
  const samples = lines.flatMap(({ labels, name, points }): SampleOut[] => {
    const own = Object.fromEntries([
      ...Object.entries(labels).map(([label, value]) => [labelName(label), value]),
      ...(name === null ? [] : [['line', name]]),
    ]);
    return points.flatMap(([at, value]) => (value === null ? [] : [{ labels: own, value, at }]));
  });
  return writePage([
    { name: unit === '' ? 'measure' : `measure_${unit}`, type: 'gauge', unit, help: 'Points of a measure.', samples },
  ]);
}
/** The same question, asked from a shell. */
export const curlOf = (origin: string, body: object): string =>
  [
    `curl -H "Authorization: Bearer $TOKEN" -H 'content-type: application/json' \\`,
    `  -d '${JSON.stringify(body).replaceAll("'", "'\\''")}' \\`,
    `  ${origin}/api/measures/evaluate`,
  ].join('\n');
