import { type PointerEvent, type RefObject, useEffect, useState } from 'react';
import { BOX, type Drawn, heightOf } from './mapModel.ts';

const MOST = { width: 170, height: 120 } as const;
/** What it covers of a drawing that is higher than what is seen of it. */
export const COVERS = MOST.height + 30;
/** Of the drawing in pixels: what is seen of it. */
interface Seen {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** The whole drawing in little, where not all of it is seen: what is in trouble stands out, dragging leads there. */
export function KeyPlan({ drawn, within }: { drawn: Drawn; within: RefObject<HTMLDivElement | null> }) {
  const [seen, setSeen] = useState<Seen | null>(null);
  useEffect(() => {
    const box = within.current;
    if (!box) return;
    const look = () =>
      setSeen({ x: box.scrollLeft, y: box.scrollTop, width: box.clientWidth, height: box.clientHeight });
    look();
    const sized = new ResizeObserver(look);
    sized.observe(box);
    box.addEventListener('scroll', look, { passive: true });
    return () => {
      sized.disconnect();
      box.removeEventListener('scroll', look);
    };
  }, [within]);
  if (seen === null || seen.width === 0 || (drawn.width <= seen.width && drawn.height <= seen.height)) return null;
  const scale = Math.min(MOST.width / drawn.width, MOST.height / drawn.height);
  const at = new Map(drawn.boxes.map((box) => [box.key, box]));
  const lead = (event: PointerEvent<SVGSVGElement>) => {
    if ((event.buttons & 1) === 0) return;
    const own = event.currentTarget.getBoundingClientRect();
    within.current?.scrollTo({
      left: (event.clientX - own.left) / scale - seen.width / 2,
      top: (event.clientY - own.top) / scale - seen.height / 2,
    });
  };
  return (
    // whoever goes by keyboard goes from box to box, and the drawing follows
    <svg
      aria-hidden="true"
      data-testid="key plan"
      width={drawn.width * scale}
      height={drawn.height * scale}
      viewBox={`0 0 ${drawn.width} ${drawn.height}`}
      className="absolute right-5 bottom-5 cursor-move border border-structure bg-sheet/90"
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        lead(event);
      }}
      onPointerMove={lead}
    >
      {drawn.lanes.map(({ name, y, height }) => (
        <path key={name} d={`M0 ${y + height}H${drawn.width}`} stroke="var(--hair)" strokeWidth={1 / scale} />
      ))}
      {drawn.boxes.map(({ key, x, y, rows }) => (
        <rect key={key} x={x} y={y} width={BOX.width} height={heightOf(rows)} fill="var(--structure)" />
      ))}
      {drawn.links.map(({ key, from, to, link }) => {
        const [a, b] = [at.get(from), at.get(to)];
        return link.state !== null && a && b ? (
          <path
            key={key}
            d={`M${a.x + BOX.width} ${a.y + BOX.height / 2}L${b.x} ${b.y + BOX.height / 2}`}
            stroke="var(--critical)"
            strokeWidth={1.6 / scale}
          />
        ) : null;
      })}
      <rect
        x={seen.x}
        y={seen.y}
        width={Math.min(seen.width, drawn.width - seen.x)}
        height={Math.min(seen.height, drawn.height - seen.y)}
        fill="none"
        stroke="var(--petrol)"
        strokeWidth={1.6 / scale}
      />
    </svg>
  );
}
