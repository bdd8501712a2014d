import type { By } from '@zetopsis/contract';
import { useCallback, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { type Looked, otherOf } from '../../drawing/looked.ts';
import { byOf } from '../../drawing/names.ts';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { useWidth } from '../../drawing/useWidth.ts';
import { ConnectOne } from '../../frame/ConnectOne.tsx';
import { queried, useView } from '../../frame/useView.ts';
import { useUsageQuery } from '../../state/usageApi.ts';
import { Beside } from './Beside.tsx';
import { CompareBar } from './CompareBar.tsx';
import { columnsFor, cutsFrom, narrowCount, type SortBy, sortRows, unreadThen } from './columnModel.ts';
import { DrillColumn } from './DrillColumn.tsx';
import { ObjectSheet } from './ObjectSheet.tsx';
import { SavedViews } from './SavedViews.tsx';
import { SeenFirst } from './SeenFirst.tsx';
import { UsageTable } from './UsageTable.tsx';
import { useUsageKeys } from './useUsageKeys.ts';

const NO_CUTS: readonly number[] = [];
/** Who uses what, against which limit? */
export function UsagePlace() {
  const { view, change } = useView();
  const { path, resource, shift, mirror } = view;
  const by = byOf(view);
  const comparing = shift !== null;
  const [chosenSort, setSort] = useState<SortBy>('tightness');
  const sort = mirror ? 'swing' : chosenSort === 'swing' && !comparing ? 'tightness' : chosenSort;
  const [box, width] = useWidth();
  const { data, currentData, error, refetch } = useUsageQuery({ ...queried(view), by, of: otherOf(resource) });
  // while a deeper level loads, what is on screen stays
  const columns = useMemo(() => columnsFor(currentData ?? data, path), [currentData, data, path]);
  const sorted = useMemo(
    () => columns.map((column) => sortRows(column.rows, resource, sort)),
    [columns, resource, sort],
  );

  const awaited = otherOf(resource) !== undefined && otherOf(resource) !== (currentData ?? data)?.of;

  const cuts = useMemo(
    () => columns.map((_, index) => cutsFrom(columns[index + 1], resource, sort)),
    [columns, resource, sort],
  );
  // a column is drawn anew only when something of it changed
  const setBy = useCallback((next: By) => void change({ by: next, path: path.slice(0, 1) }), [change, path]);
  const closeSheet = useCallback(() => void change({ sheet: false }), [change]);
  const choose = useCallback((next: string[]) => void change({ path: next }), [change]);
  const setResource = useCallback((next: Looked) => void change({ resource: next }, { replace: true }), [change]);
  const setOrder = useCallback(
    (next: SortBy) => {
      setSort(next);
      if (mirror && next !== 'swing') void change({ mirror: false }, { replace: true });
    },
    [change, mirror],
  );

  useUsageKeys({ view, by, sorted, change, setBy });
  if (!data) {
    return (
      <div className="h-full max-w-sm p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={10} height={47} />}
      </div>
    );
  }
  if (columns[0]?.rows.length === 0) {
    return (
      <div className="p-5">
        <StateNote title="No cluster is connected yet">
          <ConnectOne />
        </StateNote>
      </div>
    );
  }
  const sheet = view.sheet && path.length > 0;
  if (view.beside.length > 0) return <Beside />;
  return (
    <div className="flex h-full min-h-0 flex-col">
      <ShowBar />
      <Notes blind={data.blind} failed={error !== undefined} />
      {shift !== null && <CompareBar shift={shift} unread={unreadThen(columns[0]?.rows ?? [], resource)} />}
      <div className="flex min-h-0 flex-1">
        {view.show === 'table' && <UsageTable />}
        <div ref={box} className={view.show === 'table' ? 'hidden' : 'flex min-w-0 flex-1 overflow-x-auto'}>
          {columns.map((column, index) => (
            <DrillColumn
              key={column.level}
              column={column}
              rows={sorted[index] ?? []}
              index={index}
              path={path}
              resource={resource}
              sort={sort}
              narrow={index < narrowCount(columns.length, width)}
              cuts={cuts[index] ?? NO_CUTS}
              nextRows={sorted[index + 1]?.length ?? 0}
              active={index === Math.max(0, path.length - 1)}
              choose={choose}
              setResource={setResource}
              setSort={setOrder}
              awaited={awaited}
              comparing={comparing}
              mirror={mirror}
              setBy={setBy}
            />
          ))}
          {path.length === 0 && view.show !== 'table' && <SeenFirst />}
        </div>
        {sheet && <ObjectSheet close={closeSheet} />}
      </div>
    </div>
  );
}

/** Columns or a table; views that were kept. */
function ShowBar() {
  const { view, link } = useView();
  const choice = (show: 'columns' | 'table', word: string) => (
    <Link
      to={link('/usage', { show })}
      aria-current={view.show === show ? 'page' : undefined}
      className={view.show === show ? 'border-b-2 border-ink font-bold' : 'text-soft hover:text-ink'}
      title={`${word} (key t)`}
    >
      {word}
    </Link>
  );
  return (
    <div className="flex items-center gap-4 border-b border-line px-4 py-1 text-sm">
      {choice('columns', 'columns')}
      {choice('table', 'table')}
      <span className="ml-auto">
        <SavedViews />
      </span>
    </div>
  );
}

function Notes({ blind, failed }: { blind: readonly string[]; failed: boolean }) {
  const notes = [
    ...blind,
    ...(failed
      ? ['The newest answer of the server did not arrive; what is shown is older. It is tried again by itself.']
      : []),
  ];
  if (notes.length === 0) return null;
  return (
    <div role="status" className="hatched border-b border-structure">
      <ul>
        {notes.map((note) => (
          <li key={note} className="bg-ground/85 px-4 py-1 text-sm">
            <b>partly blind</b> · {note}
          </li>
        ))}
      </ul>
    </div>
  );
}
