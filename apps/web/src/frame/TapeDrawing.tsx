import type { TapeAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { type PointerEvent, useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../drawing/Diamond.tsx';
import { pathWords } from '../drawing/names.ts';
import { OwnMark } from '../drawing/OwnMark.tsx';
import type { WindowArgument } from '../state/placesApi.ts';
import {
  groupMarks,
  leading,
  loadPath,
  type MarkGroup,
  neverReadUntil,
  type Scale,
  ticksOf,
  timeAt,
  xOf,
} from './tapeModel.ts';
import { useView } from './useView.ts';

const TOP = 22;
const BOTTOM = 52;
const LEFT = 12;
const SMALLEST_DRAG = 6;

interface Props {
  readonly tape: TapeAnswer;
  readonly scale: Scale;
  readonly window: { readonly from: number; readonly to: number };
  readonly live: boolean;
  readonly now: number;
  readonly choose: (window: WindowArgument) => void;
}

export function TapeDrawing({ tape, scale, window: shown, live, now, choose }: Props) {
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const place = (event: PointerEvent<SVGSVGElement>) =>
    event.clientX - event.currentTarget.getBoundingClientRect().left - LEFT;
  const drop = () => {
    if (drag && Math.abs(drag.to - drag.from) >= SMALLEST_DRAG) {
      const [from, to] = [timeAt(scale, Math.min(drag.from, drag.to)), timeAt(scale, Math.max(drag.from, drag.to))];
      const length = Math.max(60_000, Math.round(to - from));
      // a window drawn up to the live edge goes on with it
      choose(
        now - to < (scale.to - scale.from) / 100
          ? { length: Math.round(length / 60_000) * 60_000 }
          : { from: Math.round(from), to: Math.round(from) + length },
      );
    }
    setDrag(null);
  };
  const before = neverReadUntil(tape);
  const newest = tape.newestAt ?? scale.from;
  const edge = Math.max(0, Math.min(scale.width, xOf(scale, Math.min(newest, now))));
  const showEdge = xOf(scale, now) <= scale.width + 2;
  const drawn = drag
    ? { a: Math.min(drag.from, drag.to), b: Math.max(drag.from, drag.to) }
    : { a: xOf(scale, shown.from), b: xOf(scale, shown.to) };
  return (
    <>
      <svg
        className="absolute inset-0 h-full w-full touch-none overflow-hidden"
        role="img"
        aria-label={`CPU use of ${tape.loadOf}, ${tape.marks.length} marks, ${tape.gaps.length} gaps`}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setDrag({ from: place(event), to: place(event) });
        }}
        onPointerMove={(event) => drag && setDrag({ ...drag, to: place(event) })}
        onPointerUp={drop}
        onPointerCancel={() => setDrag(null)}
      >
        <title>drag to set the window</title>
        <defs>
          <pattern id="gap" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line y2="5" stroke="var(--structure)" strokeWidth="1.4" />
          </pattern>
        </defs>
        <g transform={`translate(${LEFT} 0)`}>
          {ticksOf(scale).map((tick) => (
            <g key={tick.at}>
              <path d={`M${tick.x} ${BOTTOM}v4`} stroke="var(--structure)" />
              {tick.x >= 16 && (
                <text x={tick.x} y="68" textAnchor="middle" fontSize="11.5" fill="var(--soft)">
                  {tick.text}
                </text>
              )}
            </g>
          ))}
          <path d={`M0 ${BOTTOM}H${scale.width}`} stroke="var(--structure)" />
          <path d={loadPath(tape, scale, TOP + 6, BOTTOM - 1)} fill="none" stroke="var(--fill-2)" strokeWidth="1.3" />
          {before !== null && (
            <g opacity="0.45">
              <rect
                x="0"
                width={Math.max(0, Math.min(scale.width, xOf(scale, before)))}
                y={TOP}
                height={BOTTOM - TOP}
                fill="url(#gap)"
              >
                <title>nothing had been read yet</title>
              </rect>
            </g>
          )}
          {tape.gaps.map((gap) => (
            <rect
              key={gap.from}
              x={xOf(scale, gap.from)}
              width={Math.max(2, xOf(scale, gap.to) - xOf(scale, gap.from))}
              y={TOP}
              height={BOTTOM - TOP}
              fill="url(#gap)"
            >
              <title>{`not read ${formatClock(gap.from, now)} – ${formatClock(gap.to, now)} (${formatDuration(gap.to - gap.from)}): ${gap.reason}`}</title>
            </rect>
          ))}
          <rect
            x={drawn.a}
            y={TOP - 3}
            width={Math.max(1, drawn.b - drawn.a)}
            height={BOTTOM - TOP + 6}
            fill="var(--ink)"
            fillOpacity="0.06"
          />
          <path
            d={`M${drawn.a + 6} ${TOP - 3}h-6v${BOTTOM - TOP + 6}h6`}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="2.2"
          />
          <path
            d={`M${drawn.b - 6} ${TOP - 3}h6v${BOTTOM - TOP + 6}h-6`}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="2.2"
            strokeDasharray={live && !drag ? '2 3' : undefined}
          />
          {showEdge && <TornEdge x={edge} />}
        </g>
      </svg>
      {groupMarks(tape.marks, scale).map((group) => (
        <TapeMark key={`${group.x} ${leading(group).title}`} group={group} now={now} />
      ))}
      {showEdge && (
        <p
          className="pointer-events-none absolute top-[22px] w-12 text-xs leading-tight"
          style={{ left: LEFT + scale.width + 6 }}
        >
          <b className="text-petrol">now</b>
        </p>
      )}
    </>
  );
}

/** The torn edge lies where the newest reading lies: what is right of it is not known yet. */
function TornEdge({ x }: { x: number }) {
  return (
    <path d={`M${x} 2l3 6l-3 6l3 6l-3 6l3 6l-3 6l3 6l-3 6l1 3`} fill="none" stroke="var(--petrol)" strokeWidth="1.4" />
  );
}

function TapeMark({ group, now }: { group: MarkGroup; now: number }) {
  const { link } = useView();
  const lead = leading(group);
  const words = group.marks
    .map((mark) => `${formatClock(mark.at, now)} ${mark.title} (${pathWords(mark.path.slice(0, 3))})`)
    .join('\n');
  return (
    <Link
      to={link('/usage', { path: lead.path })}
      title={words}
      aria-label={words}
      className="absolute top-[1px] flex h-[18px] w-[18px] -translate-x-1/2 items-center justify-center text-ink hover:text-petrol"
      style={{ left: LEFT + group.x }}
    >
      {lead.kind === 'raised' && lead.severity ? (
        <Diamond severity={lead.severity} />
      ) : (
        <OwnMark name={lead.kind} size={14} />
      )}
      {group.marks.length > 1 && <span className="text-[10px] leading-none">{group.marks.length}</span>}
    </Link>
  );
}
