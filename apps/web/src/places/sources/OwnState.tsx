import { formatClock } from '@zetopsis/core/format';
import { valueWords } from '@zetopsis/core/measures';
import { DAY, HOUR } from '@zetopsis/core/units';
import { useState } from 'react';
import { LogLine } from '../../drawing/LogLine.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Trace } from '../../drawing/Trace.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import { useMeasureQuery } from '../../state/measuresApi.ts';
import { useObjectLinesQuery } from '../../state/recordsApi.ts';

const LINES_SHOWN = 12;
const EVERY = 15_000;
const SHOWN = HOUR;
const at95 = (metric: string) => `read zetopsis_${metric}_seconds
  per second over 5m
  percentile 95 of buckets`;
const rate = (metric: string) => `read zetopsis_${metric}_total
  per second over 5m
  total overall`;
/** What to look at first, and the measure that tells it. */
const FIGURES: readonly (readonly [words: string, text: string])[] = [
  ['longest stop of the event loop', 'read zetopsis_event_loop_delay_seconds'],
  ['memory of the process', 'read zetopsis_memory_resident_bytes'],
  ['processor', 'read zetopsis_cpu_seconds_total\n  per second over 1m'],
  ['95 of 100 requests within', at95('request_duration')],
  ['questions that wait for their turn', 'read zetopsis_questions\n  where state is "waiting"'],
  ['the most overdue reading', 'read zetopsis_reading_overdue_seconds'],
  ['samples taken', rate('samples_taken')],
  ['readings that wait to be stored', 'read zetopsis_readings_waiting_bytes'],
  ['age of what is not packed', 'read zetopsis_journal_lag_seconds'],
  ['log lines taken', rate('pushed_lines')],
  ['spans taken', rate('pushed_spans')],
  ['log lines read from clusters', rate('followed_lines')],
  ['pushed, and refused', rate('push_refused')],
  ['waits for receivers', 'read zetopsis_forward_waiting_bytes\n  total overall'],
  ['the rule that was judged longest ago', 'read zetopsis_judging_behind_seconds'],
  ['95 of 100 rules judged within', at95('judging_duration')],
  ['messages that wait', 'read zetopsis_deliveries\n  where state is "waiting"'],
  ['PostgreSQL answers within', 'read zetopsis_database_answer_seconds'],
  ['connections to PostgreSQL that are busy', 'read zetopsis_database_connections\n  where state is "busy"'],
  ['size of the database', 'read zetopsis_database_bytes'],
];

/** How Zetopsis itself is, by its own figures, and what it writes. For who may read everything. */
export function OwnState() {
  return (
    <section aria-label="Zetopsis itself" className="mb-6">
      <h2 className="section-title mb-1">
        Zetopsis itself <span className="text-sm font-normal text-soft">the last hour; each leads to its measure</span>
      </h2>
      <OwnFigures />
      <OwnLines />
    </section>
  );
}

function OwnFigures() {
  return (
    <ul aria-label="own figures" className="grid max-w-5xl grid-cols-2 gap-x-8 lg:grid-cols-3">
      {FIGURES.map(([words, text]) => (
        <OwnFigure key={words} words={words} text={text} />
      ))}
    </ul>
  );
}
function OwnFigure({ words, text }: { words: string; text: string }) {
  const { change } = useView();
  const { data, error } = useMeasureQuery(
    { text, explain: false, path: [], whose: 'all', window: { length: SHOWN }, every: EVERY * 4, earlier: 0 },
    { pollingInterval: EVERY },
  );
  const [line] = data?.series ?? [];
  const values = line?.points.map(([, value]) => value) ?? [];
  const last = values.findLast((value) => value !== null) ?? null;
  const most = Math.max(...values.flatMap((value) => value ?? []));
  const unit = line?.unit ?? '';
  return (
    <li className="border-b border-hair py-1">
      <button
        type="button"
        className="grid w-full grid-cols-[1fr_64px] items-end gap-2 text-left hover:text-petrol"
        title={`${text}\n→ in Measures`}
        onClick={() => void change({ measure: `${text}\n`, saved: '' }, { place: '/measures' })}
      >
        <span className="min-w-0 text-sm">
          <span className="block truncate text-soft">{words}</span>
          {last !== null ? (
            <>
              {valueWords(last, unit, null)}
              {most > last && <span className="text-soft">, at most {valueWords(most, unit, null)}</span>}
            </>
          ) : error ? (
            asFailure(error).text
          ) : data ? (
            <span className="text-soft" title={data.nothing ?? 'no value in the last hour'}>
              none so far
            </span>
          ) : (
            'looking'
          )}
        </span>
        <Trace values={values} height={26} />
      </button>
    </li>
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
