import type { TraceAnswer, TraceStep } from '@zetopsis/contract';
import { formatCount, formatLatency } from '@zetopsis/core/format';
import { shiftsOf } from '@zetopsis/core/spans';
import { clsx } from 'clsx';
import { FailureNote, RowSkeleton } from '../drawing/StateNote.tsx';
import { useTraceQuery } from '../state/recordsApi.ts';

/** How long a step took, against the longest of its list. */
export function StepStrip({ share, from = 0, failed }: { share: number; from?: number; failed: boolean }) {
  return (
    <span aria-hidden className="relative h-2 self-center border-b border-hair">
      <span
        className={clsx('absolute inset-y-0 min-w-0.5 bg-[var(--fill-2)]', failed && 'border-r-2 border-critical')}
        style={{ left: `${from * 100}%`, width: `${Math.min(1, share) * 100}%` }}
      />
    </span>
  );
}

/** What it was made of, by when each step began. */
export function TraceSteps({ traceId, at, took }: { traceId: string; at: number; took: number }) {
  const around = { from: Math.floor(at - 3_600_000), to: Math.ceil(at + took + 3_600_000) };
  const { data, error, refetch } = useTraceQuery({ id: traceId, ...around });
  if (error) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!data) return <RowSkeleton rows={3} height={16} />;
  const shifts = shiftsOf(data.steps);
  const drawn = data.steps
    .map((step) => ({ ...step, at: step.at + (shifts.get(step.spanId) ?? 0) }))
    .sort((a, b) => a.at - b.at);
  const from = Math.min(...drawn.map(({ at }) => at));
  const length = Math.max(...drawn.map(({ at, took }) => at + took - from), 0.001);
  return (
    <div className="mb-1 border-l border-structure pl-2">
      <p className="font-mono text-xs break-all text-soft">trace {data.traceId}</p>
      <ol aria-label="steps of the trace">
        {drawn.map((step) => (
          <Step key={step.spanId} step={step} shift={shifts.get(step.spanId) ?? 0} from={from} length={length} />
        ))}
      </ol>
      <p className="text-xs text-soft">{leftWords(data)}</p>
    </div>
  );
}
function leftWords({ hidden, left, orphans, open }: TraceAnswer): string {
  return [
    hidden > 0 ? `${formatCount(hidden, 'step')} elsewhere, which you may not see` : null,
    left > 0 ? `${formatCount(left, 'step')} more` : null,
    orphans > 0 ? `the parent of ${formatCount(orphans, 'step')} never came` : null,
    open ? 'more of it may still come' : null,
  ]
    .filter((part) => part !== null)
    .join(' · ');
}
function Step({ step, shift, from, length }: { step: TraceStep; shift: number; from: number; length: number }) {
  return (
    <li
      className="border-t border-hair py-px text-xs"
      title={step.fields.map(([name, value]) => `${name} ${value}`).join('\n')}
    >
      <span className="flex items-baseline gap-2">
        <span className="truncate">
          {step.name} <span className="text-soft">{step.service}</span>
        </span>
        <span className="ml-auto shrink-0">{formatLatency(step.took / 1000)}</span>
      </span>
      <span className="grid">
        <StepStrip from={(step.at - from) / length} share={step.took / length} failed={step.failed} />
      </span>
      {shift !== 0 && (
        <span className="text-soft">
          drawn {formatLatency(Math.abs(shift) / 1000)} {shift < 0 ? 'earlier' : 'later'} than its clock says, within
          who called it
        </span>
      )}
      {step.message !== '' && <span className="text-critical">{step.message}</span>}
    </li>
  );
}
