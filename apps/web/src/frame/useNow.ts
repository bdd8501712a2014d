import { useEffect, useState } from 'react';
import { useLive } from '../state/store.ts';

/** The server's time, moving on once a second, for ages and for the end of windows. */
export function useNow(every = 1000): number {
  const { clockOffset } = useLive();
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), every);
    return () => clearInterval(timer);
  }, [every]);
  return now + clockOffset;
}
