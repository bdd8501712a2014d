import type { MapAnswer } from '@zetopsis/contract';
import { startTransition, useEffect, useMemo, useRef, useState } from 'react';
import type { MapView } from '../../frame/mapView.ts';
import { type Drawn, drawnMap, drawnMapBySteps } from './mapModel.ts';

/** Up to so many boxes a map is laid out at once; more take their time, and the page goes on meanwhile. */
const AT_ONCE = 300;
/** ms. */
const PIECE = 8;

/** The drawing of a map; what stands from one refresh to the next stays where it was. Null: the first one is being laid out. */
export function useDrawn(answer: MapAnswer, view: MapView, path: readonly string[]): Drawn | null {
  // what lies in it, and how; not which figures are shown
  const { link, away, lanes, folded, opened } = view;
  const shape = JSON.stringify([link, away, lanes, folded, path]);
  const kept = useRef<{ readonly shape: string; readonly drawn: Drawn } | null>(null);
  const [later, setLater] = useState<{ readonly shape: string; readonly drawn: Drawn } | null>(null);
  const large = answer.boxes.length > AT_ONCE;
  const before = () => (kept.current?.shape === shape ? kept.current.drawn.laid : null);
  const now = useMemo(
    () => (large ? null : drawnMap(answer, view, path, before())),
    [large, answer, shape, opened.join('|')],
  );
  useEffect(() => {
    if (!large) return;
    const steps = drawnMapBySteps(answer, view, path, before());
    let timer: ReturnType<typeof setTimeout>;
    const go = () => {
      const began = performance.now();
      for (;;) {
        const step = steps.next();
        if (step.done) {
          const drawn = step.value;
          // thousands of boxes that look otherwise are worked out piece by piece
          startTransition(() => setLater({ shape, drawn }));
          return;
        }
        if (performance.now() - began >= PIECE) break;
      }
      timer = setTimeout(go);
    };
    go();
    return () => clearTimeout(timer);
  }, [large, answer, shape, opened.join('|')]);
  const drawn = now ?? later?.drawn ?? null;
  const drawnShape = large ? (later?.shape ?? shape) : shape;
  useEffect(() => {
    if (drawn) kept.current = { shape: drawnShape, drawn };
  }, [drawn, drawnShape]);
  return drawn;
}
