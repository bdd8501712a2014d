import type { MeasureAnswer } from '@zetopsis/contract';
import { DAY, HOUR, MINUTE } from '@zetopsis/core/units';
import { useState } from 'react';
import { Choice } from '../../drawing/Choice.tsx';
import { Copyable } from '../../drawing/Copyable.tsx';
import { saveFile } from '../../drawing/saveFile.ts';
import { TellMeWhen } from '../../frame/ShowMeasure.tsx';
import { useView } from '../../frame/useView.ts';
import { csvOf, curlOf, jsonOf, openMetricsOf } from './exports.ts';
import { hasBuckets, OF_BUCKETS, PICTURES, type Picture } from './pictures/pictureModel.ts';

const STEPS: readonly (readonly [every: number, word: string])[] = [
  [15_000, 'every 15 s'],
  [30_000, 'every 30 s'],
  [MINUTE, 'every minute'],
  [5 * MINUTE, 'every 5 min'],
  [15 * MINUTE, 'every 15 min'],
  [HOUR, 'every hour'],
  [6 * HOUR, 'every 6 h'],
  [DAY, 'every day'],
];
/** A line has at most so many points, and at least some. */
const [MOST_POINTS, LEAST_POINTS] = [1000, 2];

/** How it is drawn and how finely, and ways to take it along. */
export function ResultTools({ answer, picture, body }: { answer: MeasureAnswer; picture: Picture; body: object }) {
  const { view, change, link } = useView();
  const [taking, setTaking] = useState(false);
  const buckets = hasBuckets(answer.series);
  const { window } = view;
  const length = 'length' in window ? window.length : window.to - window.from;
  const steps = STEPS.filter(([every]) => length / every <= MOST_POINTS && length / every >= LEAST_POINTS);
  const asked = 'from' in body && 'to' in body ? { from: Number(body.from), to: Number(body.to) } : null;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
      <label className="flex items-center gap-1.5">
        drawn as
        <select
          aria-label="drawn as"
          className="field w-auto"
          value={picture}
          onChange={({ target }) => void change({ drawn: target.value })}
        >
          {PICTURES.filter(([own]) => !buckets || OF_BUCKETS.has(own)).map(([own, word]) => (
            <option key={own} value={own}>
              {word}
            </option>
          ))}
        </select>
      </label>
      <Choice
        label="how finely"
        all="as finely as suits"
        value={view.every === null ? '' : String(view.every)}
        set={(every) => void change({ every: every === '' ? null : Number(every) })}
        options={steps.map(([every, word]) => [String(every), word] as const)}
      />
      <span className="ml-auto">{!buckets && <TellMeWhen text={answer.text} of="this measure" />}</span>
      <button type="button" className="button-plain" aria-expanded={taking} onClick={() => setTaking(!taking)}>
        take it along
      </button>
      {taking && (
        <div className="w-full space-y-2 border-y border-line py-2">
          <p className="flex gap-4">
            <button
              type="button"
              className="button-plain"
              onClick={() => saveFile('measure.csv', 'text/csv', csvOf(answer.series))}
            >
              CSV
            </button>
            <button
              type="button"
              className="button-plain"
              onClick={() => saveFile('measure.json', 'application/json', jsonOf(answer))}
            >
              JSON
            </button>
            {!buckets && (
              <button
                type="button"
                className="button-plain"
                onClick={() => saveFile('measure.txt', 'text/plain', openMetricsOf(answer.series))}
              >
                OpenMetrics
              </button>
            )}
          </p>
          <Copyable
            label="link to this window"
            text={`${location.origin}${link('/measures', asked ? { window: asked } : {})}`}
          />
          <Copyable label="text of the measure as it is written" text={answer.text} />
          <Copyable label="from a shell, with a token of yours" text={curlOf(location.origin, body)} />
        </div>
      )}
    </div>
  );
}
