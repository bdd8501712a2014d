import type { LinesAnswer, SheetAnswer } from '@zetopsis/contract';
import { formatCount, formatPercent } from '@zetopsis/core/format';
import { useState } from 'react';
import { GapWords } from '../../drawing/GapWords.tsx';
import { LogLine } from '../../drawing/LogLine.tsx';
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
            source={
              sheet.level === 'pod'
                ? line.container
                : sheet.level === 'workload' || sheet.level === 'namespace'
                  ? line.pod
                  : null
            }
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
