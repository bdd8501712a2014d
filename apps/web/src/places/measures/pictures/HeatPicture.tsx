import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import type { Shown } from '../measuresModel.ts';
import type { Worded } from './PictureFrame.tsx';
import { heatOf } from './pictureModel.ts';

const ROW = 18;
const NAMES = 190;
/** Ink of a cell: from paper to the darkest fill. */
const ink = (share: number): string => `color-mix(in oklab, var(--fill-4) ${Math.round(share * 100)}%, var(--sheet))`;

/** Time across, lines or buckets down, the highest bucket on top: the darker, the more. */
export function HeatPicture({
  drawn,
  cellWords,
  words,
}: Worded & { drawn: readonly Shown[]; cellWords: (value: number | null) => string }) {
  const heat = heatOf(drawn, words);
  const [pointed, setPointed] = useState<readonly [row: number, column: number] | null>(null);
  const buckets = drawn.some(({ line }) => line.buckets);
  // buckets rise, lines stand in their order
  const order = heat.rows.map((_, row) => (buckets ? heat.rows.length - 1 - row : row));
  const end = heat.times.at(-1) ?? 0;
  const count = heat.times.length;
  const at = pointed && heat.cells[pointed[0]]?.[pointed[1]];
  return (
    <figure aria-label="heat map of the measure">
      <div className="flex">
        <div style={{ width: NAMES }} className="shrink-0">
          {order.map((row) => (
            <p
              key={row}
              className="truncate pr-2 text-right text-xs"
              style={{ height: ROW, lineHeight: `${ROW}px` }}
              title={heat.rows[row]}
            >
              {heat.rows[row]}
            </p>
          ))}
        </div>
        <svg
          className="min-w-0 flex-1 border border-structure"
          height={order.length * ROW}
          viewBox={`0 0 ${count} ${order.length}`}
          preserveAspectRatio="none"
          shapeRendering="crispEdges"
          role="img"
          aria-label={`${heat.rows.length} rows, ${count} columns; the most is ${cellWords(heat.most)}`}
          onPointerMove={(event) => {
            const box = event.currentTarget.getBoundingClientRect();
            const column = Math.floor(((event.clientX - box.left) / box.width) * count);
            const row = order[Math.floor(((event.clientY - box.top) / box.height) * order.length)];
            setPointed(row === undefined || column < 0 || column >= count ? null : [row, column]);
          }}
          onPointerLeave={() => setPointed(null)}
        >
          <Cells rows={order.map((row) => heat.cells[row]!)} most={heat.most} />
        </svg>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-x-3 text-[11px] text-soft" style={{ paddingLeft: NAMES }}>
        <span>{formatClock(heat.times[0] ?? 0, end)}</span>
        <span className="ml-auto flex items-center gap-1.5">
          none
          <span
            className="inline-block h-2.5 w-28 border border-structure"
            style={{ background: `linear-gradient(to right, ${[0, 0.25, 0.5, 0.75, 1].map(ink).join(', ')})` }}
          />
          {cellWords(heat.most)}; hatched: no value
        </span>
        <span className="ml-auto">{formatClock(end, end)}</span>
      </div>
      <p className="min-h-5 text-xs" style={{ paddingLeft: NAMES }}>
        {pointed
          ? `${formatClock(heat.times[pointed[1]]!, end, { seconds: true })} · ${heat.rows[pointed[0]]} · ${cellWords(at ?? null)}`
          : heat.left > 0
            ? `${heat.left} more do not stand here: ${buckets ? 'their bounds are others' : 'narrow it'}.`
            : ''}
      </p>
    </figure>
  );
}

/** A cell a value, in the order in which rows stand. */
function Cells({ rows, most }: { rows: readonly (readonly (number | null)[])[]; most: number }) {
  const inkOf = (value: number) => ink(most === 0 ? 0 : Math.sqrt(Math.max(0, value) / most));
  return (
    <>
      <defs>
        <pattern id="not-read" width="1" height="1" patternUnits="userSpaceOnUse">
          <rect width="1" height="1" fill="var(--ground)" />
          <path d="M0 1L1 0" stroke="var(--line)" strokeWidth="0.12" />
        </pattern>
      </defs>
      {rows.map((cells, y) =>
        cells.map((value, x) => (
          <rect key={x} x={x} y={y} width="1" height="0.94" fill={value === null ? 'url(#not-read)' : inkOf(value)} />
        )),
      )}
    </>
  );
}
