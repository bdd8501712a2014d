import type { SheetAnswer, TraceAnswer, TraceLine, TraceStep, TracesAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatLatency } from '@zetopsis/core/format';
import { shiftsOf } from '@zetopsis/core/spans';
import { clsx } from 'clsx';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useObjectTracesQuery, useTraceQuery } from '../../state/recordsApi.ts';
import { Section } from './SheetSections.tsx';

const TELLING: readonly SheetAnswer['level'][] = ['namespace', 'workload', 'pod', 'container', 'host'];

/** The slowest and the failed traces in which an object had a part. */
export function SheetTraces({ sheet }: { sheet: SheetAnswer }) {
  return TELLING.includes(sheet.level) ? <Traces sheet={sheet} /> : null;
}
function Traces({ sheet }: { sheet: SheetAnswer }) {
  const { view } = useView();
  const { data, error, refetch } = useObjectTracesQuery({ ...queried(view), path: sheet.path });
  // who sends no spans is told so with the log lines
  if (data && data.traces === 0) return null;
  return (
    <Section title="Traces">
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data ? (
        <Lists answer={data} level={sheet.level} />
      ) : (
        <RowSkeleton rows={2} height={18} />
      )}
    </Section>
  );
}

function Lists({ answer, level }: { answer: TracesAnswer; level: SheetAnswer['level'] }) {
  const { traces, failures, sampled, whole, slowest, failed } = answer;
  return (
    <>
      <p className="text-xs text-soft">
        {sampled ? 'about ' : ''}
        {formatCount(traces, 'trace')} within this window
        {failures > 0 && `, ${failures} failed`}
        {sampled && '; not all are kept, so that figures are scaled up'}
        {!whole && '; its oldest part was not looked through'}
      </p>
      <List title="slowest" lines={slowest} level={level} />
      {failed.length > 0 && <List title="failed, newest first" lines={failed} level={level} />}
    </>
  );
}
function List({ title, lines, level }: { title: string; lines: readonly TraceLine[]; level: SheetAnswer['level'] }) {
  const longest = Math.max(...lines.map(({ took }) => took), 0.001);
  return (
    <>
      <h4 className="mt-1.5 text-xs text-soft">{title}</h4>
      <ol aria-label={`traces: ${title}`}>
        {lines.map((line) => (
          <Line key={`${line.traceId} ${line.at}`} line={line} longest={longest} level={level} />
        ))}
      </ol>
    </>
  );
}

/** One strip: how long the object's own step took, against the longest of the list. */
function Line({ line, longest, level }: { line: TraceLine; longest: number; level: SheetAnswer['level'] }) {
  const now = useNow(10_000);
  const [open, setOpen] = useState(false);
  return (
    <li className="border-t border-hair py-0.5 text-sm">
      <button
        type="button"
        className="grid w-full grid-cols-[1fr_auto] gap-x-3 text-left hover:bg-hover"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className="flex min-w-0 items-baseline gap-2">
          <span className="truncate font-semibold">{line.operation}</span>
          {line.failed && <span className="text-xs text-critical">failed</span>}
          {!line.failed && line.whole.failed && <span className="text-xs text-soft">failed elsewhere</span>}
        </span>
        <span>{formatLatency(line.took / 1000)}</span>
        <Strip share={line.took / longest} failed={line.failed} />
        <span className="text-xs text-soft">{formatClock(line.at, now, { seconds: true })}</span>
        <span className="col-span-2 truncate text-xs text-soft">
          {level !== 'container' && (level === 'pod' ? line.container : line.pod)}
          {' · '}
          {formatCount(line.whole.spans, 'step')}, {formatLatency(line.whole.took / 1000)} in all
          {line.weight > 1 && ` · stands for ${line.weight}`}
          {line.whole.orphans > 0 && ` · the parent of ${line.whole.orphans} never came`}
        </span>
      </button>
      {open && <Steps line={line} />}
    </li>
  );
}
function Strip({ share, from = 0, failed }: { share: number; from?: number; failed: boolean }) {
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
function Steps({ line }: { line: TraceLine }) {
  const around = { from: Math.floor(line.at - 3_600_000), to: Math.ceil(line.at + line.whole.took + 3_600_000) };
  const { data, error, refetch } = useTraceQuery({ id: line.traceId, ...around });
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
        <Strip from={(step.at - from) / length} share={step.took / length} failed={step.failed} />
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
