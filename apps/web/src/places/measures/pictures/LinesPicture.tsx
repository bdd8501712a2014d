import { formatClock } from '@zetopsis/core/format';
import type { ReactElement } from 'react';
import { Area, CartesianGrid, ComposedChart, Line, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import {
  type ChartPoint,
  chartPoints,
  DRAWN,
  domainOf,
  gapsIn,
  type MeasureLine,
  type Shown,
} from '../measuresModel.ts';
import { AXIS, END, PictureFrame, type Worded } from './PictureFrame.tsx';

interface Props extends Worded {
  readonly drawn: readonly Shown[];
  /** The lines of the window compared with, by key, at this one's times. */
  readonly against: ReadonlyMap<string, MeasureLine>;
  readonly stacked: boolean;
}

/** Lines on one axis, or areas one on the other; their names stand at their ends. */
export function LinesPicture({ drawn, against, stacked, words }: Props) {
  const points = chartPoints(drawn, stacked ? undefined : against);
  const own = drawn.slice(0, DRAWN);
  const domain = stacked ? stackedDomain(points) : domainOf(points);
  const [start, end] = [points[0]?.at ?? 0, points.at(-1)?.at ?? 0];
  const ends = own.flatMap(({ caption, ink, line }, n) => {
    const value = stacked ? stackedEnd(points, n) : (line.points.findLast(([, one]) => one !== null)?.[1] ?? null);
    return ink === null || value === null ? [] : [{ caption, colour: ink.colour, value }];
  });
  const grey = own.filter(({ ink }) => ink === null).length;
  return (
    <PictureFrame
      name={stacked ? 'stacked areas of the measure' : 'lines of the measure'}
      start={start}
      end={end}
      domain={domain}
      words={words}
      ends={ends}
      gaps={gapsIn(own.map(({ line }) => line))}
      below={[
        ...(grey > 0 ? [`and ${grey} more, thin and grey`] : []),
        ...(drawn.length > DRAWN ? [`${drawn.length - DRAWN} more lines are in the table only`] : []),
        ...(own.some(({ ink, line }) => ink !== null && line.points.some(isOpen) && !hasDots(line))
          ? ['mostly partial, filled, or at least so much']
          : []),
        ...(against.size > 0 && !stacked ? ['double line: the window compared with'] : []),
        ...(!stacked && own.some(({ ink, line }) => ink !== null && hasDots(line))
          ? ['open dots: partial, filled, or at least so much']
          : []),
      ].join(' · ')}
    >
      {(height) => (
        <ResponsiveContainer width="100%" height={height}>
          <ComposedChart data={points as ChartPoint[]} margin={{ top: 6, right: END, bottom: 0, left: AXIS }}>
            <CartesianGrid vertical={false} horizontal={false} />
            <XAxis dataKey="at" type="number" domain={[start, end]} hide />
            <YAxis domain={[domain[0], domain[1]]} hide />
            <Tooltip
              content={<PointNote drawn={own} words={words} end={end} />}
              isAnimationActive={false}
              cursor={{ stroke: 'var(--petrol)' }}
            />
            {stacked ? own.map(areaOf) : own.flatMap((line, n) => linesOf(line, n, against.has(line.key)))}
          </ComposedChart>
        </ResponsiveContainer>
      )}
    </PictureFrame>
  );
}

function areaOf({ key, ink }: Shown, n: number): ReactElement {
  return (
    <Area
      key={key}
      dataKey={`value${n}`}
      stackId="all"
      stroke={ink?.colour ?? 'var(--structure)'}
      strokeWidth={1.2}
      fill={ink?.colour ?? 'var(--structure)'}
      fillOpacity={0.25}
      dot={false}
      isAnimationActive={false}
    />
  );
}
function linesOf({ key, ink, line }: Shown, n: number, compared: boolean): ReactElement[] {
  const colour = ink?.colour ?? 'var(--structure)';
  const plain = { dot: false, activeDot: false, isAnimationActive: false, connectNulls: false } as const;
  return [
    ...(line.band && ink
      ? [
          <Area
            key={`${key} band`}
            dataKey={`band${n}`}
            stroke="none"
            fill={colour}
            fillOpacity={0.14}
            isAnimationActive={false}
            activeDot={false}
          />,
        ]
      : []),
    ...(compared && ink
      ? [
          <Line key={`${key} outer`} dataKey={`then${n}`} stroke={colour} strokeWidth={3.4} {...plain} />,
          <Line key={`${key} inner`} dataKey={`then${n}`} stroke="var(--ground)" strokeWidth={1.6} {...plain} />,
        ]
      : []),
    <Line
      key={key}
      dataKey={`value${n}`}
      stroke={colour}
      strokeWidth={ink ? 1.8 : 0.8}
      {...(ink?.dash ? { strokeDasharray: ink.dash } : {})}
      {...plain}
      dot={ink && hasDots(line) ? (props: Dot) => <OpenDot {...props} line={line} colour={colour} /> : false}
    />,
  ];
}
const isOpen = ([, value, flags]: MeasureLine['points'][number]): boolean =>
  value !== null && (flags?.some((flag) => flag === 'partial' || flag === 'filled' || flag === 'at least') ?? false);

/** Where nearly all of it is so, dots would hide the line: the table says it. */
const MOST_DOTS = 60;
const hasDots = ({ points }: MeasureLine): boolean => {
  const open = points.filter(isOpen).length;
  return open > 0 && open <= MOST_DOTS;
};
interface Dot {
  readonly cx?: number;
  readonly cy?: number | null;
  readonly index?: number;
}
function OpenDot({ cx, cy, index, line, colour }: Dot & { line: MeasureLine; colour: string }) {
  const point = line.points[index ?? -1];
  if (!point || !isOpen(point) || cx === undefined || cy == null) return <g />;
  return <circle cx={cx} cy={cy} r={2.4} fill="var(--ground)" stroke={colour} strokeWidth={1.2} />;
}

const sumOf = (point: ChartPoint, upTo: number): number => {
  let sum = 0;
  for (let n = 0; n <= upTo; n++) {
    const value = point[`value${n}`];
    if (typeof value === 'number') sum += value;
  }
  return sum;
};
const stackedDomain = (points: readonly ChartPoint[]): readonly [number, number] => {
  const most = points.reduce((top, point) => Math.max(top, sumOf(point, DRAWN)), 0);
  return [0, most === 0 ? 1 : most * 1.06];
};
const stackedEnd = (points: readonly ChartPoint[], n: number): number | null => {
  const last = points.findLast((point) => typeof point[`value${n}`] === 'number');
  return last ? sumOf(last, n) : null;
};

interface Hovered {
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: ChartPoint }[];
}
const NOTED = 8;
/** Values of one moment, largest first. */
function PointNote({
  drawn,
  words,
  end,
  active,
  payload,
}: { drawn: readonly Shown[]; words: (value: number | null) => string; end: number } & Hovered) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  const number = (key: string) => (typeof point[key] === 'number' ? point[key] : null);
  const values = drawn
    .map(({ caption }, n) => ({ caption, value: number(`value${n}`), before: number(`then${n}`) }))
    .filter(({ value, before }) => value !== null || before !== null)
    .sort((a, b) => (b.value ?? Number.NEGATIVE_INFINITY) - (a.value ?? Number.NEGATIVE_INFINITY));
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b>
      {values.slice(0, NOTED).map(({ caption, value, before }) => (
        <p key={caption}>
          {words(value)} <span className="text-soft">{caption}</span>
          {before !== null && <span className="text-soft"> against {words(before)}</span>}
        </p>
      ))}
      {values.length === 0 && <p className="text-soft">no value</p>}
      {values.length > NOTED && <p className="text-soft">and {values.length - NOTED} more</p>}
    </div>
  );
}
