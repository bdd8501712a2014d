import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { queried, useView } from '../../frame/useView.ts';
import { useNowQuery } from '../../state/nowApi.ts';
import { TightestList } from './TightestList.tsx';

/** Beside the clusters, while none is chosen: something to look at, and how to go on. */
export function SeenFirst() {
  const { view } = useView();
  const { data, error, refetch } = useNowQuery(queried(view));
  return (
    <section
      aria-label="where to look first"
      className="min-w-80 max-w-xl flex-1 overflow-auto border-l border-line px-5 py-3"
    >
      <h2 className="section-title">Where to look first</h2>
      <p className="mb-2 text-sm text-soft">
        What was nearest to a limit for 95 % of the window. Choose one of these, or a cluster on the left to go down
        step by step (arrow keys), then Enter for its sheet.
      </p>
      {data ? (
        <TightestList tightest={data.tightest} />
      ) : error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : (
        <RowSkeleton rows={5} height={52} />
      )}
    </section>
  );
}
