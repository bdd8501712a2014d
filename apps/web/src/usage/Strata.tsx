import type { SheetAnswer } from '@zetopsis/contract';
import { formatAmount, formatClock, formatCount, formatPercent } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';
import { useState } from 'react';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { OwnMark } from '../drawing/OwnMark.tsx';
import { type ChartPoint, chartPoints, chartTop, emptyWords, figureWords } from './sheetModel.ts';

const MARGIN = { top: 4, right: 2, bottom: 0, left: 0 };
const NAMES: Record<Resource, string> = { cpu: 'CPU', memory: 'Memory, working set' };

/** Charts stacked on one time axis; hovering one draws the same time on all. */
export function Strata({ sheet }: { sheet: SheetAnswer }) {
  const end = sheet.grid.start + (sheet.grid.count - 1) * sheet.grid.step;
  return (
    <div>
      <Stratum sheet={sheet} resource="cpu" end={end} axis={false} />
      <Stratum sheet={sheet} resource="memory" end={end} axis={false} />
      <Happenings sheet={sheet} end={end} />
    </div>
  );
}

function Stratum({
  sheet,
  resource,
  end,
  axis,
}: {
  sheet: SheetAnswer;
  resource: Resource;
  end: number;
  axis: boolean;
}) {
  const [table, setTable] = useState(false);
  const points = chartPoints(sheet, resource);
  const { top, limitShown } = chartTop(points);
  const empty = emptyWords(points, sheet);
  const throttled =
    resource === 'cpu' && sheet.throttled !== null && sheet.throttled >= 0.01
      ? ` · throttled ${formatPercent(sheet.throttled)} of the time`
      : '';
  const limit = sheet.usage[resource].limit;
  return (
    <section aria-label={NAMES[resource]} className="border-b border-hair px-4 pt-2 pb-1">
      <div className="flex items-baseline justify-between gap-2 text-xs">
        <h3>{NAMES[resource]}</h3>
        <span className="text-soft">
          {figureWords(resource, sheet)}
          {throttled}
        </span>
      </div>
      {empty === null ? (
        <div
          className="relative h-[84px]"
          role="img"
          aria-label={`${NAMES[resource]}: ${figureWords(resource, sheet)}${throttled}`}
        >
          <ResponsiveContainer width="100%" height="100%">
            <LineChart data={points} syncId="sheet" syncMethod="value" margin={MARGIN}>
              <CartesianGrid vertical={false} stroke="var(--hair)" />
              <XAxis dataKey="at" type="number" domain={[sheet.grid.start, end]} hide={!axis} />
              <YAxis domain={[0, top]} hide />
              <Tooltip
                content={<PointNote resource={resource} end={end} />}
                isAnimationActive={false}
                cursor={{ stroke: 'var(--petrol)' }}
              />
              {sheet.marks.map((mark) => (
                <ReferenceLine
                  key={`${mark.at} ${mark.title}`}
                  x={mark.at}
                  stroke={mark.kind === 'raised' ? 'var(--critical)' : 'var(--structure)'}
                  strokeDasharray="1 3"
                />
              ))}
              <Line
                dataKey="request"
                stroke="var(--soft)"
                strokeWidth={1}
                strokeDasharray="4 3"
                dot={false}
                isAnimationActive={false}
                type="stepAfter"
              />
              {limitShown && (
                <Line
                  dataKey="limit"
                  stroke="var(--ink)"
                  strokeWidth={1.2}
                  dot={false}
                  isAnimationActive={false}
                  type="stepAfter"
                />
              )}
              <Line
                dataKey="use"
                stroke="var(--series-1)"
                strokeWidth={1.7}
                dot={false}
                isAnimationActive={false}
                connectNulls={false}
              />
            </LineChart>
          </ResponsiveContainer>
          {limitShown && limit !== null && (
            <span
              className="pointer-events-none absolute left-0.5 text-[11px] leading-none text-soft"
              style={{ top: 4 + (1 - limit / top) * 80 - 12 }}
            >
              limit
            </span>
          )}
        </div>
      ) : (
        <p className="hatched my-1 flex h-[64px] items-center justify-center text-sm">
          <span className="bg-sheet px-2">{empty}</span>
        </p>
      )}
      <div className="flex justify-between text-[11px] text-soft">
        <span>
          {!limitShown && limit !== null && empty === null
            ? `the limit of ${formatAmount(resource, limit)} lies above this picture · `
            : ''}
          {sheet.usage[resource].request
            ? `dashed: ${formatAmount(resource, sheet.usage[resource].request)} asked for`
            : 'nothing asked for'}
        </span>
        <button
          type="button"
          className="shrink-0 underline-offset-2 hover:text-petrol hover:underline"
          aria-expanded={table}
          onClick={() => setTable(!table)}
        >
          {table ? 'as a chart only' : 'as a table'}
        </button>
      </div>
      {table && <PointTable points={points} resource={resource} end={end} />}
    </section>
  );
}

interface NoteProps {
  readonly resource: Resource;
  readonly end: number;
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: ChartPoint }[];
}

/** Recharts hands the hovered point over. */
function PointNote({ resource, end, active, payload }: NoteProps) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b> {formatAmount(resource, point.use)}
      {point.limit !== null && <span className="text-soft"> of {formatAmount(resource, point.limit)}</span>}
    </div>
  );
}

const TABLE_ROWS = 48;

function PointTable({ points, resource, end }: { points: readonly ChartPoint[]; resource: Resource; end: number }) {
  const every = Math.max(1, Math.ceil(points.length / TABLE_ROWS));
  const rows = points.filter((_, i) => (points.length - 1 - i) % every === 0).reverse();
  return (
    <div className="my-1 max-h-44 overflow-auto border border-line">
      <table className="w-full text-xs">
        <thead className="sticky top-0 bg-ground text-left">
          <tr>
            <th className="px-2 py-1">time</th>
            <th className="px-2 py-1">use</th>
            <th className="px-2 py-1">request</th>
            <th className="px-2 py-1">limit</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((point) => (
            <tr key={point.at} className="border-t border-hair">
              <td className="px-2 py-0.5">{formatClock(point.at, end)}</td>
              <td className="px-2 py-0.5">{formatAmount(resource, point.use)}</td>
              <td className="px-2 py-0.5">{formatAmount(resource, point.request)}</td>
              <td className="px-2 py-0.5">{formatAmount(resource, point.limit)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Restarts and what else happened, on the same axis. */
function Happenings({ sheet, end }: { sheet: SheetAnswer; end: number }) {
  const { start } = sheet.grid;
  const share = (at: number) => `${Math.max(0, Math.min(1, (at - start) / Math.max(1, end - start))) * 100}%`;
  const own = sheet.marks.filter(({ kind }) => kind !== 'raised' && kind !== 'cleared');
  return (
    <section aria-label="restarts" className="border-b border-hair px-4 pt-2 pb-2">
      <div className="flex items-baseline justify-between text-xs">
        <h3>Restarts and rollouts</h3>
        <span className="text-soft">{formatCount(sheet.restarts, 'restart')} in this window</span>
      </div>
      <div className="relative mt-1 h-5 border-b border-structure">
        {own.map((mark) => (
          <span
            key={`${mark.at} ${mark.title}`}
            className="absolute -translate-x-1/2"
            style={{ left: share(mark.at) }}
            title={`${formatClock(mark.at, end)} ${mark.title}`}
          >
            <OwnMark name={mark.kind} size={14} label={`${formatClock(mark.at, end)} ${mark.title}`} />
          </span>
        ))}
      </div>
      <div className="flex justify-between text-[11px] text-soft">
        <span>{formatClock(start, end)}</span>
        <span>{formatClock(end, end)}</span>
      </div>
    </section>
  );
}
