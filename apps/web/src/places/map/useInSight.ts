import { type RefObject, useEffect, useRef } from 'react';
import { COVERS } from './KeyPlan.tsx';
import { BOX, type Drawn, heightOf } from './mapModel.ts';

const PADDING = 24;
/** The place of a box, or of a link with both its ends; null: it is not drawn. */
export function placeOf({ boxes, links }: Pick<Drawn, 'boxes' | 'links'>, key: string) {
  const link = links.find((one) => one.key === key || one.links.includes(key));
  const ends = link ? [link.from, link.to] : [key];
  const own = boxes.filter((box) => ends.includes(box.key));
  if (own.length === 0) return null;
  return {
    left: Math.min(...own.map(({ x }) => x)),
    right: Math.max(...own.map(({ x }) => x + BOX.width)),
    top: Math.min(...own.map(({ y }) => y)),
    bottom: Math.max(...own.map(({ y, rows }) => y + heightOf(rows))),
  };
}
/** Where a stretch is brought to, of what is seen from `at` on: as little as needed; of what is longer, its middle. */
export function shownFrom(at: number, seen: number, from: number, to: number): number {
  if (to - from > seen) return Math.max(0, (from + to - seen) / 2);
  if (from < at) return Math.max(0, from);
  return to > at + seen ? to - seen : at;
}
/** Names of lanes stay in sight. */
export function followScroll(of: HTMLElement): void {
  of.style.setProperty('--scrolled', `${of.scrollLeft}px`);
}
/** Brings a box or a link into sight once, when it is picked, begins to be what matters most, or is drawn otherwise; not when the drawing is refreshed. */
export function useInSight(
  paper: RefObject<HTMLElement | null>,
  drawn: Drawn | null,
  key: string,
  /** How it is drawn: drawn otherwise, it stands elsewhere. */
  shape: string,
): void {
  const brought = useRef('');
  useEffect(() => {
    const own = paper.current;
    if (own === null || drawn === null || key === '' || brought.current === `${shape} ${key}`) return;
    const place = placeOf(drawn, key);
    if (place === null) return;
    brought.current = `${shape} ${key}`;
    const covered = drawn.height > own.clientHeight ? COVERS : 0;
    own.scrollTo({
      left: shownFrom(own.scrollLeft, own.clientWidth, place.left - PADDING, place.right + PADDING),
      top: shownFrom(own.scrollTop, own.clientHeight - covered, place.top - PADDING, place.bottom + PADDING),
    });
  }, [paper, drawn, key, shape]);
}
