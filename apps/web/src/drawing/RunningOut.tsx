import type { RunningOutLine } from '@zetopsis/contract';
import { clsx } from 'clsx';
import { horizonAt, runningOutWords, TICKS } from './runningOutModel.ts';

const WIDTH = 150;

/** When something reaches its limit, on an axis from an hour to 90 days: the mark is the middle, the box holds 8 of 10 cases. */
export function RunningOutAxis({ line, now }: { line: RunningOutLine; now: number }) {
  const { outcome } = line;
  const x = (at: number) => horizonAt(at - now) * WIDTH;
  return (
    <svg width={WIDTH} height={16} role="img" aria-label={runningOutWords(line, now)} className="shrink-0">
      <path d={`M0 11H${WIDTH}`} stroke="var(--structure)" strokeWidth="1" />
      {TICKS.map(({ after }) => (
        <path key={after} d={`M${horizonAt(after) * WIDTH} 9v4`} stroke="var(--structure)" strokeWidth="1" />
      ))}
      {outcome.is === 'date' && (
        <>
          <rect
            x={x(outcome.earliest)}
            y={6.5}
            width={Math.max(3, x(outcome.latest ?? now + 90 * 86_400_000) - x(outcome.earliest))}
            height={9}
            fill="var(--sheet)"
            stroke="var(--ink)"
            strokeWidth="1"
            strokeDasharray={outcome.latest === null ? '3 2' : undefined}
          />
          <path d={`M${x(outcome.at)} 3.5v12.5`} stroke="var(--critical)" strokeWidth="2" />
        </>
      )}
      {outcome.is === 'now' && <path d="M1 3.5v12.5" stroke="var(--critical)" strokeWidth="2.5" />}
    </svg>
  );
}

/** The axis' own words, once below a list. */
export function RunningOutScale({ className }: { className?: string }) {
  return (
    <div className={clsx('relative h-4 text-[11px] text-soft', className)} style={{ width: WIDTH }} aria-hidden="true">
      {TICKS.map(({ after, word }) => (
        <span
          key={word}
          className="absolute -translate-x-1/2 whitespace-nowrap"
          style={{ left: horizonAt(after) * WIDTH }}
        >
          {word}
        </span>
      ))}
    </div>
  );
}
