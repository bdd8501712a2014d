import { clusterOf, namespaceOf, readPath, workloadIn } from '@zetopsis/contract';
import { columnMeasure, type MeasuredPlace } from '@zetopsis/core/measures';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { saveFile } from '../../drawing/saveFile.ts';
import { ShowMeasure, TellMeWhen } from '../../frame/ShowMeasure.tsx';
import { useView, viewed } from '../../frame/useView.ts';
import { useTableQuery } from '../../state/usageApi.ts';
import { ColumnChooser } from './ColumnChooser.tsx';
import { LEVEL_WORDS } from './columnModel.ts';
import { MarkedBar, TableBar } from './TableBar.tsx';
import { ROW, TableRows } from './TableRows.tsx';
import { columnsOf, csvOf, FIRST_COLUMNS, fits, jsonOf, sorted } from './tableModel.ts';

/** Every row of one level as a table: columns chosen and ordered, sorted, filtered, summed, taken away as a file. */
export function UsageTable() {
  const { view, change } = useView();
  const { level, columns: keys, sort, backwards, find, label, owner, state } = view.table;
  const filter = useMemo(() => ({ label, owner, state }), [label, owner, state]);
  const setTable = (part: Partial<typeof view.table>) =>
    void change({ table: { ...view.table, ...part } }, { replace: true });
  const asked = useDeferredValue(find.trim());
  const { marked, mark, none } = useMarked();
  const [onlyMarked, setOnlyMarked] = useState(false);
  const { data, currentData, error, refetch } = useTableQuery({ ...viewed(view), level, find: asked });
  const columns = useMemo(() => columnsOf(keys.length === 0 ? FIRST_COLUMNS : keys), [keys]);
  const by = columns.find(({ key }) => key === sort) ?? columns.find(({ key }) => key === 'cpu') ?? columns[0]!;
  const answer = currentData ?? data;
  const rows = useMemo(() => {
    const fitting = (answer?.rows ?? []).filter(
      (row) => fits(row, filter) && (!onlyMarked || marked.size === 0 || marked.has(row.path.join('/'))),
    );
    return sorted(fitting, by, backwards);
  }, [answer, filter, by, backwards, onlyMarked, marked]);
  const owners = useMemo(
    () => [...new Set((answer?.rows ?? []).map(({ owner }) => owner ?? 'nobody'))].sort(),
    [answer],
  );
  if (!answer)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={14} height={ROW} />}
      </div>
    );
  const paths = answer.rows.filter(({ path }) => marked.has(path.join('/'))).map(({ path }) => path);
  return (
    <div className="flex h-full min-h-0 min-w-0 flex-1 flex-col">
      <TableBar
        level={level}
        chooseLevel={(next) => setTable({ level: next })}
        find={find}
        setFind={(next) => setTable({ find: next })}
        filter={filter}
        setFilter={setTable}
        owners={owners}
      >
        <ShowMeasure
          text={columnMeasure(by.key, level, tablePlace(view.path))}
          of={`the column ${by.title}`}
          word={`measure of ${by.title}`}
        />
        <TellMeWhen text={columnMeasure(by.key, level, tablePlace(view.path))} of={`the column ${by.title}`} />
        <ColumnChooser chosen={columns.map(({ key }) => key)} choose={(next) => setTable({ columns: next })} />
        <SaveAs word="CSV" save={() => saveFile(`${level}s.csv`, 'text/csv', csvOf(rows, columns))} />
        <SaveAs word="JSON" save={() => saveFile(`${level}s.json`, 'application/json', jsonOf(rows, columns))} />
      </TableBar>
      {marked.size > 0 && (
        <MarkedBar marked={marked.size} paths={paths} only={onlyMarked} setOnly={setOnlyMarked} none={none} />
      )}
      <TableRows
        rows={rows}
        columns={columns}
        by={by}
        backwards={backwards}
        marked={marked}
        mark={mark}
        sort={(key) =>
          setTable(key === by.key ? { sort: key, backwards: !backwards } : { sort: key, backwards: false })
        }
      />
      <p role="status" className="border-t border-line px-4 py-1 text-xs text-soft">
        {rows.length} of {answer.rows.length + answer.left} {LEVEL_WORDS[level].toLowerCase()}
        {answer.left > 0 && `; ${answer.left} are not read: narrow the scope, or type a part of the name`}
      </p>
    </div>
  );
}

function SaveAs({ word, save }: { word: string; save: () => void }) {
  return (
    <button type="button" className="button-plain" onClick={save}>
      {word}
    </button>
  );
}
/** Rows that were marked, by their paths. */
function useMarked() {
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const mark = useCallback((key: string) => {
    setMarked((before) => {
      const next = new Set(before);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  }, []);
  return { marked, mark, none: () => setMarked(new Set()) };
}

/** What the table is narrowed to, as a measure has it. */
function tablePlace(parts: readonly string[]): MeasuredPlace {
  const path = readPath(parts);
  if (path === null) return {};
  const [cluster, namespace, workload] = [clusterOf(path), namespaceOf(path), workloadIn(path)];
  return {
    ...(cluster === null ? {} : { cluster }),
    ...(namespace === null ? {} : { namespace }),
    ...(workload === null ? {} : { workload }),
  };
}
