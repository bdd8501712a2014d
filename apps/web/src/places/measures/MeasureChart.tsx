import { formatClock } from '@zetopsis/core/format';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { axisTicks } from '../../drawing/axisTicks.ts';
import {
  type ChartPoint,
  captionsOf,
  chartPoints,
  DRAWN,
  domainOf,
  gapsIn,
  INKS,
  type MeasureLine,
  valueWords,
} from './measuresModel.ts';

const DASHES = ['', '5 3', '1.5 2.5'] as const;
const HEIGHT = 260;

/** Lines on one axis: the first few have inks, the rest are thin and grey. */
export function MeasureChart({ lines, shownAs }: { lines: readonly MeasureLine[]; shownAs: string | null }) {
  const points = chartPoints(lines);
  const captions = captionsOf(lines);
  const unit = lines[0]?.unit ?? '';
  const words = (value: number | null) => valueWords(value, unit, shownAs);
  const [start, end] = [points[0]?.at ?? 0, points.at(-1)?.at ?? 0];
  const domain = domainOf(lines);
  const ticks = [domain[0], ...axisTicks(domain[1], words)];
  return (
    <figure aria-label="lines of the measure">
      <div className="relative" style={{ height: HEIGHT }}>
        <ResponsiveContainer width="100%" height="100%">
          <LineChart data={points as ChartPoint[]} margin={{ top: 6, right: 4, bottom: 0, left: 0 }}>
            <CartesianGrid vertical={false} stroke="var(--hair)" />
            <XAxis dataKey="at" type="number" domain={[start, end]} hide />
            <YAxis
              domain={[domain[0], domain[1]]}
              ticks={ticks}
              width={76}
              tickLine={false}
              axisLine={false}
              tick={{ fontSize: 11, fill: 'var(--soft)' }}
              tickFormatter={words}
            />
            <Tooltip
              content={<PointNote captions={captions} words={words} end={end} />}
              isAnimationActive={false}
              cursor={{ stroke: 'var(--petrol)' }}
            />
            {lines.slice(0, DRAWN).map((line, n) => (
              <Line
                key={JSON.stringify([line.labels, line.name])}
                dataKey={`value${n}`}
                stroke={n < INKS ? `var(--series-${(n % INKS) + 1})` : 'var(--structure)'}
                strokeWidth={n < INKS ? 1.8 : 0.8}
                {...(n < INKS && n > 0 ? { strokeDasharray: DASHES[n % DASHES.length] } : {})}
                dot={false}
                isAnimationActive={false}
                connectNulls={false}
              />
            ))}
          </LineChart>
        </ResponsiveContainer>
        {/* as wide as what is drawn: right of the axis */}
        <div className="pointer-events-none absolute top-1.5 right-1 bottom-0 left-[76px]">
          {gapsIn(lines).map(({ from, to }) => (
            <span
              key={from}
              className="hatched absolute inset-y-0 opacity-70"
              style={{ left: `${from * 100}%`, width: `${(to - from) * 100}%` }}
              title="no value"
            />
          ))}
        </div>
      </div>
      <p className="flex justify-between pl-[76px] text-[11px] text-soft">
        <span>{formatClock(start, end)}</span>
        {lines.length > DRAWN && <span>{lines.length - DRAWN} more lines are in the table only</span>}
        <span>{formatClock(end, end)}</span>
      </p>
    </figure>
  );
}

interface Hovered {
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: ChartPoint }[];
}
const NOTED = 8;
/** Values of one moment, largest first. */
function PointNote({
  captions,
  words,
  end,
  active,
  payload,
}: { captions: readonly string[]; words: (value: number | null) => string; end: number } & Hovered) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  const values = captions
    .slice(0, DRAWN)
    .map((caption, n) => ({ caption, value: point[`value${n}`] ?? null }))
    .filter(({ value }) => value !== null)
    .sort((a, b) => b.value! - a.value!);
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b>
      {values.slice(0, NOTED).map(({ caption, value }) => (
        <p key={caption}>
          {words(value)} <span className="text-soft">{caption}</span>
        </p>
      ))}
      {values.length === 0 && <p className="text-soft">no value</p>}
      {values.length > NOTED && <p className="text-soft">and {values.length - NOTED} more</p>}
    </div>
  );
}
