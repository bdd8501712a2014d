import type { SheetAnswer, TraceLine, TracesAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatLatency } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { StepStrip, TraceSteps } from '../../frame/TraceSteps.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useObjectTracesQuery } from '../../state/recordsApi.ts';
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
        <StepStrip share={line.took / longest} failed={line.failed} />
        <span className="text-xs text-soft">{formatClock(line.at, now, { seconds: true })}</span>
        <span className="col-span-2 truncate text-xs text-soft">
          {level !== 'container' && (level === 'pod' ? line.container : line.pod)}
          {' · '}
          {formatCount(line.whole.spans, 'step')}, {formatLatency(line.whole.took / 1000)} in all
          {line.weight > 1 && ` · stands for ${line.weight}`}
          {line.whole.orphans > 0 && ` · the parent of ${line.whole.orphans} never came`}
        </span>
      </button>
      {open && <TraceSteps traceId={line.traceId} at={line.at} took={line.whole.took} />}
    </li>
  );
}
