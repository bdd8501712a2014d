import { formatClock, formatDuration } from '@zetopsis/core/format';
import { useNow } from './useNow.ts';
import { useView } from './useView.ts';
import { lengthOf } from './windowModel.ts';

/** That the whole product stands at a past moment, and the way back. */
export function PastSign() {
  const { view, setWindow } = useView();
  const now = useNow(10_000);
  if ('length' in view.window) return null;
  const { to } = view.window;
  return (
    <p role="status" className="flex shrink-0 items-center gap-3 bg-ink px-4 text-sm text-ground">
      <b>the past</b>
      <span>
        as it was at {formatClock(to, now)}, {formatDuration(Math.max(0, now - to))} ago
      </span>
      <button
        type="button"
        className="border border-ground px-2 py-0.5 font-semibold hover:bg-ground hover:text-ink"
        title="back to now (key 0)"
        onClick={() => void setWindow({ length: lengthOf(view.window) })}
      >
        back to now <kbd className="font-mono text-xs">0</kbd>
      </button>
    </p>
  );
}
