import type { TapeAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import { type PointerEvent, useState } from 'react';
import type { WindowArgument } from '../state/viewQuery.ts';
import { TapeMark } from './TapeMark.tsx';
import { TapeStretch } from './TapeStretch.tsx';
import {
  groupMarks,
  leading,
  loadPath,
  neverReadUntil,
  type Scale,
  ticksOf,
  timeAt,
  timeOf,
  xOf,
} from './tapeModel.ts';

const TOP = 22;
const BOTTOM = 52;
const LEFT = 12;
const SMALLEST_DRAG = 6;

interface Props {
  readonly tape: TapeAnswer;
  readonly scale: Scale;
  readonly window: { readonly from: number; readonly to: number };
  /** How much earlier the window lies that is compared with. */
  readonly shift: number | null;
  readonly live: boolean;
  readonly now: number;
  readonly choose: (window: WindowArgument) => void;
  readonly align: (to: { window?: WindowArgument; shift: number }) => void;
  /** A stretch of time was drawn that is to be marked. */
  readonly mark: (window: { from: number; to: number }) => void;
  /** A stretch is looked at, against a time before or by itself. */
  readonly look: (window: WindowArgument, shift: number | null) => void;
}

type Drag = { readonly of: 'window' | 'against' | 'stretch'; readonly from: number; readonly to: number };

/** Dragging on the tape sets the window, or moves the one that is compared with. */
function useDrag({ scale, window: shown, shift, now, choose, align, mark }: Omit<Props, 'tape' | 'live' | 'look'>) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const place = (event: PointerEvent<SVGSVGElement>) =>
    event.clientX - event.currentTarget.getBoundingClientRect().left - LEFT;
  const moved = drag?.of === 'against' ? timeOf(scale, drag.to - drag.from) : 0;
  const against =
    shift === null ? null : { a: xOf(scale, shown.from - shift + moved), b: xOf(scale, shown.to - shift + moved) };
  const grip = (x: number, y: number) => against !== null && y > BOTTOM - 8 && x >= against.a && x <= against.b;
  const drop = () => {
    if (drag?.of === 'against') {
      const next = Math.round(((shift ?? 0) - moved) / 60_000) * 60_000;
      if (next !== 0 && shown.to - next <= now) align({ shift: next });
    } else if (drag && Math.abs(drag.to - drag.from) >= SMALLEST_DRAG) {
      const [from, to] = [timeAt(scale, Math.min(drag.from, drag.to)), timeAt(scale, Math.max(drag.from, drag.to))];
      const length = Math.max(60_000, Math.round(to - from));
      if (drag.of === 'stretch') {
        mark({ from: Math.round(from), to: Math.round(from) + length });
        setDrag(null);
        return;
      }
      // a window drawn up to the live edge goes on with it
      choose(
        now - to < (scale.to - scale.from) / 100
          ? { length: Math.round(length / 60_000) * 60_000 }
          : { from: Math.round(from), to: Math.round(from) + length },
      );
    }
    setDrag(null);
  };
  return {
    drag,
    against,
    drawn:
      drag !== null && drag.of !== 'against'
        ? { a: Math.min(drag.from, drag.to), b: Math.max(drag.from, drag.to) }
        : { a: xOf(scale, shown.from), b: xOf(scale, shown.to) },
    handlers: {
      onPointerDown: (event: PointerEvent<SVGSVGElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        const x = place(event);
        const y = event.clientY - event.currentTarget.getBoundingClientRect().top;
        setDrag({ of: event.shiftKey ? 'stretch' : grip(x, y) ? 'against' : 'window', from: x, to: x });
      },
      onPointerMove: (event: PointerEvent<SVGSVGElement>) => drag && setDrag({ ...drag, to: place(event) }),
      onPointerUp: drop,
      onPointerCancel: () => setDrag(null),
    },
  };
}

export function TapeDrawing(props: Props) {
  const { tape, scale, window: shown, live, now, align, look } = props;
  const { drag, against, drawn, handlers } = useDrag(props);
  const newest = tape.newestAt ?? scale.from;
  const edge = Math.max(0, Math.min(scale.width, xOf(scale, Math.min(newest, now))));
  const showEdge = xOf(scale, now) <= scale.width + 2;
  return (
    <>
      <svg
        className="absolute inset-0 h-full w-full touch-none overflow-hidden"
        role="img"
        aria-label={`CPU use of ${tape.loadOf}, ${tape.marks.length} marks, ${tape.gaps.length} gaps${tape.hushes.length === 0 ? '' : `, ${tape.hushes.length} hushes`}`}
        {...handlers}
      >
        <title>
          drag to set the window; drag the double line to move the window compared with; drag with Shift to mark a
          stretch
        </title>
        <defs>
          <pattern id="gap" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line y2="5" stroke="var(--structure)" strokeWidth="1.4" />
          </pattern>
        </defs>
        <g transform={`translate(${LEFT} 0)`}>
          <Axis scale={scale} />
          <path
            d={loadPath({ tapeAnswer: tape, scale, top: TOP + 6, bottom: BOTTOM - 1 })}
            fill="none"
            stroke="var(--fill-2)"
            strokeWidth="1.3"
          />
          <Gaps tape={tape} scale={scale} now={now} />
          <Hushes tape={tape} scale={scale} now={now} />
          <ShownWindow {...drawn} open={live && !drag} />
          {against && <AgainstBracket {...against} width={scale.width} />}
          {showEdge && <TornEdge x={edge} />}
        </g>
      </svg>
      {tape.stretches.map((stretch) => (
        <TapeStretch key={stretch.key} {...{ stretch, scale, now, look }} offset={LEFT} />
      ))}
      {groupMarks(tape.marks, scale).map((group) => (
        <TapeMark
          key={`${leading(group).at} ${leading(group).title}`}
          group={group}
          left={LEFT + group.x}
          all={tape.marks}
          length={shown.to - shown.from}
          now={now}
          align={align}
        />
      ))}
    </>
  );
}

function Axis({ scale }: { scale: Scale }) {
  return (
    <>
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
    </>
  );
}

/** When nobody is told, dotted under the axis, with the reason. */
function Hushes({ tape: { hushes }, scale, now }: { tape: TapeAnswer; scale: Scale; now: number }) {
  return (
    <>
      {hushes.map(({ reason, from, to }) => {
        const [a, b] = [Math.max(0, xOf(scale, from)), Math.min(scale.width, xOf(scale, to))];
        return (
          b > a && (
            <g key={`${reason} ${from}`}>
              <path d={`M${a} ${BOTTOM + 5}H${b}`} stroke="var(--ink)" strokeWidth="2.5" strokeDasharray="1.5 3" />
              <rect x={a} width={b - a} y={BOTTOM + 1} height="8" fill="transparent">
                <title>{`hushed ${formatClock(from, now)} – ${formatClock(to, now)}: ${reason}`}</title>
              </rect>
            </g>
          )
        );
      })}
    </>
  );
}

/** Where nothing was read, hatched, with the reason. */
function Gaps({ tape, scale, now }: { tape: TapeAnswer; scale: Scale; now: number }) {
  const before = neverReadUntil(tape);
  return (
    <>
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
    </>
  );
}

/** The window between two brackets; dotted where it moves with now. */
function ShownWindow({ a, b, open }: { a: number; b: number; open: boolean }) {
  return (
    <>
      <rect
        x={a}
        y={TOP - 3}
        width={Math.max(1, b - a)}
        height={BOTTOM - TOP + 6}
        fill="var(--ink)"
        fillOpacity="0.06"
      />
      <path d={`M${a + 6} ${TOP - 3}h-6v${BOTTOM - TOP + 6}h6`} fill="none" stroke="var(--ink)" strokeWidth="2.2" />
      <path
        d={`M${b - 6} ${TOP - 3}h6v${BOTTOM - TOP + 6}h-6`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="2.2"
        strokeDasharray={open ? '2 3' : undefined}
      />
    </>
  );
}

/** The torn edge lies where the newest reading lies: what is right of it is not known yet. */
function TornEdge({ x }: { x: number }) {
  return (
    <path d={`M${x} 2l3 6l-3 6l3 6l-3 6l3 6l-3 6l3 6l-3 6l1 3`} fill="none" stroke="var(--petrol)" strokeWidth="1.4" />
  );
}

/** The window compared with: a thin double line between two brackets; an arrow where it lies outside the tape. */
function AgainstBracket({ a, b, width }: { a: number; b: number; width: number }) {
  if (b < 0)
    return (
      <g>
        <path d={`M10 ${BOTTOM - 9}l-6 5l6 5`} fill="none" stroke="var(--ink)" strokeWidth="1.4" />
        <text x="14" y={BOTTOM - 1} fontSize="11" fill="var(--ink)">
          against
        </text>
      </g>
    );
  const [from, to] = [Math.max(0, a), Math.min(width, b)];
  return (
    <g>
      <path d={`M${from + 4} ${TOP + 2}h-4V${BOTTOM}h4`} fill="none" stroke="var(--ink)" strokeWidth="1" />
      <path d={`M${to - 4} ${TOP + 2}h4V${BOTTOM}h-4`} fill="none" stroke="var(--ink)" strokeWidth="1" />
      <path
        className="cursor-ew-resize"
        d={`M${from} ${BOTTOM - 2.5}H${to}M${from} ${BOTTOM + 0.5}H${to}`}
        stroke="var(--ink)"
        strokeWidth="1"
      />
      <rect
        className="cursor-ew-resize"
        x={from}
        y={BOTTOM - 8}
        width={Math.max(1, to - from)}
        height="12"
        fill="transparent"
      />
    </g>
  );
}
