import type { RehearsalAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { CartesianGrid, Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { axisTicks } from '../../drawing/axisTicks.ts';

const HEIGHT = 120;
type Point = Record<string, number | null>;

/** What the rule looks at, as far as it comes farthest, with its number: the thumb above moves it. */
export function RehearsedLines({
  answer: { drawn, from, to, unit, shownAs },
  bound,
}: {
  answer: RehearsalAnswer;
  bound: number;
}) {
  const [first, ...others] = drawn.lines;
  if (first === undefined) return null;
  const words = (value: number) => valueWords(value, unit ?? '', shownAs);
  const points = drawn.times.map(
    (at, i): Point => ({
      at,
      ...Object.fromEntries(drawn.lines.map(({ values }, n) => [`value${n}`, values[i] ?? null])),
    }),
  );
  const all = drawn.lines.flatMap(({ values }) => values.filter((value) => value !== null));
  const [least, most] = [Math.min(bound, 0, ...all), Math.max(bound, ...all)];
  const room = (most - least || 1) * 0.08;
  const [bottom, top] = [least - (least < 0 ? room : 0), most + room];
  const ticks = least < 0 ? [] : axisTicks(top, words);
  const more = others.length === 0 ? '' : `, and ${others.length} more, thin`;
  return (
    <figure aria-label="what it looks at, with its number" className="my-3">
      <figcaption className="mb-1 text-sm">
        <b>What comes farthest</b>, with the number at <b className="text-critical">{words(bound)}</b>: {first.name}
        <span className="text-soft" title={others.map(({ name }) => name).join('\n')}>
          {more}
        </span>
      </figcaption>
      <div
        role="img"
        aria-label={`${first.name} and the number ${words(bound)}`}
        className="relative border-b border-structure"
      >
        <ResponsiveContainer width="100%" height={HEIGHT}>
          <LineChart data={points} margin={{ top: 2, right: 2, bottom: 0, left: 2 }}>
            <CartesianGrid vertical={false} stroke="var(--hair)" />
            <XAxis dataKey="at" type="number" domain={[drawn.times[0] ?? from, to]} hide />
            <YAxis domain={[bottom, top]} ticks={[0, ...ticks]} hide />
            {drawn.lines
              .map(({ name }, n) => (
                <Line
                  key={`${n} ${name}`}
                  dataKey={`value${n}`}
                  stroke={n === 0 ? 'var(--petrol)' : 'var(--structure)'}
                  strokeWidth={n === 0 ? 1.8 : 0.8}
                  dot={false}
                  activeDot={false}
                  connectNulls={false}
                  isAnimationActive={false}
                />
              ))
              .reverse()}
            <ReferenceLine y={bound} stroke="var(--critical)" strokeWidth={1.2} strokeDasharray="6 3" />
          </LineChart>
        </ResponsiveContainer>
        {ticks.map((tick) => (
          <span
            key={tick}
            className="pointer-events-none absolute right-0.5 bg-ground/70 text-[10px] leading-none text-soft"
            style={{ top: HEIGHT * (1 - tick / top) - 11 }}
          >
            {words(tick)}
          </span>
        ))}
      </div>
      <p className="flex justify-between text-[11px] text-soft">
        <span>{formatClock(drawn.times[0] ?? from, to)}</span>
        <span>{formatClock(to, to)}</span>
      </p>
    </figure>
  );
}
