import { formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { useWidth } from '../drawing/useWidth.ts';
import { useTapeQuery } from '../state/placesApi.ts';
import { TapeDrawing } from './TapeDrawing.tsx';
import { useNow } from './useNow.ts';
import { useView } from './useView.ts';
import { endOf, lengthOf, PRESETS, resizeWindow, startOf, stepWindow, tapeSpan, windowInWords } from './windowModel.ts';

/** Time lives here: the window, presets, marks of what happened, the age of the data. */
export function Tape() {
  const { view, setWindow } = useView();
  const now = useNow();
  const span = tapeSpan(view.window, now);
  const { data, isError } = useTapeQuery({ path: view.path, window: span });
  const [box, width] = useWidth();
  const live = 'length' in view.window;
  const age = data?.newestAt == null ? null : now - data.newestAt;
  return (
    <section aria-label="tape" className="flex border-t border-ink bg-sheet">
      <div className="flex w-[218px] shrink-0 flex-col justify-center gap-0.5 border-r border-line pl-4">
        <p className="text-sm font-bold" data-testid="window">
          {windowInWords(view.window, now)}
        </p>
        <div className="flex items-center gap-1 text-sm">
          <label className="sr-only" htmlFor="window-length">
            length of the window
          </label>
          <select
            id="window-length"
            className="bg-transparent text-petrol"
            value={lengthOf(view.window)}
            onChange={(event) => void setWindow(resizeWindow(view.window, Number(event.target.value)))}
          >
            {!PRESETS.some(({ length }) => length === lengthOf(view.window)) && (
              <option value={lengthOf(view.window)}>{formatDuration(lengthOf(view.window))}</option>
            )}
            {PRESETS.map(({ name, length }) => (
              <option key={name} value={length}>
                {formatDuration(length)}
              </option>
            ))}
          </select>
          <button
            type="button"
            className="p-0.5 hover:text-petrol"
            aria-label="one window back"
            title="one window back (key [)"
            onClick={() => void setWindow(stepWindow(view.window, -1, now))}
          >
            <ChevronLeft size={16} />
          </button>
          <button
            type="button"
            className="p-0.5 hover:text-petrol disabled:text-line"
            aria-label="one window forth"
            title="one window forth (key ])"
            disabled={live}
            onClick={() => void setWindow(stepWindow(view.window, 1, now))}
          >
            <ChevronRight size={16} />
          </button>
          {!live && (
            <button
              type="button"
              className="button-plain"
              title="back to now (key 0)"
              onClick={() => void setWindow({ length: lengthOf(view.window) })}
            >
              now
            </button>
          )}
        </div>
        <p
          className={clsx('text-xs', age !== null && age > 60_000 ? 'text-critical' : 'text-soft')}
          data-testid="data-age"
        >
          {age === null
            ? isError
              ? 'age of the data unknown'
              : data
                ? 'nothing has been read yet'
                : 'loading'
            : `newest reading ${formatDuration(Math.max(1000, age))} old`}
        </p>
      </div>
      <div ref={box} className="relative min-w-0 flex-1">
        {data && width > 0 && (
          <TapeDrawing
            tape={data}
            scale={{ from: startOf(span, now), to: endOf(span, now), width: width - 58 }}
            window={{ from: startOf(view.window, now), to: endOf(view.window, now) }}
            live={live}
            now={now}
            choose={(next) => void setWindow(next)}
          />
        )}
        {isError && !data && <p className="p-3 text-soft">What happened in this time could not be read.</p>}
      </div>
    </section>
  );
}
