import { skipToken } from '@reduxjs/toolkit/query';
import { EXAMPLES } from '@zetopsis/core/measures';
import { useState } from 'react';
import { Link } from 'react-router';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { useView } from '../../frame/useView.ts';
import { readWindow } from '../../frame/windowModel.ts';
import {
  type MeasureQuery,
  measureBody,
  useLazyMetricLabelsQuery,
  useLazyMetricNamesQuery,
  useMeasureQuery,
  useSavedMeasuresQuery,
} from '../../state/measuresApi.ts';
import type { Occurring } from './completion.ts';
import { MeasureEditor } from './MeasureEditor.tsx';
import { MeasureResult } from './MeasureResult.tsx';
import { MetricList } from './MetricList.tsx';
import { SavedMeasure } from './SavedMeasure.tsx';

/** How do I compute it? What is asked stands in the address, so that it can be sent to somebody. */
export function MeasuresPlace() {
  const { view, change } = useView();
  const [draft, setDraft] = useState(view.measure);
  const [explain, setExplain] = useState(false);
  const [metrics] = useLazyMetricNamesQuery();
  const [labels] = useLazyMetricLabelsQuery();
  const { data: saved } = useSavedMeasuresQuery();
  const own = saved?.measures.find(({ key }) => key === view.saved) ?? null;
  const ask = (text: string, key = '') => {
    setDraft(text);
    void change({ measure: text, saved: key });
  };
  const occurring: Occurring = {
    metrics: async (part) => (await metrics(part, true)).data?.metrics.map(({ name }) => name) ?? [],
    labels: async (of) => (await labels(of, true)).data ?? { labels: [], values: [] },
    titles: () => saved?.measures.map(({ title }) => title) ?? [],
  };
  return (
    <div className="flex h-full min-h-0">
      <MetricList
        choose={(text) => ask(text)}
        saved={saved?.measures ?? []}
        chooseSaved={({ text, key }) => ask(text, key)}
      />
      <div className="min-w-0 flex-1 overflow-auto px-5 py-3">
        <MeasureEditor text={draft} setText={setDraft} ask={() => ask(draft, view.saved)} occurring={occurring} />
        {saved && (draft.trim() !== '' || own) && (
          <SavedMeasure
            key={view.saved}
            saved={saved}
            own={own}
            text={draft}
            kept={(key, text) => ask(text, key)}
            removed={() => ask(draft)}
          />
        )}
        <div className="my-2 flex items-center gap-4 text-sm">
          <button
            type="button"
            className="button"
            disabled={draft.trim() === ''}
            title="ask it (Ctrl and Enter)"
            onClick={() => ask(draft, view.saved)}
          >
            Ask
          </button>
          <label className="flex items-center gap-1.5">
            <input type="checkbox" checked={explain} onChange={({ target }) => setExplain(target.checked)} />
            show the steps
          </label>
          {view.measure !== '' && draft !== view.measure && (
            <p className="text-soft">The text was changed since: what stands below is of what was asked.</p>
          )}
        </div>
        {view.measure === '' ? <Beginning draft={setDraft} /> : <Answer explain={explain} />}
      </div>
    </div>
  );
}

function Answer({ explain }: { explain: boolean }) {
  const { view } = useView();
  const { path, whose, window, measure, every, drawn, shift } = view;
  const query: MeasureQuery = { text: measure, explain, path, whose, window, every, earlier: 0 };
  const { data, currentData, error, isFetching, refetch } = useMeasureQuery(query);
  const then = useMeasureQuery(shift === null ? skipToken : { ...query, explain: false, earlier: shift });
  const shown = currentData ?? (isFetching ? data : undefined);
  if (error && !isFetching) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!shown) return <RowSkeleton rows={8} height={40} />;
  return (
    <>
      {shift !== null && then.error && <FailureNote error={then.error} retry={() => void then.refetch()} />}
      <MeasureResult
        key={shown.text}
        answer={shown}
        against={shift === null ? null : (then.currentData ?? null)}
        shift={shift ?? 0}
        drawnAs={drawn}
        body={measureBody({ ...query, explain: false })}
      />
    </>
  );
}

/** Before anything is asked. */
function Beginning({ draft }: { draft: (text: string) => void }) {
  const { link } = useView();
  return (
    <StateNote title="Ask something about what was read">
      <p>
        Choose a metric on the left, write steps above (they are described in docs/measures.md), or begin with one of
        these:
      </p>
      <ul className="columns-2 gap-x-8">
        {EXAMPLES.map(({ title, text, window, drawn }) => (
          <li key={title} className="break-inside-avoid py-0.5">
            <Link
              className="button-plain"
              to={link('/measures', {
                measure: text,
                saved: '',
                drawn: drawn ?? '',
                every: null,
                window: readWindow(new URLSearchParams({ window })),
              })}
              onClick={() => draft(text)}
            >
              {title}
            </Link>
          </li>
        ))}
      </ul>
    </StateNote>
  );
}
