import type { MeasureAnswer } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { Trace } from '../../drawing/Trace.tsx';
import { byLast, captionsOf, lastOf } from './measuresModel.ts';
import { valuesOf } from './pictures/pictureModel.ts';

type Step = MeasureAnswer['steps'][number];

/** Every step as it is written, with what it made: where lines get lost, or time. */
export function Steps({ steps, resolution }: { steps: readonly Step[]; resolution: string }) {
  if (steps.length === 0) return null;
  const slowest = Math.max(...steps.map(({ took }) => took));
  return (
    <section aria-label="steps" className="mt-4">
      <h3 className="section-title mb-1">Steps</h3>
      <p className="mb-1 text-xs text-soft">
        read from{' '}
        {resolution === 'samples'
          ? 'the samples themselves'
          : `roll-ups: ${resolution === 'five' ? 'five minutes' : 'an hour'}`}
        ; the trace is of the line with the largest last value
      </p>
      <table className="w-full text-sm">
        <thead className="text-left text-xs text-soft">
          <tr>
            <th className="font-normal">step</th>
            <th className="px-2 text-right font-normal">lines</th>
            <th className="px-2 text-right font-normal">points</th>
            <th className="px-2 font-normal">special</th>
            <th className="px-2 text-right font-normal">took</th>
            <th className="w-32 px-2 font-normal">trace</th>
            <th className="px-2 text-right font-normal">last</th>
          </tr>
        </thead>
        <tbody>
          {steps.map((step, i) => (
            <StepRow
              key={i}
              step={step}
              begins={step.binding !== null && steps[i - 1]?.binding !== step.binding}
              slowest={slowest}
            />
          ))}
        </tbody>
      </table>
    </section>
  );
}

const WORTH_SAYING = 20; // ms

function StepRow({ step, begins, slowest }: { step: Step; begins: boolean; slowest: number }) {
  const { binding, text, kind, read, lines, points, took } = step;
  const [first] = byLast(step.series);
  const special = [
    ...(points.none > 0 ? [`${points.none} without value`] : []),
    ...(points.partial > 0 ? [`${points.partial} partial`] : []),
    ...(points.atLeast > 0 ? [`${points.atLeast} at least`] : []),
    ...(points.filled > 0 ? [`${points.filled} filled`] : []),
  ];
  return (
    <tr className="border-t border-hair align-baseline">
      <td className="py-0.5 font-mono text-xs break-all">
        {begins && <b>{binding} = </b>}
        <span className={binding === null || begins ? '' : 'pl-4'}>{text}</span>
        {read && (
          <span className="block font-sans text-soft">
            {formatCount(read.series, 'series', 'series')}, {formatCount(read.samples, 'sample')}
          </span>
        )}
      </td>
      <td className="px-2 text-right whitespace-nowrap">
        {lines} {kind === 'gauge' || kind === 'number' ? '' : <span className="text-xs text-soft">{kind}</span>}
      </td>
      <td className="px-2 text-right">{kind === 'histogram' ? '' : points.there}</td>
      <td className="px-2 text-xs text-soft">{kind === 'histogram' ? '' : special.join(', ')}</td>
      <td
        className={`px-2 text-right text-xs whitespace-nowrap ${took === slowest && took > WORTH_SAYING ? 'font-bold' : 'text-soft'}`}
      >
        {took < 1 ? 'below 1 ms' : `${Math.round(took)} ms`}
      </td>
      <td className="px-2">{first && !first.buckets && <Trace values={valuesOf(first)} height={18} />}</td>
      <td
        className="px-2 text-right text-xs whitespace-nowrap"
        title={first && captionsOf(step.series)[step.series.indexOf(first)]}
      >
        {first && !first.buckets ? valueWords(lastOf(first)?.[1] ?? null, first.unit, null) : ''}
      </td>
    </tr>
  );
}
