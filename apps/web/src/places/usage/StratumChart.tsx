import { formatClock } from '@zetopsis/core/format';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { axisTicks } from '../../drawing/axisTicks.ts';
import { DrawnWindow } from '../../drawing/DrawnWindow.tsx';
import { useView } from '../../frame/useView.ts';
import { at, compared, type Point, type StratumProps } from './stratumPoints.ts';

const MARGIN = { top: 4, right: 2, bottom: 0, left: 0 };
/** Of the picture in pixels, below its margin. */
const HEIGHT = 80;
/** Of every line but the first. */
const DASHES = ['5 3', '1.5 2.5'] as const;
/** The lines of a chart, its limit and request, the window compared with, what happened, and where nothing was read. */
export function StratumChart(props: StratumProps) {
  const { name, words, points, limitName, top, amount, marks, start, end } = props;
  const ticks = axisTicks(top, amount);
  const { setWindow } = useView();
  return (
    <DrawnWindow
      start={start}
      end={end}
      margins={[MARGIN.left, MARGIN.right]}
      drawn={(window) => void setWindow(window)}
    >
      <div className="relative h-[84px]" role="img" aria-label={`${name}: ${words}`}>
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={points as Point[]} syncId="sheet" syncMethod="value" margin={MARGIN}>
            <CartesianGrid vertical={false} stroke="var(--hair)" />
            <XAxis dataKey="at" type="number" domain={[start, end]} hide />
            <YAxis domain={[0, top]} ticks={[0, ...ticks]} hide />
            <Tooltip
              content={<PointNote {...props} />}
              isAnimationActive={false}
              cursor={{ stroke: 'var(--petrol)' }}
            />
            {marks.map((mark) => (
              <ReferenceLine
                key={`${mark.at} ${mark.title}`}
                x={mark.at}
                stroke={mark.kind === 'raised' ? 'var(--critical)' : 'var(--structure)'}
                strokeDasharray="1 3"
              />
            ))}
            {drawnLines(props)}
          </LineChart>
        </ResponsiveContainer>
        <Gaps {...props} />
        {ticks.map((tick) => (
          <span
            key={tick}
            className="pointer-events-none absolute right-0.5 bg-sheet/70 text-[10px] leading-none text-soft"
            style={{ top: fromTop(tick / top) - 11 }}
          >
            {amount(tick)}
          </span>
        ))}
        {limitName !== null && (
          <span
            className="pointer-events-none absolute left-0.5 text-[11px] leading-none text-soft"
            style={{ top: fromTop(limitName.at / top) - 12 }}
          >
            {limitName.name}
          </span>
        )}
      </div>
      <div className="flex justify-between text-[10px] leading-tight text-soft">
        <span>{formatClock(start, end)}</span>
        <span>{formatClock(end, end)}</span>
      </div>
    </DrawnWindow>
  );
}

const fromTop = (share: number): number => MARGIN.top + (1 - share) * HEIGHT;
const STILL = { dot: false, isAnimationActive: false } as const;
/** From the back to the front: request and limit, the window compared with, and the lines themselves. */
function drawnLines(props: StratumProps) {
  const { lines, request, limit } = props;
  return [
    request !== null && (
      <Line
        key="request"
        {...STILL}
        dataKey={request}
        stroke="var(--soft)"
        strokeWidth={1}
        strokeDasharray="4 3"
        type="stepAfter"
      />
    ),
    limit !== null && (
      <Line key="limit" {...STILL} dataKey={limit} stroke="var(--ink)" strokeWidth={1.2} type="stepAfter" />
    ),
    ...(compared(props) ? lines : []).flatMap(({ key, against }) => [
      <Line key={`${key} outer`} {...STILL} dataKey={against} stroke="var(--ink)" strokeWidth={3.6} />,
      <Line key={`${key} inner`} {...STILL} dataKey={against} stroke="var(--sheet)" strokeWidth={1.8} />,
    ]),
    ...lines.map(({ key, series }, n) => (
      <Line
        key={key}
        {...STILL}
        dataKey={key}
        stroke={`var(--series-${series})`}
        strokeWidth={1.7}
        {...(n === 0 ? {} : { strokeDasharray: DASHES[Math.min(n, DASHES.length) - 1] })}
        connectNulls={false}
      />
    )),
  ];
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
