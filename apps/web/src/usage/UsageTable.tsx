import { useVirtualizer } from '@tanstack/react-virtual';
import { TableLevel as TableLevels, type TableRow } from '@zetopsis/contract';
import { formatAmount } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../drawing/Diamond.tsx';
import { FailureNote, RowSkeleton } from '../drawing/StateNote.tsx';
import { Strip } from '../drawing/Strip.tsx';
import { COUNTED } from '../drawing/stripModel.ts';
import { useView, viewed } from '../frame/useView.ts';
import { useTableQuery } from '../state/placesApi.ts';
import { ColumnChooser } from './ColumnChooser.tsx';
import { LEVEL_WORDS } from './columnModel.ts';
import {
  columnsOf,
  csvOf,
  FIRST_COLUMNS,
  fits,
  jsonOf,
  sorted,
  type TableColumn,
  type TableFilter,
  total,
} from './tableModel.ts';

const ROW = 30;
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
      (row) => fits(row, filter) && (!onlyMarked || marked.has(row.path.join('/'))),
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
  const mark = (row: TableRow) => {
    const key = row.path.join('/');
    const next = new Set(marked);
    if (!next.delete(key)) next.add(key);
    setMarked(next);
    if (next.size === 0) setOnlyMarked(false);
  };
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
      <Rows
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

interface RowsProps {
  readonly rows: readonly TableRow[];
  readonly columns: readonly TableColumn[];
  readonly by: TableColumn;
  readonly backwards: boolean;
  readonly marked: ReadonlySet<string>;
  readonly mark: (row: TableRow) => void;
  readonly sort: (key: string) => void;
}
const widthOf = ({ key, figure }: TableColumn): string =>
  key === 'name'
    ? 'minmax(190px,1.6fr)'
    : key === 'where' || key === 'state'
      ? 'minmax(150px,1.4fr)'
      : figure
        ? '92px'
        : '104px';

function Rows({ rows, columns, by, backwards, marked, mark, sort }: RowsProps) {
  const { view } = useView();
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
    // before the box is measured, and where nothing can be measured
    initialRect: { width: 1000, height: 600 },
    observeElementRect: (instance, told) => {
      const element = instance.scrollElement as HTMLElement | null; // a div
      if (!element) return undefined;
      const tell = () => told({ width: element.clientWidth, height: element.clientHeight || 600 });
      tell();
      const observer = new ResizeObserver(tell);
      observer.observe(element);
      return () => observer.disconnect();
    },
  });
  useEffect(() => {
    box.current?.scrollTo?.({ top: 0 });
  }, [by, backwards]);
  const template = { gridTemplateColumns: columns.map(widthOf).join(' ') };
  return (
    <div ref={box} className="min-h-0 flex-1 overflow-auto">
      <table className="block min-w-max" aria-label="table of usage" aria-rowcount={rows.length + 2}>
        <thead className="sticky top-0 z-10 block border-b border-structure bg-ground text-xs">
          <tr className="grid" style={template}>
            {columns.map((column) => (
              <th
                key={column.key}
                scope="col"
                aria-sort={
                  column === by ? ((column.figure ? !backwards : backwards) ? 'descending' : 'ascending') : 'none'
                }
                className={clsx('px-2 py-1.5', column.figure ? 'text-right' : 'text-left')}
              >
                <button
                  type="button"
                  className={clsx(
                    'hover:text-petrol',
                    column.figure ? 'text-right' : 'text-left',
                    column === by ? 'font-bold text-ink' : 'font-medium text-soft',
                  )}
                  onClick={() => sort(column.key)}
                >
                  {column.title}
                  {column === by && (backwards ? ' ↑' : ' ↓')}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="block">
          <tr className="grid border-b border-line text-sm" style={template}>
            {columns.map((column, i) => (
              <td key={column.key} className={clsx('px-2 py-1 font-semibold', column.figure && 'text-right')}>
                {i === 0 ? 'in sum' : total(rows, column)}
              </td>
            ))}
          </tr>
        </tbody>
        <tbody className="relative block" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index]!;
            const key = row.path.join('/');
            return (
              <tr
                key={key}
                aria-rowindex={index + 3}
                className={clsx(
                  'absolute inset-x-0 grid items-center border-b border-hair text-sm',
                  marked.has(key) ? 'bg-sheet outline outline-1 -outline-offset-1 outline-petrol' : 'hover:bg-sheet/60',
                  !row.present && 'text-soft',
                )}
                style={{ ...template, height: ROW, transform: `translateY(${start}px)` }}
              >
                {columns.map((column) => (
                  <td
                    key={column.key}
                    className={clsx('truncate px-2', column.figure && 'text-right tabular-nums')}
                    title={column.figure ? undefined : column.text(row)}
                  >
                    <Cell row={row} column={column} marked={marked.has(key)} mark={() => mark(row)} />
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {rows.length === 0 && (
        <p className="px-4 py-4 text-sm text-soft">
          Nothing fits. {view.path.length > 0 && 'The scope above narrows it, too.'}
        </p>
      )}
    </div>
  );
}

function Cell({
  row,
  column,
  marked,
  mark,
}: {
  row: TableRow;
  column: TableColumn;
  marked: boolean;
  mark: () => void;
}) {
  const { link } = useView();
  if (column.key === 'name')
    return (
      <span className="flex items-center gap-1.5">
        <input type="checkbox" aria-label={`mark ${row.name}`} checked={marked} onChange={mark} />
        {row.severity && <Diamond severity={row.severity} size={9} />}
        <Link
          className="truncate hover:text-petrol"
          to={link('/usage', { path: row.path, sheet: true })}
          title={`${row.name}: look only at it`}
        >
          {row.name}
        </Link>
      </span>
    );
  if (column.key === 'cpuTight' || column.key === 'memoryTight')
    return <TightCell row={row} resource={column.key === 'cpuTight' ? 'cpu' : 'memory'} text={column.text(row)} />;
  return column.text(row);
}

function TightCell({ row, resource, text }: { row: TableRow; resource: 'cpu' | 'memory'; text: string }) {
  const figures = row.usage[resource];
  if (figures.limit === null)
    return (
      <span className="text-soft" title="it has no limit">
        –
      </span>
    );
  return (
    <span className="flex items-center justify-end gap-1.5" title={`of ${formatAmount(resource, figures.limit)}`}>
      <span className="w-9 shrink-0">
        <Strip of={COUNTED[resource]} figures={figures} silent />
      </span>
      {text}
    </span>
  );
}
