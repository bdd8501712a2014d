import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from 'recharts';
import { axisTicks } from '../../drawing/axisTicks.ts';
import { useView } from '../../frame/useView.ts';
import { at, compared, type Point, type StratumProps } from './stratumPoints.ts';

const MARGIN = { top: 4, right: 2, bottom: 0, left: 0 };
/** Of the picture in pixels, below its margin. */
const HEIGHT = 80;
/** Of every line but the first. */
const DASHES = ['5 3', '1.5 2.5'] as const;
/** A window that is drawn is at least this long, ms. */
const SHORTEST = 60_000;

interface Drag {
  readonly from: number;
  readonly to: number;
}
/** Drawing over a chart sets the window that all of them show. */
function useDrawnWindow() {
  const { change } = useView();
  const [drag, setDrag] = useState<Drag | null>(null);
  const timeOf = ({ activeLabel }: { activeLabel?: string | number | undefined }): number | null => {
    const time = Number(activeLabel);
    return activeLabel === undefined || Number.isNaN(time) ? null : time;
  };
  return {
    drag,
    handlers: {
      onMouseDown: (state: { activeLabel?: string | number | undefined }) => {
        const time = timeOf(state);
        if (time !== null) setDrag({ from: time, to: time });
      },
      onMouseMove: (state: { activeLabel?: string | number | undefined }) => {
        const time = timeOf(state);
        if (drag && time !== null) setDrag({ ...drag, to: time });
      },
      onMouseUp: () => {
        setDrag(null);
        if (!drag) return;
        const [from, to] = [Math.min(drag.from, drag.to), Math.max(drag.from, drag.to)];
        if (to - from >= SHORTEST) void change({ window: { from, to } });
      },
      onMouseLeave: () => setDrag(null),
    },
  };
}

/** The lines of a chart, its limit and request, the window compared with, what happened, and where nothing was read. */
export function StratumChart(props: StratumProps) {
  const { name, words, points, lines, request, limit, limitName, top, amount, marks, start, end } = props;
  const comparing = compared(props);
  const ticks = axisTicks(top, amount);
  const { drag, handlers } = useDrawnWindow();
  return (
    <>
      <div
        className="relative h-[84px] select-none"
        role="img"
        aria-label={`${name}: ${words}`}
        title="draw over it to set the window"
      >
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={points as Point[]} syncId="sheet" syncMethod="value" margin={MARGIN} {...handlers}>
            <CartesianGrid vertical={false} stroke="var(--hair)" />
            <XAxis dataKey="at" type="number" domain={[start, end]} hide />
            <YAxis domain={[0, top]} ticks={[0, ...ticks]} hide />
            <Tooltip
              content={<PointNote {...props} />}
              isAnimationActive={false}
              cursor={{ stroke: 'var(--petrol)' }}
            />
            {drag && drag.from !== drag.to && (
              <ReferenceArea x1={drag.from} x2={drag.to} fill="var(--ink)" fillOpacity={0.08} />
            )}
            {marks.map((mark) => (
              <ReferenceLine
                key={`${mark.at} ${mark.title}`}
                x={mark.at}
                stroke={mark.kind === 'raised' ? 'var(--critical)' : 'var(--structure)'}
                strokeDasharray="1 3"
              />
            ))}
            {request !== null && (
              <Line
                dataKey={request}
                stroke="var(--soft)"
                strokeWidth={1}
                strokeDasharray="4 3"
                dot={false}
                isAnimationActive={false}
                type="stepAfter"
              />
            )}
            {limit !== null && (
              <Line
                dataKey={limit}
                stroke="var(--ink)"
                strokeWidth={1.2}
                dot={false}
                isAnimationActive={false}
                type="stepAfter"
              />
            )}
            {comparing &&
              lines.flatMap((line) => [
                <Line
                  key={`${line.key} outer`}
                  dataKey={line.against}
                  stroke="var(--ink)"
                  strokeWidth={3.6}
                  dot={false}
                  isAnimationActive={false}
                />,
                <Line
                  key={`${line.key} inner`}
                  dataKey={line.against}
                  stroke="var(--sheet)"
                  strokeWidth={1.8}
                  dot={false}
                  isAnimationActive={false}
                />,
              ])}
            {lines.map((line, n) => (
              <Line
                key={line.key}
                dataKey={line.key}
                stroke={`var(--series-${line.series})`}
                strokeWidth={1.7}
                {...(n === 0 ? {} : { strokeDasharray: DASHES[Math.min(n, DASHES.length) - 1] })}
                dot={false}
                isAnimationActive={false}
                connectNulls={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
        <Gaps {...props} />
        {ticks.map((tick) => (
          <span
            key={tick}
            className="pointer-events-none absolute right-0.5 bg-sheet/70 text-[10px] leading-none text-soft"
            style={{ top: MARGIN.top + (1 - tick / top) * HEIGHT - 11 }}
          >
            {amount(tick)}
          </span>
        ))}
        {limitName !== null && (
          <span
            className="pointer-events-none absolute left-0.5 text-[11px] leading-none text-soft"
            style={{ top: MARGIN.top + (1 - limitName.at / top) * HEIGHT - 12 }}
          >
            {limitName.name}
          </span>
        )}
      </div>
      <div className="flex justify-between text-[10px] leading-tight text-soft">
        <span>{formatClock(start, end)}</span>
        <span>{formatClock(end, end)}</span>
      </div>
    </>
  );
}

function Gaps({ gaps, start, end }: StratumProps) {
  const share = (at: number) => ((at - start) / Math.max(1, end - start)) * 100;
  return gaps.map(({ from, to }) => (
    <span
      key={from}
      className="hatched pointer-events-none absolute top-1 bottom-0 opacity-80"
      style={{ left: `${share(from)}%`, width: `${share(to) - share(from)}%` }}
      title="nothing was read"
    />
  ));
}

interface Hovered {
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: Point }[];
}

/** Recharts hands the hovered point over. */
function PointNote({ lines, limit, amount, end, active, payload }: StratumProps & Hovered) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  const bound = limit === null ? null : at(point, limit);
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b>
      {lines.map((line) => {
        const then = at(point, line.against);
        return (
          <p key={line.key}>
            {lines.length > 1 && `${line.name} `}
            {amount(at(point, line.key))}
            {then !== null && <span className="text-soft"> against {amount(then)}</span>}
          </p>
        );
      })}
      {bound !== null && <p className="text-soft">of {amount(bound)}</p>}
    </div>
  );
}
