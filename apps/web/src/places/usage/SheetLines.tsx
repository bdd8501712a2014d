import type { LineAnswer, LinesAnswer, SheetAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatPercent } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useState } from 'react';
import { CutName } from '../../drawing/CutName.tsx';
import { GapWords } from '../../drawing/GapWords.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useObjectLinesQuery } from '../../state/recordsApi.ts';
import { Section } from './SheetSections.tsx';

const SHOWN_FIRST = 12;
const TELLING: readonly SheetAnswer['level'][] = ['namespace', 'workload', 'pod', 'container', 'node', 'host'];

/** The newest log lines that were sent for an object, kept and searched by words they have. */
export function SheetLines({ sheet }: { sheet: SheetAnswer }) {
  return TELLING.includes(sheet.level) ? <Lines sheet={sheet} /> : null;
}
function Lines({ sheet }: { sheet: SheetAnswer }) {
  const { view } = useView();
  const { data, error, refetch } = useObjectLinesQuery({ ...queried(view), path: sheet.path });
  return (
    <Section title="Log lines">
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data ? (
        <LineLog answer={data} sheet={sheet} />
      ) : (
        <RowSkeleton rows={3} height={18} />
      )}
    </Section>
  );
}

function LineLog({ answer: { lines, more, day, dropped, gaps }, sheet }: { answer: LinesAnswer; sheet: SheetAnswer }) {
  const now = useNow(10_000);
  const [all, setAll] = useState(false);
  if (lines.length === 0)
    return (
      <p className="text-sm text-soft">
        {day.lines > 0
          ? `None came within this window; ${formatCount(day.lines, 'line')} within the last 24 h.`
          : 'No program sends log lines of it. → Sources, Push keys has keys to send them with; Following reads them from the cluster.'}
      </p>
    );
  const shown = all ? lines : lines.slice(0, SHOWN_FIRST);
  return (
    <>
      {dropped !== null && (
        <p className="text-sm">
          <b>
            {formatCount(dropped.lines, 'line')} of {dropped.team} dropped today:
          </b>{' '}
          it takes {dropped.most} a day (Admin, Teams).
        </p>
      )}
      {gaps.map((gap) => (
        <p key={`${gap.pod} ${gap.container} ${gap.from}`} className="text-sm">
          <GapWords gap={gap} now={now} />
        </p>
      ))}
      <p className="text-xs text-soft">
        newest first · {formatCount(day.lines, 'line')} within 24 h
        {day.lines > 0 && `, ${formatPercent(day.traced / day.lines)} of them bear a trace id`}
      </p>
      <ol aria-label="log lines" className="mt-1 border-l border-structure">
        {shown.map((line, i) => (
          <LogLine
            // lines may be alike in everything
            key={`${line.at} ${line.pod} ${i}`}
            line={line}
            before={shown[i - 1]}
            now={now}
            names={sheet.level === 'pod' || sheet.level === 'workload' || sheet.level === 'namespace'}
            level={sheet.level}
          />
        ))}
      </ol>
      {(all ? more : lines.length > shown.length) && (
        <p className="mt-1 text-sm">
          {all ? (
            <span className="text-soft">Older ones are in the window: move its end to see them.</span>
          ) : (
            <button type="button" className="button-plain" onClick={() => setAll(true)}>
              show all {lines.length}
              {more && ' newest'}
            </button>
          )}
        </p>
      )}
    </>
  );
}

/** Fields that say once more what stands above: when it was, how grave, of which trace. */
const SAID: ReadonlySet<string> = new Set([
  ...['time', 'ts', 'timestamp', '@timestamp', 'level', 'lvl', 'severity'],
  ...['trace_id', 'traceid', 'trace.id', 'traceparent'],
]);
const GRAVE: readonly LineAnswer['level'][] = ['error', 'fatal'];
interface LogLineProps {
  readonly line: LineAnswer;
  readonly before: LineAnswer | undefined;
  readonly now: number;
  readonly names: boolean;
  readonly level: SheetAnswer['level'];
}
/** On a ruler of time: the tick stands at each line, the time where it is another one. */
function LogLine({ line, before, now, names, level }: LogLineProps) {
  const time = formatClock(line.at, now, { seconds: true });
  const isNew = before === undefined || formatClock(before.at, now, { seconds: true }) !== time;
  const fields = line.fields.filter(([name]) => !SAID.has(name.toLowerCase()));
  const source = level === 'pod' ? line.container : level === 'container' ? null : line.pod;
  return (
    <li className="relative pl-3">
      <span aria-hidden className={clsx('absolute top-2 left-0 border-t border-structure', isNew ? 'w-2.5' : 'w-1')} />
      <p className="flex items-baseline gap-2 text-xs text-soft">
        {isNew && <time dateTime={new Date(line.at).toISOString()}>{time}</time>}
        {line.level !== null && (
          <span className={clsx(GRAVE.includes(line.level) && 'font-semibold text-critical')}>{line.level}</span>
        )}
        {names && source !== null && <CutName name={source} className="font-mono" />}
        {line.traceId !== '' && (
          <span className="ml-auto shrink-0 font-mono" title={`trace ${line.traceId}`}>
            trace {line.traceId.slice(0, 8)}…
          </span>
        )}
      </p>
      {line.text !== '' && (
        <p
          className="font-mono text-sm break-words whitespace-pre-wrap"
          title={
            line.wording === null ? 'one of its other wordings' : `wording ${line.wording.number}: ${line.wording.text}`
          }
        >
          {line.text}
        </p>
      )}
      {fields.length > 0 && (
        <p className="text-xs break-words text-soft">
          {fields.map(([name, value], i) => (
            // a line may have a field twice
            <span key={`${i} ${name}`}>
              {i > 0 && ' · '}
              {name} <span className="text-ink">{value}</span>
            </span>
          ))}
        </p>
      )}
    </li>
  );
}
