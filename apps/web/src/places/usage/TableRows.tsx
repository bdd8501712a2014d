import { useVirtualizer } from '@tanstack/react-virtual';
import type { TableRow } from '@zetopsis/contract';
import { formatAmount } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { memo, useEffect, useMemo, useRef } from 'react';
import { Link } from 'react-router';
import { CutName } from '../../drawing/CutName.tsx';
import { Diamond } from '../../drawing/Diamond.tsx';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED } from '../../drawing/stripModel.ts';
import { useView } from '../../frame/useView.ts';
import { type TableColumn, total } from './tableModel.ts';

/** Height of a row, in pixels. */
export const ROW = 30;

interface RowsProps {
  readonly rows: readonly TableRow[];
  readonly columns: readonly TableColumn[];
  readonly by: TableColumn;
  readonly backwards: boolean;
  readonly marked: ReadonlySet<string>;
  readonly mark: (key: string) => void;
  readonly sort: (key: string) => void;
}
/** Of the box before it is measured, and where nothing can be measured. */
const UNMEASURED = { width: 1000, height: 600 };
function observed(
  { scrollElement }: { readonly scrollElement: HTMLDivElement | null },
  told: (size: typeof UNMEASURED) => void,
): (() => void) | undefined {
  if (!scrollElement) return undefined;
  const tell = () =>
    told({ width: scrollElement.clientWidth, height: scrollElement.clientHeight || UNMEASURED.height });
  tell();
  const observer = new ResizeObserver(tell);
  observer.observe(scrollElement);
  return () => observer.disconnect();
}
const widthOf = ({ key, figure }: TableColumn): string =>
  key === 'name'
    ? 'minmax(190px,1.6fr)'
    : key === 'where' || key === 'state'
      ? 'minmax(150px,1.4fr)'
      : figure
        ? '92px'
        : '104px';

function Heads({
  columns,
  by,
  backwards,
  sort,
  template,
}: Pick<RowsProps, 'columns' | 'by' | 'backwards' | 'sort'> & { template: LineProps['template'] }) {
  return (
    <thead className="sticky top-0 z-10 block border-b border-structure bg-ground text-xs">
      <tr className="grid" style={template}>
        {columns.map((column) => (
          <th
            key={column.key}
            scope="col"
            aria-sort={column === by ? ((column.figure ? !backwards : backwards) ? 'descending' : 'ascending') : 'none'}
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
  );
}

export function TableRows({ rows, columns, by, backwards, marked, mark, sort }: RowsProps) {
  const { view, link } = useView();
  const box = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 6,
    // what is new in sight may wait for the next frame
    useFlushSync: false,
    initialRect: UNMEASURED,
    observeElementRect: observed,
  });
  useEffect(() => {
    box.current?.scrollTo?.({ top: 0 });
  }, [by, backwards]);
  const template = useMemo(() => ({ gridTemplateColumns: columns.map(widthOf).join(' ') }), [columns]);
  const sums = useMemo(() => columns.map((column) => total(rows, column)), [rows, columns]);
  return (
    <div ref={box} className="min-h-0 flex-1 overflow-auto">
      <table className="block min-w-max" aria-label="table of usage" aria-rowcount={rows.length + 2}>
        <Heads columns={columns} by={by} backwards={backwards} sort={sort} template={template} />
        <tbody className="block">
          <tr className="grid border-b border-line text-sm" style={template}>
            {columns.map((column, i) => (
              <td key={column.key} className={clsx('px-2 py-1 font-semibold', column.figure && 'text-right')}>
                {i === 0 ? 'in sum' : sums[i]}
              </td>
            ))}
          </tr>
        </tbody>
        <tbody className="relative block" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index]!;
            const key = row.path.join('/');
            return (
              <Line
                key={key}
                row={row}
                id={key}
                index={index}
                start={start}
                columns={columns}
                template={template}
                marked={marked.has(key)}
                mark={mark}
                link={link}
              />
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

interface LineProps {
  readonly row: TableRow;
  readonly id: string;
  readonly index: number;
  /** How far down, in pixels. */
  readonly start: number;
  readonly columns: readonly TableColumn[];
  readonly template: { readonly gridTemplateColumns: string };
  readonly marked: boolean;
  readonly mark: (key: string) => void;
  readonly link: (place: string, part: { path: string[]; sheet: boolean }) => string;
}

/** Of a long table only what is new in sight is drawn anew. */
const Line = memo(function Line({ row, id, index, start, columns, template, marked, mark, link }: LineProps) {
  return (
    <tr
      aria-rowindex={index + 3}
      className={clsx(
        'absolute inset-x-0 grid items-center border-b border-hair text-sm',
        marked ? 'bg-sheet outline outline-1 -outline-offset-1 outline-petrol' : 'hover:bg-sheet/60',
        !row.present && 'text-soft',
      )}
      style={{ ...template, height: ROW, top: start }}
    >
      {columns.map((column) => {
        const text = column.text(row);
        return (
          <td
            key={column.key}
            className={clsx('truncate px-2', column.figure && 'text-right tabular-nums')}
            title={column.figure ? undefined : text}
          >
            {column.key === 'name' ? (
              <span className="flex items-center gap-1.5">
                <input type="checkbox" aria-label={`mark ${row.name}`} checked={marked} onChange={() => mark(id)} />
                {row.severity && <Diamond severity={row.severity} size={9} />}
                <Link
                  className="flex min-w-0 hover:text-petrol"
                  aria-label={row.name}
                  to={link('/usage', { path: row.path, sheet: true })}
                  title={`${row.name}: look only at it`}
                >
                  <CutName name={row.name} />
                </Link>
              </span>
            ) : column.key === 'cpuTight' || column.key === 'memoryTight' ? (
              <TightCell row={row} resource={column.key === 'cpuTight' ? 'cpu' : 'memory'} text={text} />
            ) : (
              text
            )}
          </td>
        );
      })}
    </tr>
  );
});

function TightCell({ row, resource, text }: { row: TableRow; resource: 'cpu' | 'memory'; text: string }) {
  const figures = row.usage[resource];
  if (figures.limit === null) return <span className="text-soft">no limit</span>;
  return (
    <span className="flex items-center justify-end gap-1.5" title={`of ${formatAmount(resource, figures.limit)}`}>
      <span className="w-9 shrink-0">
        <Strip of={COUNTED[resource]} figures={figures} silent />
      </span>
      {text}
    </span>
  );
}
