import { TableLevel as TableLevels } from '@zetopsis/contract';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useView, viewed } from '../../frame/useView.ts';
import { useTableQuery } from '../../state/usageApi.ts';
import { ColumnChooser } from './ColumnChooser.tsx';
import { LEVEL_WORDS } from './columnModel.ts';
import { ROW, TableRows } from './TableRows.tsx';
import { columnsOf, csvOf, FIRST_COLUMNS, fits, jsonOf, sorted, type TableFilter } from './tableModel.ts';

const MOST_BESIDE = 4;

/** Every row of one level as a table: columns chosen and ordered, sorted, filtered, summed, taken away as a file. */
export function UsageTable() {
  const { view, change, link } = useView();
  const { level, columns: keys, sort, backwards } = view.table;
  const setTable = (part: Partial<typeof view.table>) =>
    void change({ table: { ...view.table, ...part } }, { replace: true });
  const [find, setFind] = useState('');
  const asked = useDeferredValue(find.trim());
  const [filter, setFilter] = useState<TableFilter>({ label: '', owner: '', state: 'all' });
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
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
  const mark = useCallback((key: string) => {
    setMarked((before) => {
      const next = new Set(before);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  }, []);
  if (!answer)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={14} height={ROW} />}
      </div>
    );
  const paths = answer.rows.filter(({ path }) => marked.has(path.join('/'))).map(({ path }) => path);
  return (
    <div className="flex h-full min-h-0 min-w-0 flex-1 flex-col">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-line px-4 py-2 text-sm">
        <label className="flex items-center gap-1.5">
          <span className="text-soft">rows</span>
          <select
            className="bg-transparent font-semibold"
            value={level}
            onChange={({ target }) => {
              const chosen = TableLevels.safeParse(target.value);
              if (chosen.success) setTable({ level: chosen.data });
            }}
          >
            {TableLevels.options.map((one) => (
              <option key={one} value={one}>
                {LEVEL_WORDS[one].toLowerCase()}
              </option>
            ))}
          </select>
        </label>
        <input
          className="field w-44 py-0.5"
          aria-label="a part of the name or the place"
          placeholder="name or place"
          value={find}
          onChange={({ target }) => setFind(target.value)}
        />
        <input
          className="field w-32 py-0.5"
          aria-label="label, as key=value"
          placeholder="label=value"
          value={filter.label}
          onChange={({ target }) => setFilter({ ...filter, label: target.value })}
        />
        <select
          className="bg-transparent"
          aria-label="owner"
          value={filter.owner}
          onChange={({ target }) => setFilter({ ...filter, owner: target.value })}
        >
          <option value="">every owner</option>
          {owners.map((owner) => (
            <option key={owner}>{owner}</option>
          ))}
        </select>
        <select
          className="bg-transparent"
          aria-label="state"
          value={filter.state}
          onChange={({ target }) =>
            setFilter({
              ...filter,
              state: target.value === 'found' ? 'found' : target.value === 'calm' ? 'calm' : 'all',
            })
          }
        >
          <option value="all">every state</option>
          <option value="found">with findings</option>
          <option value="calm">without</option>
        </select>
        <span className="ml-auto flex items-center gap-3">
          <ColumnChooser chosen={columns.map(({ key }) => key)} choose={(next) => setTable({ columns: next })} />
          <button
            type="button"
            className="button-plain"
            onClick={() => save(`${level}s.csv`, 'text/csv', csvOf(rows, columns))}
          >
            CSV
          </button>
          <button
            type="button"
            className="button-plain"
            onClick={() => save(`${level}s.json`, 'application/json', jsonOf(rows, columns))}
          >
            JSON
          </button>
        </span>
      </div>
      {marked.size > 0 && (
        <div role="status" className="flex items-center gap-4 border-b border-line bg-sheet px-4 py-1.5 text-sm">
          <b>{marked.size} marked</b>
          <label className="flex items-center gap-1.5">
            <input type="checkbox" checked={onlyMarked} onChange={({ target }) => setOnlyMarked(target.checked)} />
            only these
          </label>
          {paths.length > 1 && paths.length <= MOST_BESIDE && (
            <Link className="button-plain" to={link('/usage', { beside: paths, show: 'columns' })}>
              side by side
            </Link>
          )}
          {paths.length > MOST_BESIDE && <span className="text-soft">up to {MOST_BESIDE} can be put side by side</span>}
          <button type="button" className="button-plain" onClick={() => setMarked(new Set())}>
            mark none
          </button>
        </div>
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

function save(name: string, type: string, text: string): void {
  const address = URL.createObjectURL(new Blob([text], { type }));
  const anchor = document.createElement('a');
  anchor.href = address;
  anchor.download = name;
  anchor.click();
  URL.revokeObjectURL(address);
}
