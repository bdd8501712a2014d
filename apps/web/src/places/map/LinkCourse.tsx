import type { MapLink, Mark, MeasureAnswer } from '@zetopsis/contract';
import { formatClock, formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';
import { FailureNote } from '../../drawing/StateNote.tsx';
import { ShowMeasure, TellMeWhen } from '../../frame/ShowMeasure.tsx';
import { useView, viewed } from '../../frame/useView.ts';
import { useMeasureQuery } from '../../state/measuresApi.ts';
import { failuresOf, lengthsOf, requestsOf, SEEN_BY_LABEL } from './wire-names.ts';

const COURSES = [
  { title: 'requests', of: requestsOf, format: formatRate, least: 0.05 },
  { title: 'failed', of: failuresOf, format: formatPercent, least: 0.02 },
  { title: '95 of 100 within', of: lengthsOf, format: formatLatency, least: 0.01 },
] as const;
const AGAIN = 30_000;

/** A link over the window, as both of its sides saw it on one axis, with what happened at its ends meanwhile. */
export function LinkCourses({ link, marks }: { link: MapLink; marks: readonly Mark[] }) {
  return (
    <section aria-label="over the window" className="mb-3">
      <h3 className="mb-1 flex items-baseline gap-3 text-soft">
        over the window
        <span className="ml-auto text-xs">
          <Stroke dashed={false} /> caller <Stroke dashed /> answerer
        </span>
      </h3>
      {COURSES.map(({ title, of, format, least }) => (
        <Course
          key={title}
          title={title}
          text={of(link.from, link.to)}
          format={format}
          least={least}
          link={link}
          marks={marks}
        />
      ))}
    </section>
  );
}
const Stroke = ({ dashed }: { dashed: boolean }) => (
  <svg width="22" height="8" className="inline-block" aria-hidden="true">
    <path
      d="M0 4H22"
      stroke={dashed ? 'var(--series-2)' : 'var(--series-1)'}
      strokeWidth="1.6"
      strokeDasharray={dashed ? '4 2' : undefined}
    />
  </svg>
);

interface CourseProps {
  readonly title: string;
  readonly text: string;
  readonly format: (value: number) => string;
  /** The axis reaches at least so far. */
  readonly least: number;
  readonly link: MapLink;
  readonly marks: readonly Mark[];
}
function Course({ title, text, format, least, link, marks }: CourseProps) {
  const { view } = useView();
  const asked = { ...viewed(view), whose: 'all' as const, path: [], text, explain: false, every: null };
  const { data, error, refetch } = useMeasureQuery({ ...asked, earlier: 0 }, { pollingInterval: AGAIN });
  const then = useMeasureQuery({ ...asked, earlier: view.shift ?? 0 }, { skip: view.shift === null }).data;
  const of = `${title} of this link`;
  return (
    <div className="mb-2">
      <p className="flex items-baseline gap-3">
        {title}
        <span className="ml-auto flex gap-3 text-xs text-soft">
          <ShowMeasure text={text} of={of} />
          <TellMeWhen text={text} of={of} />
        </span>
      </p>
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data === undefined ? (
        <div className="h-[68px] bg-hair/40" role="status" aria-label={`${title}: being read`} />
      ) : data.nothing !== null ? (
        <p className="text-soft">{data.nothing}</p>
      ) : (
        <Lines
          title={title}
          answer={data}
          then={then}
          shift={view.shift ?? 0}
          format={format}
          least={least}
          link={link}
          marks={marks}
        />
      )}
    </div>
  );
}
const WIDTH = 338;
const HEIGHT = 56;
/** Above the lines: what they reach up to. */
const LABEL = 12;
interface LinesProps extends Pick<CourseProps, 'title' | 'format' | 'least' | 'link' | 'marks'> {
  readonly answer: MeasureAnswer;
  /** Of the window compared with. */
  readonly then: MeasureAnswer | undefined;
  readonly shift: number;
}
type Points = MeasureAnswer['series'][number]['points'];
function Lines({ title, answer, then, shift, format, least, marks }: LinesProps) {
  const sides = (of: MeasureAnswer | undefined, seenBy: string): Points =>
    of?.series.find(({ labels }) => labels[SEEN_BY_LABEL] === seenBy)?.points ?? [];
  const [caller, answerer] = [sides(answer, 'caller'), sides(answer, 'answerer')];
  const before = sides(then, caller.length > 0 ? 'caller' : 'answerer').map(([at, value]): Points[number] => [
    at + shift,
    value,
  ]);
  const times = [...caller, ...answerer].map(([at]) => at);
  const [start, end] = [Math.min(...times), Math.max(...times)];
  const top = Math.max(least, ...[...caller, ...answerer, ...before].flatMap(([, value]) => value ?? []));
  const x = (at: number) => ((at - start) / Math.max(1, end - start)) * WIDTH;
  const y = (value: number) => HEIGHT - 1 - (value / top) * (HEIGHT - 1 - LABEL);
  const path = (points: Points) =>
    points
      .map(([at, value], i) =>
        value === null ? '' : `${points[i - 1]?.[1] == null ? 'M' : 'L'}${x(at).toFixed(1)} ${y(value).toFixed(1)}`,
      )
      .join('');
  const newest = (points: Points) => points.findLast(([, value]) => value !== null)?.[1] ?? null;
  const words = [['caller', newest(caller)] as const, ['answerer', newest(answerer)] as const].flatMap(
    ([side, value]) => (value === null ? [] : `${side} ${format(value)}`),
  );
  return (
    <>
      <div
        className="relative"
        role="img"
        aria-label={`${title}: ${words.join(', ')} at the end; up to ${format(top)}`}
      >
        <svg
          width="100%"
          height={HEIGHT}
          viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
          preserveAspectRatio="none"
          className="block"
        >
          <path d={`M0 ${HEIGHT - 0.5}H${WIDTH}`} stroke="var(--hair)" vectorEffect="non-scaling-stroke" />
          {marks
            .filter(({ at }) => at >= start && at <= end)
            .map(({ at, title: what }) => (
              <path
                key={`${at} ${what}`}
                d={`M${x(at)} ${LABEL}V${HEIGHT}`}
                stroke="var(--structure)"
                strokeDasharray="1 3"
                vectorEffect="non-scaling-stroke"
              />
            ))}
          <path d={path(before)} fill="none" stroke="var(--ink)" strokeWidth="3" vectorEffect="non-scaling-stroke" />
          <path
            d={path(before)}
            fill="none"
            stroke="var(--sheet)"
            strokeWidth="1.4"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={path(answerer)}
            fill="none"
            stroke="var(--series-2)"
            strokeWidth="1.6"
            strokeDasharray="4 2"
            vectorEffect="non-scaling-stroke"
          />
          <path
            d={path(caller)}
            fill="none"
            stroke="var(--series-1)"
            strokeWidth="1.6"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
        <span className="pointer-events-none absolute top-0 right-0 text-[10px] leading-none text-soft">
          {format(top)}
        </span>
      </div>
      <p className="flex justify-between text-[10px] leading-tight text-soft">
        <span>{formatClock(start, end)}</span>
        <span>{words.join(' · ')}</span>
        <span>{formatClock(end, end)}</span>
      </p>
    </>
  );
}
