import {
  type ReactNode,
  type PointerEvent as ReactPointerEvent,
  type RefObject,
  useEffect,
  useRef,
  useState,
} from 'react';

/** A window that is drawn is at least this long, ms. */
const SHORTEST = 60_000;
/** A pointer that moves less than this is a click, pixels. */
const CLICK = 4;

interface Drag {
  /** Shares of the axis. */
  readonly from: number;
  readonly to: number;
}

interface DrawnWindowProps {
  /** Time at both ends of the axis, ms. */
  readonly start: number;
  readonly end: number;
  /** Of the box, left and right of the axis, pixels. */
  readonly margins: readonly [left: number, right: number];
  readonly drawn: (window: { from: number; to: number }) => void;
  readonly children: ReactNode;
}

/**
 * Drawing over a chart sets the window. The pointer is followed over the whole page, from where it went down: neither a chart
 * that is drawn anew nor a page that moves beneath it loses anything.
 */
export function DrawnWindow({ start, end, margins, drawn, children }: DrawnWindowProps) {
  const [left, right] = margins;
  const [drag, setDrag] = useState<Drag | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const latest = useRef({ start, end, drawn });
  latest.current = { start, end, drawn };
  const following = useRef<AbortController | null>(null);
  useEffect(() => () => following.current?.abort(), []);
  const follow = (event: ReactPointerEvent<HTMLDivElement>) => {
    if (event.button !== 0 || !event.isPrimary) return;
    const { pointerId, clientX } = event;
    const shareAt = (x: number): number => {
      const { left: edge, width } = box.current?.getBoundingClientRect() ?? { left: 0, width: 1 };
      return Math.max(0, Math.min(1, (x - edge - left) / Math.max(1, width - left - right)));
    };
    const from = shareAt(clientX);
    const { signal } = replace(following);
    const finish = (to: number | null) => {
      following.current?.abort();
      setDrag(null);
      if (to === null) return;
      const { start: first, end: last, drawn: done } = latest.current;
      const timeOf = (share: number) => Math.round(first + share * (last - first));
      const window = { from: timeOf(Math.min(from, to)), to: timeOf(Math.max(from, to)) };
      if (window.to - window.from >= SHORTEST) done(window);
    };
    const ofThis = (then: (moved: PointerEvent) => void) => (moved: PointerEvent) => {
      if (moved.pointerId === pointerId) then(moved);
    };
    const listen = (type: 'pointermove' | 'pointerup' | 'pointercancel', then: (moved: PointerEvent) => void) =>
      window.addEventListener(type, ofThis(then), { signal });
    listen('pointermove', ({ buttons, clientX: x }) => {
      if ((buttons & 1) === 0) finish(null);
      else if (Math.abs(x - clientX) >= CLICK) setDrag({ from, to: shareAt(x) });
    });
    listen('pointerup', ({ clientX: x }) => finish(Math.abs(x - clientX) >= CLICK ? shareAt(x) : null));
    listen('pointercancel', () => finish(null));
  };
  return (
    <div
      ref={box}
      className="relative touch-pan-y select-none"
      role="presentation"
      title="draw over it to set the window"
      onPointerDown={follow}
    >
      {children}
      {drag && drag.from !== drag.to && (
        <div className="pointer-events-none absolute inset-y-0" style={{ left, right }}>
          <span
            className="absolute inset-y-0 bg-ink opacity-10"
            style={{
              left: `${Math.min(drag.from, drag.to) * 100}%`,
              width: `${Math.abs(drag.to - drag.from) * 100}%`,
            }}
          />
        </div>
      )}
    </div>
  );
}

function replace(held: RefObject<AbortController | null>): AbortController {
  held.current?.abort();
  const next = new AbortController();
  held.current = next;
  return next;
}
