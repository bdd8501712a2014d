import { formatClock } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import type { ReactNode } from 'react';
import { axisTicks } from '../../../drawing/axisTicks.ts';
import { DrawnWindow } from '../../../drawing/DrawnWindow.tsx';
import { groupMarks } from '../../../frame/tapeModel.ts';
import { useTape } from '../../../frame/useTape.ts';
import { useView } from '../../../frame/useView.ts';

/** Room left of a picture, and right of it for the names of its lines, pixels. */
export const AXIS = 4;
export const END = 150;
const HEIGHT = 260;
const TOP = 6;
/** Names stand at least so far apart. */
const LINE = 14;

/** How a value is written. */
export interface Worded {
  readonly words: (value: number | null) => string;
}
interface Props extends Worded {
  readonly name: string;
  readonly start: number;
  readonly end: number;
  readonly domain: readonly [number, number];
  readonly ends: readonly { readonly caption: string; readonly colour: string; readonly value: number }[];
  /** Stretches without any value, as shares of the window. */
  readonly gaps: readonly { readonly from: number; readonly to: number }[];
  /** What is said about it below. */
  readonly below: string;
  readonly children: (height: number) => ReactNode;
}

/** A picture over time: round values at hairlines, names at the ends of lines, times at both ends; drawing over it sets the window. */
export function PictureFrame({ name, start, end, domain, words, ends, gaps, below, children }: Props) {
  const { setWindow } = useView();
  const y = (value: number) => TOP + (1 - (value - domain[0]) / (domain[1] - domain[0])) * (HEIGHT - TOP);
  const ticks = [...(domain[0] < 0 ? [domain[0]] : []), 0, ...axisTicks(domain[1], words)];
  return (
    <figure aria-label={name}>
      <DrawnWindow start={start} end={end} margins={[AXIS, END]} drawn={(window) => void setWindow(window)}>
        <div className="relative" style={{ height: HEIGHT }}>
          <div className="pointer-events-none absolute inset-0" aria-hidden="true">
            {ticks.map((tick) => (
              <span
                key={tick}
                className="absolute border-t border-hair"
                style={{ left: AXIS, right: END, top: y(tick) }}
              />
            ))}
            <Happened start={start} end={end} />
            {gaps.map(({ from, to }) => (
              <span
                key={from}
                className="absolute"
                style={{ top: TOP, bottom: 0, left: AXIS, right: END }}
                title="no value"
              >
                <span
                  className="hatched absolute inset-y-0 opacity-70"
                  style={{ left: `${from * 100}%`, width: `${(to - from) * 100}%` }}
                />
              </span>
            ))}
          </div>
          {children(HEIGHT)}
          <div className="pointer-events-none absolute inset-0" aria-hidden="true">
            {ticks
              .filter((tick) => tick !== 0 || domain[0] < 0)
              .map((tick) => (
                <span
                  key={tick}
                  className="absolute bg-ground/70 px-0.5 text-[11px] leading-none text-soft"
                  style={{ left: AXIS, top: y(tick) + (tick === domain[0] ? -12 : 2) }}
                >
                  {words(tick)}
                </span>
              ))}
          </div>
          <div className="absolute inset-y-0 right-0" style={{ width: END - 6 }}>
            {apart(ends, y).map(({ caption, colour, top }) => (
              <span
                key={caption}
                className="absolute max-w-full truncate text-xs leading-none"
                style={{ top, color: colour }}
                title={caption}
              >
                {caption}
              </span>
            ))}
          </div>
        </div>
      </DrawnWindow>
      <p className="flex justify-between gap-4 text-[11px] text-soft" style={{ paddingRight: END }}>
        <span className="whitespace-nowrap">{formatClock(start, end)}</span>
        {below !== '' && <span className="min-w-0 text-center">{below}</span>}
        <span className="whitespace-nowrap">{formatClock(end, end)}</span>
      </p>
    </figure>
  );
}

/** As wide as marks are told apart in, whatever the picture's width is. */
const ACROSS = 800;
/** Marks of the tape as dotted lines: what happened in the scope meanwhile. */
function Happened({ start, end }: { start: number; end: number }) {
  const { data } = useTape();
  return (
    <span className="absolute" style={{ top: 0, bottom: 0, left: AXIS, right: END }}>
      {groupMarks(data?.marks ?? [], { from: start, to: end, width: ACROSS }).map(({ x, marks }) => (
        <span
          key={`${x} ${marks.length}`}
          data-testid="mark"
          className={clsx(
            'pointer-events-auto absolute inset-y-0 -translate-x-1/2 border-l border-dotted',
            marks.some(({ kind }) => kind === 'raised') ? 'border-critical' : 'border-structure',
          )}
          style={{ left: `${(x / ACROSS) * 100}%` }}
          title={marks.map(({ at, title }) => `${formatClock(at, end)} ${title}`).join('\n')}
        />
      ))}
    </span>
  );
}

/** Names at the heights of their values, moved apart where they would lie on each other. */
function apart(ends: Props['ends'], y: (value: number) => number) {
  const sorted = ends
    .map(({ caption, colour, value }) => ({ caption, colour, top: y(value) - LINE / 2 }))
    .sort((a, b) => a.top - b.top);
  let below = Number.NEGATIVE_INFINITY;
  const pushed = sorted.map((one) => {
    const top = Math.max(0, one.top, below + LINE);
    below = top;
    return { ...one, top };
  });
  // what was pushed over the edge goes back up
  let above = HEIGHT;
  for (let i = pushed.length - 1; i >= 0; i--) {
    above = Math.min(pushed[i]!.top, above - LINE);
    pushed[i] = { ...pushed[i]!, top: above };
  }
  return pushed;
}
