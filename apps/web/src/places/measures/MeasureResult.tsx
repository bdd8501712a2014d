import type { MeasureAnswer } from '@zetopsis/contract';
import { formatCount, formatDuration } from '@zetopsis/core/format';
import { StateNote } from '../../drawing/StateNote.tsx';
import { saveFile } from '../../drawing/saveFile.ts';
import { MeasureChart } from './MeasureChart.tsx';
import { byLast, captionsOf, csvOf, INKS, lastOf, type MeasureLine, valueWords } from './measuresModel.ts';

const SHOWN = 200;

/** Lines, a table of their last values, and what must be known to read them. */
export function MeasureResult({ answer }: { answer: MeasureAnswer }) {
  const lines = byLast(answer.series);
  return (
    <section aria-label="result of the measure">
      <ul className="mb-2 text-sm text-soft">
        <li>
          read {formatCount(answer.read.series, 'series', 'series')}, {formatCount(answer.read.samples, 'sample')} in{' '}
          {formatDuration(Math.max(1, answer.took))}
          {answer.left > 0 && `; ${answer.left} lines more than can be shown: narrow it`}
        </li>
        {answer.notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
      {answer.nothing === null ? (
        <>
          <MeasureChart lines={lines} shownAs={answer.shownAs} />
          <LineTable lines={lines} shownAs={answer.shownAs} />
        </>
      ) : (
        <StateNote title="Nothing to draw">
          <p>{answer.nothing}</p>
        </StateNote>
      )}
      <Steps steps={answer.steps} />
    </section>
  );
}

function LineTable({ lines, shownAs }: { lines: readonly MeasureLine[]; shownAs: string | null }) {
  const captions = captionsOf(lines);
  return (
    <div className="mt-3">
      <p className="mb-1 flex items-baseline gap-4 text-sm">
        <b>{formatCount(lines.length, 'line')}, largest last value first</b>
        <button
          type="button"
          className="button-plain ml-auto"
          onClick={() => saveFile('measure.csv', 'text/csv', csvOf(lines))}
        >
          CSV
        </button>
      </p>
      <table className="w-full text-sm" aria-label="last values">
        <tbody>
          {lines.slice(0, SHOWN).map((line, i) => {
            const last = lastOf(line);
            return (
              <tr key={JSON.stringify([line.labels, line.name])} className="border-t border-hair align-baseline">
                <td className="w-5 py-0.5">
                  {i < INKS && (
                    <span
                      className="inline-block h-0.5 w-3 align-middle"
                      style={{ background: `var(--series-${i + 1})` }}
                    />
                  )}
                </td>
                <td className="py-0.5 pr-3 break-all">{captions[i]}</td>
                <td className="py-0.5 text-right whitespace-nowrap tabular-nums">
                  {last?.[2]?.includes('at least') && 'at least '}
                  {valueWords(last?.[1] ?? null, line.unit, shownAs)}
                </td>
                <td className="w-24 py-0.5 pl-3 text-xs text-soft">
                  {last?.[2]?.filter((flag) => flag !== 'at least').join(', ')}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {lines.length > SHOWN && <p className="text-sm text-soft">{lines.length - SHOWN} more are in the file.</p>}
    </div>
  );
}

/** Every binding: how many lines it has, and their last values. */
function Steps({ steps }: { steps: MeasureAnswer['steps'] }) {
  if (steps.length === 0) return null;
  return (
    <section aria-label="steps" className="mt-4">
      <h3 className="section-title mb-1">Steps</h3>
      {steps.map(({ name, series, left }) => {
        const lines = byLast(series);
        const captions = captionsOf(lines);
        return (
          <article key={name} aria-label={`binding ${name}`} className="border-t border-hair py-1 text-sm">
            <b className="font-mono">{name}</b>{' '}
            <span className="text-soft">{formatCount(series.length + left, 'line')}</span>
            {lines.slice(0, 3).map((line, i) => (
              <p key={captions[i]}>
                {valueWords(lastOf(line)?.[1] ?? null, line.unit, null)}{' '}
                <span className="text-soft">{captions[i]}</span>
              </p>
            ))}
          </article>
        );
      })}
    </section>
  );
}
