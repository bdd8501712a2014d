import { formatClock, formatNumber } from '@zetopsis/core/format';
import { useState } from 'react';
import { Trace } from '../../../drawing/Trace.tsx';
import { lastOf, type MeasureLine, type Shown } from '../measuresModel.ts';
import type { Worded } from './PictureFrame.tsx';
import { spreadAt, valuesOf } from './pictureModel.ts';

type Drawn = Worded & { readonly drawn: readonly Shown[] };
const valueAt = (line: MeasureLine): number | null => lastOf(line)?.[1] ?? null;

const BARS = 60;
/** Last values, the largest first; the longest strip is the largest. */
export function BarsPicture({ drawn, words }: Drawn) {
  const values = drawn
    .map(({ key, caption, line }) => ({ key, caption, value: valueAt(line) }))
    .sort((a, b) => (b.value ?? Number.NEGATIVE_INFINITY) - (a.value ?? Number.NEGATIVE_INFINITY));
  const most = values.reduce((top, { value }) => Math.max(top, Math.abs(value ?? 0)), 0) || 1;
  return (
    <figure aria-label="ranked bars of the measure">
      <ol>
        {values.slice(0, BARS).map(({ key, caption, value }) => (
          <li
            key={key}
            className="grid grid-cols-[minmax(120px,260px)_1fr_110px] items-center gap-3 border-b border-hair py-0.5 text-sm"
          >
            <span className="truncate" title={caption}>
              {caption}
            </span>
            <span className="h-3 border-l border-structure">
              {value !== null && (
                <span
                  className="block h-full"
                  style={{
                    width: `${(Math.abs(value) / most) * 100}%`,
                    background: value < 0 ? 'var(--structure)' : 'var(--fill-3)',
                  }}
                />
              )}
            </span>
            <span className="text-right tabular-nums">{words(value)}</span>
          </li>
        ))}
      </ol>
      {values.length > BARS && <p className="text-sm text-soft">{values.length - BARS} more are in the table below.</p>}
    </figure>
  );
}

const FIGURES = 24;
/** One figure a line, never without its trace. */
export function FiguresPicture({ drawn, words }: Drawn) {
  return (
    <figure
      aria-label="figures of the measure"
      className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-6 gap-y-3"
    >
      {drawn.slice(0, FIGURES).map(({ key, caption, line }) => (
        <div key={key} className="min-w-0 border-t border-structure pt-1">
          <p className="truncate text-xs text-soft" title={caption}>
            {caption}
          </p>
          <p className="text-xl font-bold">{words(valueAt(line))}</p>
          <Trace values={valuesOf(line)} height={34} />
        </div>
      ))}
      {drawn.length > FIGURES && (
        <p className="text-sm text-soft">{drawn.length - FIGURES} more are in the table below.</p>
      )}
    </figure>
  );
}
/** How values lie at one moment, as steps; the moment is chosen on a slider. */
export function SpreadPicture({ drawn, words, cellWords }: Drawn & { cellWords: (value: number | null) => string }) {
  const times = drawn[0]?.line.points.map(([at]) => at) ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const at = Math.min(chosen ?? times.length - 1, times.length - 1);
  const { steps, below } = spreadAt(drawn, at, words);
  const most = steps.reduce((top, { count }) => Math.max(top, count), 0) || 1;
  const end = times.at(-1) ?? 0;
  const buckets = drawn.some(({ line }) => line.buckets);
  return (
    <figure aria-label="distribution of the measure">
      <label className="mb-2 flex items-center gap-3 text-sm">
        at {formatClock(times[at] ?? 0, end, { seconds: true })}
        <input
          type="range"
          className="w-72"
          aria-label="moment of the distribution"
          min={0}
          max={Math.max(0, times.length - 1)}
          value={Math.max(0, at)}
          onChange={({ target }) => setChosen(Number(target.value))}
        />
        <span className="text-soft">
          {below
            .map(
              ({ percentile, value, atLeast }) => `${percentile} % below ${atLeast ? 'at least ' : ''}${words(value)}`,
            )
            .join(' · ')}
        </span>
      </label>
      {steps.every(({ count }) => count === 0) ? (
        <p className="hatched flex h-24 items-center justify-center text-sm">
          <span className="bg-ground px-2">Nothing was observed at this moment.</span>
        </p>
      ) : (
        <ol>
          {steps.map(({ name, count }) => (
            <li key={name} className="grid grid-cols-[190px_1fr_110px] items-center gap-3 text-xs">
              <span className="text-right">{name}</span>
              <span className="h-4 border-l border-structure">
                <span
                  className="block h-full border border-l-0 border-structure bg-[var(--fill-2)]"
                  style={{ width: `${(count / most) * 100}%` }}
                />
              </span>
              <span className="text-right tabular-nums">
                {buckets ? cellWords(count) : `${formatNumber(count)} lines`}
              </span>
            </li>
          ))}
        </ol>
      )}
    </figure>
  );
}

const MOMENTS = 200;
const COLUMNS = 12;
/** Moments down, lines across: the newest moment first. */
export function MomentsTable({ drawn, words }: Drawn) {
  const shown = drawn.slice(0, COLUMNS);
  const times = shown[0]?.line.points.map(([at], i) => ({ at, i })).reverse() ?? [];
  const end = times[0]?.at ?? 0;
  return (
    <div
      className="max-h-80 overflow-auto border border-line"
      role="group"
      aria-label="table of moments"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls is reached by the keyboard
      tabIndex={0}
    >
      <table className="text-sm">
        <thead className="sticky top-0 bg-ground text-left">
          <tr>
            <th className="px-2 py-1">time</th>
            {shown.map(({ key, caption }) => (
              <th key={key} className="max-w-40 truncate px-2 py-1 text-right" title={caption}>
                {caption}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {times.slice(0, MOMENTS).map(({ at, i }) => (
            <tr key={at} className="border-t border-hair">
              <td className="px-2 py-0.5 whitespace-nowrap">{formatClock(at, end, { seconds: true })}</td>
              {shown.map(({ key, line }) => (
                <td
                  key={key}
                  className="px-2 py-0.5 text-right whitespace-nowrap tabular-nums"
                  title={line.points[i]?.[2]?.join(', ')}
                >
                  {words(line.points[i]?.[1] ?? null)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {(times.length > MOMENTS || drawn.length > COLUMNS) && (
        <p className="px-2 py-1 text-xs text-soft">
          Everything is in the files: {times.length} moments of {drawn.length} lines.
        </p>
      )}
    </div>
  );
}
