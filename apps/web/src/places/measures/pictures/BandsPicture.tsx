import type { MeasureAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { type KeyboardEvent, useState } from 'react';
import { Area, ComposedChart, Line, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { gapsIn, type Shown } from '../measuresModel.ts';
import { AXIS, END, PictureFrame, type Worded } from './PictureFrame.tsx';
import { type BandPoint, bandsOf, examplesApart, traceOf } from './pictureModel.ts';

type Example = MeasureAnswer['examples'][number];

/** How values spread over time, with measured examples as ticks. */
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
          <Examples examples={shown} start={start} end={end} top={domain[1]} words={words} />
        </>
      )}
    </PictureFrame>
  );
}

interface ExamplesProps extends Worded {
  readonly examples: MeasureAnswer['examples'];
  readonly start: number;
  readonly end: number;
  /** The value at the upper edge. */
  readonly top: number;
}
/** A tick each. Pointing at one, or walking there with the arrow keys, says what was measured and which trace it led to. */
function Examples({ examples, start, end, top, words }: ExamplesProps) {
  const [told, setTold] = useState<number | null>(null);
  const inOrder = [...examples].sort((a, b) => a.at - b.at);
  const left = ({ at }: Example) => `${((at - start) / Math.max(1, end - start)) * 100}%`;
  const bottom = ({ value }: Example) => `${(value / top) * 100}%`;
  const saying = (example: Example) => {
    const trace = traceOf(example);
    const clock = formatClock(example.at, end, { seconds: true });
    return `${words(example.value)} at ${clock}, ${trace === null ? 'without a trace' : `trace ${trace}`}`;
  };
  const walked = (event: KeyboardEvent<HTMLButtonElement>) => {
    const { currentTarget: tick } = event;
    const to = { ArrowRight: tick.nextElementSibling, ArrowLeft: tick.previousElementSibling }[event.key];
    if (!(to instanceof HTMLButtonElement)) return;
    event.preventDefault();
    to.focus();
  };
  const shown = told === null ? undefined : inOrder[told];
  return (
    <div className="pointer-events-none absolute bottom-0" style={{ left: AXIS, right: END, top: 6 }}>
      {inOrder.map((example, i) => (
        <button
          type="button"
          key={`${example.at} ${example.value} ${traceOf(example)}`}
          className="pointer-events-auto absolute h-2.5 w-2 -translate-x-1/2 translate-y-1/2"
          style={{ left: left(example), bottom: bottom(example) }}
          aria-label={saying(example)}
          tabIndex={i === Math.min(told ?? 0, inOrder.length - 1) ? 0 : -1}
          onFocus={() => setTold(i)}
          onBlur={() => setTold(null)}
          onPointerEnter={() => setTold(i)}
          onPointerLeave={() => setTold(null)}
          onKeyDown={walked}
        >
          <span className="mx-auto block h-full w-[1.5px] bg-ink" />
        </button>
      ))}
      {shown && (
        <p
          className="absolute z-10 mb-2 border border-structure bg-sheet px-2 py-1 text-xs break-all"
          style={{
            bottom: bottom(shown),
            maxWidth: '60%',
            ...(shown.at > (start + end) / 2 ? { right: `calc(100% - ${left(shown)})` } : { left: left(shown) }),
          }}
        >
          {saying(shown)}
        </p>
      )}
    </div>
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
