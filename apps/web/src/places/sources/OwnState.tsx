import { formatClock, formatCount } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { DAY } from '@zetopsis/core/units';
import { useState } from 'react';
import { LogLine } from '../../drawing/LogLine.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Trace } from '../../drawing/Trace.tsx';
import { tracedUnit } from '../../drawing/tracedUnit.ts';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useMetricNamesQuery } from '../../state/measuresApi.ts';
import { useObjectLinesQuery } from '../../state/recordsApi.ts';

const OWN = 'zetopsis_';
const LINES_SHOWN = 12;
/** What to look at first, and what it says. */
const FIRST: readonly (readonly [name: string, words: string])[] = [
  ['event_loop_delay_seconds', 'longest stop of the event loop'],
  ['memory_resident_bytes', 'memory of the process'],
  ['cpu_seconds_total', 'processor'],
  ['request_duration_seconds', 'requests to the API'],
  ['questions', 'questions that are worked on, or wait'],
  ['reading_overdue_seconds', 'the most overdue reading'],
  ['samples_taken_total', 'samples taken'],
  ['readings_waiting', 'readings that wait to be stored'],
  ['journal_lag_seconds', 'age of what is not packed'],
  ['pushes_total', 'pushes'],
  ['followed_containers', 'containers whose lines are read'],
  ['forward_waiting_bytes', 'what waits for receivers'],
  ['judging_behind_seconds', 'the rule that was judged longest ago'],
  ['judging_duration_seconds', 'rules judged'],
  ['delivery_duration_seconds', 'messages handed over'],
  ['deliveries', 'messages that wait, or that nobody takes'],
  ['database_answer_seconds', 'PostgreSQL answers within'],
  ['database_bytes', 'size of the database'],
];

/** How Zetopsis itself is, by its own figures, and what it writes. For who may read everything. */
export function OwnState() {
  return (
    <section aria-label="Zetopsis itself" className="mb-6">
      <h2 className="section-title mb-1">Zetopsis itself</h2>
      <OwnFigures />
      <OwnLines />
    </section>
  );
}

function OwnFigures() {
  const { change } = useView();
  const [all, setAll] = useState(false);
  const { data, error, refetch } = useMetricNamesQuery(OWN, { pollingInterval: 15_000 });
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={6} height={22} />;
  const known = new Map(
    data.metrics.flatMap((metric) =>
      metric.name.startsWith(OWN) ? [[metric.name.slice(OWN.length), metric] as const] : [],
    ),
  );
  if (known.size === 0)
    return <p className="text-sm text-soft">Its own page was not read yet: that is within 15 s of the start.</p>;
  const first = FIRST.flatMap(([name, words]) => {
    const metric = known.get(name);
    return metric ? [{ ...metric, words }] : [];
  });
  const named = new Set(first.map(({ name }) => name));
  const rest = [...known.values()].filter(({ name }) => !named.has(name)).map((one) => ({ ...one, words: one.help }));
  return (
    <>
      <ul aria-label="own figures" className="grid max-w-5xl grid-cols-2 gap-x-8 lg:grid-cols-3">
        {[...first, ...(all ? rest : [])].map(({ name, type, unit, series, text, help, last, trace, words }) => (
          <li key={name} className="border-b border-hair py-1">
            <button
              type="button"
              className="grid w-full grid-cols-[1fr_64px] items-end gap-2 text-left hover:text-petrol"
              title={`${help}\n${name}: show its measure`}
              onClick={() => void change({ measure: text, saved: '' }, { place: '/measures' })}
            >
              <span className="min-w-0 text-sm">
                <span className="block truncate text-soft">{words}</span>
                {last === null
                  ? 'no value yet'
                  : `${valueWords(last, tracedUnit(type, unit), null)}${series > 1 ? `, one of ${series}` : ''}`}
              </span>
              <Trace values={trace} height={26} />
            </button>
          </li>
        ))}
      </ul>
      {rest.length > 0 && (
        <button type="button" className="button-plain mt-1 text-sm" onClick={() => setAll(!all)}>
          {all ? 'fewer of them' : `${formatCount(rest.length, 'other own figure')}`}
        </button>
      )}
    </>
  );
}

function OwnLines() {
  const now = useNow(10_000);
  const [since] = useState(() => Date.now() - DAY);
  const { data, error, refetch } = useObjectLinesQuery({
    path: ['host:zetopsis'],
    clusters: null,
    whose: 'all',
    window: { from: since, to: since + 2 * DAY },
  });
  const [all, setAll] = useState(false);
  if (error) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!data) return <RowSkeleton rows={3} height={18} />;
  if (data.lines.length === 0)
    return <p className="mt-3 text-sm text-soft">It wrote nothing since {formatClock(since, now)}.</p>;
  const shown = all ? data.lines : data.lines.slice(0, LINES_SHOWN);
  return (
    <div className="mt-3 max-w-5xl">
      <h3 className="text-sm font-semibold">What it writes</h3>
      <ol aria-label="own log lines" className="mt-1 border-l border-structure">
        {shown.map((line, i) => (
          // lines may be alike in everything
          <LogLine key={`${line.at} ${i}`} line={line} before={shown[i - 1]} now={now} source={null} />
        ))}
      </ol>
      {data.lines.length > LINES_SHOWN && (
        <button type="button" className="button-plain mt-1 text-sm" onClick={() => setAll(!all)}>
          {all ? 'fewer' : `${data.lines.length - LINES_SHOWN} more`}
        </button>
      )}
    </div>
  );
}
