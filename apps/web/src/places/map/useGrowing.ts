import { useEffect, useState } from 'react';

/** Up to so many boxes stand at once. */
const FIRST = 120;
/** Boxes a frame. */
const MORE = 40;

export interface Growing {
  /** So many stand. */
  readonly grown: number;
  /** It goes on by itself. */
  readonly going: boolean;
  /** Somebody stopped it before all stood. */
  readonly stopped: boolean;
  readonly stop: () => void;
  readonly goOn: () => void;
}
/** A large drawing comes some boxes a frame, so that the page goes on meanwhile; it may be stopped. What stands stays. */
export function useGrowing(all: number): Growing {
  const [grown, setGrown] = useState(FIRST);
  const [stopped, setStopped] = useState(false);
  const going = !stopped && grown < all;
  useEffect(() => {
    if (!going) return;
    const frame = requestAnimationFrame(() => setGrown(grown + MORE));
    return () => cancelAnimationFrame(frame);
  }, [going, grown]);
  return {
    grown: Math.min(grown, all),
    going,
    stopped: stopped && grown < all,
    stop: () => setStopped(true),
    goOn: () => setStopped(false),
  };
}
