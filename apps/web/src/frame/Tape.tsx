import { formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { ArrowLeftRight, ChevronLeft, ChevronRight } from 'lucide-react';
import { useState } from 'react';
import { useWidth } from '../drawing/useWidth.ts';
import { StretchForm } from './StretchForm.tsx';
import { draftOfWindow, type StretchDraft } from './stretchDraft.ts';
import { TapeDrawing } from './TapeDrawing.tsx';
import { useNow } from './useNow.ts';
import { useTape } from './useTape.ts';
import { useView } from './useView.ts';
import {
  againstPresets,
  endOf,
  lengthOf,
  PRESETS,
  resizeWindow,
  shiftInWords,
  startOf,
  stepWindow,
  swapWindows,
  windowInWords,
} from './windowModel.ts';

/** Room at the right for the age of the data. */
const AGE = 92;

/** Time lives here: the window, the one compared with, presets, marks of what happened, the age of the data. */
export function Tape() {
  const { view, change, setWindow } = useView();
  const now = useNow();
  const { data, isError, span } = useTape();
  const [box, width] = useWidth();
  const live = 'length' in view.window;
  const [marking, setMarking] = useState<StretchDraft | null>(null);
  const age = data?.newestAt == null ? null : now - data.newestAt;
  return (
    <section aria-label="tape" className="flex border-t border-ink bg-sheet">
      <div className="flex w-[218px] shrink-0 flex-col justify-center gap-0.5 border-r border-line pl-4">
        <p className="text-sm font-bold whitespace-nowrap" data-testid="window">
          {windowInWords(view.window, now)}
        </p>
        <WindowControls />
        <div className="flex items-center justify-between">
          <Against />
          <button
            type="button"
            className="button-plain pr-2 text-xs whitespace-nowrap"
            title="mark this window as a load, a release, a trouble …"
            onClick={() =>
              setMarking(draftOfWindow({ from: startOf(view.window, now), to: endOf(view.window, now) }, view.path))
            }
          >
            mark it
          </button>
        </div>
        <StretchForm first={marking} close={() => setMarking(null)} />
      </div>
      <div ref={box} className="relative min-w-0 flex-1">
        {data && width > 0 && (
          <TapeDrawing
            tape={data}
            scale={{ from: startOf(span, now), to: endOf(span, now), width: width - AGE - 16 }}
            window={{ from: startOf(view.window, now), to: endOf(view.window, now) }}
            shift={view.shift}
            live={live}
            now={now}
            choose={(next) => void setWindow(next)}
            align={(next) => void change(next)}
            mark={(window) => setMarking(draftOfWindow(window, view.path))}
            look={(window, shift) => void change({ window, shift, mirror: false })}
          />
        )}
        {isError && !data && <p className="p-3 text-soft">What happened in this time could not be read.</p>}
        <DataAge age={age} loaded={data !== undefined} failed={isError} />
      </div>
    </section>
  );
}

/** Length of the window, a window back and forth, pause, and back to now. */
function WindowControls() {
  const { view, setWindow } = useView();
  const now = useNow();
  const live = 'length' in view.window;
  const length = lengthOf(view.window);
  return (
    <div className="flex items-center gap-1 text-sm">
      <label className="sr-only" htmlFor="window-length">
        length of the window
      </label>
      <select
        id="window-length"
        className="bg-transparent text-petrol"
        value={length}
        onChange={(event) => void setWindow(resizeWindow(view.window, Number(event.target.value)))}
      >
        {!PRESETS.some((preset) => preset.length === length) && (
          <option value={length}>{formatDuration(length)}</option>
        )}
        {PRESETS.map((preset) => (
          <option key={preset.name} value={preset.length}>
            {formatDuration(preset.length)}
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
      {live ? (
        <button
          type="button"
          className="button-plain"
          title="stop the moving screen where it is"
          onClick={() => void setWindow({ from: startOf(view.window, now), to: now })}
        >
          pause
        </button>
      ) : (
        <BackToNow />
      )}
    </div>
  );
}
function BackToNow() {
  const { view, setWindow } = useView();
  const now = useNow();
  return (
    <>
      <button
        type="button"
        className="button-plain"
        title="back to now (key 0)"
        onClick={() => void setWindow({ length: lengthOf(view.window) })}
      >
        now
      </button>
      <span className="truncate text-xs text-soft" data-testid="window-age">
        {formatDuration(Math.max(1000, now - endOf(view.window, now)))} ago
      </span>
    </>
  );
}

/** How old the newest reading is; null: there is none. */
function DataAge({ age, loaded, failed }: { age: number | null; loaded: boolean; failed: boolean }) {
  const none = failed ? 'age of the data unknown' : loaded ? 'nothing read yet' : 'loading';
  return (
    <p
      className={clsx(
        'absolute top-[22px] right-1 text-xs leading-tight',
        age !== null && age > 60_000 ? 'text-critical' : 'text-soft',
      )}
      style={{ width: AGE - 8 }}
      data-testid="data-age"
    >
      {age === null ? (
        none
      ) : (
        <>
          newest reading <b className="whitespace-nowrap">{formatDuration(Math.max(1000, age))}</b> old
        </>
      )}
    </p>
  );
}

/** What is compared with; without it there is only the window. */
function Against() {
  const { view, change } = useView();
  const length = lengthOf(view.window);
  const presets = againstPresets(length);
  return (
    <div className="flex items-center gap-1 text-xs text-soft">
      <label htmlFor="against">against</label>
      <select
        id="against"
        className={clsx(
          '[field-sizing:content] max-w-24 bg-transparent text-ellipsis',
          view.shift !== null && 'text-petrol',
        )}
        value={view.shift ?? 0}
        onChange={(event) => {
          const shift = Number(event.target.value);
          void change(shift === 0 ? { shift: null, mirror: false } : { shift });
        }}
      >
        <option value={0}>nothing</option>
        {presets
          .filter(({ shift }, i) => presets.findIndex((other) => other.shift === shift) === i)
          .map(({ name, shift }) => (
            <option key={name} value={shift}>
              {name}
            </option>
          ))}
        {view.shift !== null && !presets.some(({ shift }) => shift === view.shift) && (
          <option value={view.shift}>{shiftInWords(view.shift, length)}</option>
        )}
      </select>
      {view.shift !== null && (
        <button
          type="button"
          className="p-0.5 text-ink hover:text-petrol"
          aria-label="swap the two windows"
          title="swap the two windows (key \)"
          onClick={() => view.shift !== null && void change(swapWindows(view.window, view.shift, Date.now()))}
        >
          <ArrowLeftRight size={13} />
        </button>
      )}
    </div>
  );
}
