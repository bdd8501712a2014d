import type { MeasureAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { Area, ComposedChart, Line, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { gapsIn, type Shown } from '../measuresModel.ts';
import { AXIS, END, PictureFrame, type Worded } from './PictureFrame.tsx';
import { type BandPoint, bandsOf, examplesApart, traceOf } from './pictureModel.ts';

/** How values spread over time, with measured examples as ticks: pointing at one says which trace it led to. */
export function BandsPicture({
  drawn,
  buckets,
  examples,
  words,
}: Worded & { drawn: readonly Shown[]; buckets: boolean; examples: MeasureAnswer['examples'] }) {
  const points = bandsOf(drawn);
  const [start, end] = [points[0]?.at ?? 0, points.at(-1)?.at ?? 0];
  const top = points.reduce(
    (most, { half, wide, upper }) => Math.max(most, half ?? 0, wide?.[1] ?? 0, upper?.[1] ?? 0),
    0,
  );
  const domain = [0, top === 0 ? 1 : top * 1.06] as const;
  const last = points.findLast(({ half }) => half !== null);
  const names = buckets
    ? ['half below', '90 % below', '99 % below']
    : ['the middle one', '90 % of lines below', 'the largest'];
  const values = [last?.half ?? null, last?.wide?.[1] ?? null, last?.upper?.[1] ?? null];
  const shown = examplesApart(examples, { from: start, to: end, top: domain[1] });
  const share = (at: number) => ((at - start) / Math.max(1, end - start)) * 100;
  return (
    <PictureFrame
      name="bands of the measure"
      start={start}
      end={end}
      domain={domain}
      words={words}
      ends={values.flatMap((value, i) =>
        value === null ? [] : [{ caption: `${names[i]!}: ${words(value)}`, colour: 'var(--series-1)', value }],
      )}
      gaps={gapsIn([{ points: points.map(({ at, half }) => [at, half]) }])}
      below={shown.length > 0 ? 'ticks: measured examples, each with its trace' : ''}
    >
      {(height) => (
        <>
          <ResponsiveContainer width="100%" height={height}>
            <ComposedChart data={points as BandPoint[]} margin={{ top: 6, right: END, bottom: 0, left: AXIS }}>
              <XAxis dataKey="at" type="number" domain={[start, end]} hide />
              <YAxis domain={[domain[0], domain[1]]} hide />
              <Tooltip
                content={<BandNote names={names} words={words} end={end} />}
                isAnimationActive={false}
                cursor={{ stroke: 'var(--petrol)' }}
              />
              <Area
                dataKey="upper"
                stroke="none"
                fill="var(--series-1)"
                fillOpacity={0.13}
                isAnimationActive={false}
                activeDot={false}
              />
              <Area
                dataKey="wide"
                stroke="none"
                fill="var(--series-1)"
                fillOpacity={0.3}
                isAnimationActive={false}
                activeDot={false}
              />
              <Line
                dataKey="half"
                stroke="var(--series-1)"
                strokeWidth={1.8}
                dot={false}
                activeDot={false}
                isAnimationActive={false}
              />
            </ComposedChart>
          </ResponsiveContainer>
          <div className="pointer-events-none absolute bottom-0" style={{ left: AXIS, right: END, top: 6 }}>
            {shown.map((example) => (
              <span
                key={`${example.at} ${example.value} ${traceOf(example)}`}
                className="pointer-events-auto absolute h-2 w-1.5 -translate-x-1/2 translate-y-1/2 border-l-[1.5px] border-ink"
                style={{ left: `${share(example.at)}%`, bottom: `${(example.value / domain[1]) * 100}%` }}
                title={`${words(example.value)} at ${formatClock(example.at, end, { seconds: true })}${traceOf(example) === null ? ', without a trace' : `, trace ${traceOf(example)}`}`}
              />
            ))}
          </div>
        </>
      )}
    </PictureFrame>
  );
}

interface Hovered {
  readonly active?: boolean;
  readonly payload?: readonly { readonly payload: BandPoint }[];
}
function BandNote({
  names,
  words,
  end,
  active,
  payload,
}: { names: readonly string[]; words: (value: number | null) => string; end: number } & Hovered) {
  const point = payload?.[0]?.payload;
  if (!active || !point) return null;
  const values = [point.upper?.[1] ?? null, point.wide?.[1] ?? null, point.half];
  return (
    <div className="border border-structure bg-sheet px-2 py-1 text-xs">
      <b>{formatClock(point.at, end, { seconds: true })}</b>
      {values.map((value, i) => (
        <p key={names[2 - i]}>
          {words(value)} <span className="text-soft">{names[2 - i]}</span>
        </p>
      ))}
    </div>
  );
}
