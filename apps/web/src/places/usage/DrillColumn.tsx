import type { By, UsageColumn, UsageRow } from '@zetopsis/contract';
import { clsx } from 'clsx';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { LOOKED, LOOKED_WORDS, type Looked } from '../../drawing/looked.ts';
import { isNobodys } from '../../drawing/rows.ts';
import { LEVEL_WORDS, SORT_WORDS, type SortBy, sortsFor } from './columnModel.ts';
import { DrillRow, factsOf, ROW } from './DrillRow.tsx';

const NO_CUTS: readonly number[] = [];
/** Longer columns are drawn only around what is in sight. */
const DRAWN_WHOLE = 120;
const AROUND = 6;
const FIRST_HEIGHT = 900;
/** From so many rows on one may type a part of a name. */
const FOUND_FROM = 8;
const STRIP_AT = 30;
const isBy = (value: string): value is By => value === 'namespace' || value === 'node' || value === 'team';

interface Props {
  readonly column: UsageColumn;
  readonly rows: readonly UsageRow[];
  readonly index: number;
  readonly path: readonly string[];
  readonly resource: Looked;
  readonly sort: SortBy;
  readonly narrow: boolean;
  readonly cuts: readonly number[];
  readonly nextRows: number;
  readonly active: boolean;
  readonly choose: (path: string[]) => void;
  readonly setResource: (resource: Looked) => void;
  readonly setSort: (sort: SortBy) => void;
  /** The rows do not tell of it yet. */
  readonly awaited: boolean;
  readonly comparing: boolean;
  readonly mirror: boolean;
  /** Chooses what stands below the clusters. */
  readonly setBy: (by: By) => void;
}

/** One level of the drill path: rows with their strips; the chosen row's strip is cut into the next column's shares. */
export const DrillColumn = memo(function DrillColumn(props: Props) {
  const { column, rows, index, path, resource, narrow } = props;
  const [scrolled, setScrolled] = useState(0);
  const [height, setHeight] = useState(FIRST_HEIGHT);
  const [find, setFind] = useState('');
  const list = useRef<HTMLDivElement>(null);
  const chosen = path[index];
  const wanted = find.trim().toLowerCase();
  const fitting = useMemo(
    () =>
      wanted === '' ? rows : rows.filter(({ name, key }) => name.toLowerCase().includes(wanted) || key === chosen),
    [rows, wanted, chosen],
  );
  const facts = useMemo(() => factsOf(rows, resource), [rows, resource]);
  const parent = useMemo(() => path.slice(0, index), [path, index]);
  const at = useMemo(() => fitting.findIndex((row) => row.key === chosen), [fitting, chosen]);
  // a short column is drawn whole; of a long one what is near
  const long = fitting.length > DRAWN_WHOLE;
  const first = long ? Math.max(0, Math.floor(scrolled / ROW) - AROUND) : 0;
  const last = long ? Math.min(fitting.length, Math.ceil((scrolled + height) / ROW) + AROUND) : fitting.length;

  useEffect(() => {
    const box = list.current;
    if (at < 0 || !box) return;
    if (long) {
      // the row may not be drawn yet: its place is known
      if (at * ROW < box.scrollTop) box.scrollTop = at * ROW;
      else if ((at + 1) * ROW > box.scrollTop + box.clientHeight) box.scrollTop = (at + 1) * ROW - box.clientHeight;
    } else box.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [at, long]);

  return (
    <section
      className={clsx(
        'relative flex flex-col border-r border-line',
        narrow ? 'w-[132px] shrink-0' : 'w-0 min-w-[196px] max-w-[300px] flex-1',
      )}
      aria-label={LEVEL_WORDS[column.level]}
    >
      <ColumnHead {...props} find={find} setFind={setFind} />
      <div
        ref={list}
        className="min-h-0 flex-1 overflow-y-auto"
        onScroll={(event) => {
          setScrolled(event.currentTarget.scrollTop);
          setHeight(event.currentTarget.clientHeight);
        }}
      >
        {fitting.length === 0 && (
          <p className="px-3 py-3 text-sm text-soft">
            {wanted === ''
              ? 'Nothing of this kind was there in this window.'
              : `Nothing here is called “${find.trim()}”.`}
          </p>
        )}
        {/* a list is one only with something in it; what is said beside it stands outside */}
        <div {...(fitting.length > 0 ? { role: 'listbox', 'aria-label': LEVEL_WORDS[column.level] } : {})}>
          {first > 0 && <div style={{ height: first * ROW }} aria-hidden="true" />}
          {fitting.slice(first, last).map((row, i) => (
            <DrillRow
              key={row.key}
              row={row}
              level={column.level}
              facts={facts}
              parent={parent}
              chosen={row.key === chosen}
              tabbable={at >= first && at < last ? row.key === chosen : i === 0}
              resource={resource}
              narrow={narrow}
              cuts={row.key === chosen ? props.cuts : NO_CUTS}
              active={props.active}
              awaited={props.awaited}
              comparing={props.comparing}
              mirror={props.mirror}
              choose={props.choose}
            />
          ))}
          {last < fitting.length && <div style={{ height: (fitting.length - last) * ROW }} aria-hidden="true" />}
        </div>
        {column.left > 0 && (
          <p className="px-3 py-2 text-sm text-soft">{column.left} more are not shown. Narrow the scope above.</p>
        )}
      </div>
      {at >= 0 && props.nextRows > 0 && (
        <Leaders y={at * ROW - scrolled + STRIP_AT} rows={props.nextRows} resource={resource} />
      )}
    </section>
  );
});

const ColumnHead = memo(function ColumnHead(props: Props & { find: string; setFind: (find: string) => void }) {
  const { column, rows, index, resource, sort, setResource, setSort, narrow, comparing } = props;
  const objects = rows.filter((row) => !isNobodys(row)).length;
  return (
    <div className="h-[62px] border-b border-line px-3 py-2">
      <div className="flex items-baseline justify-between gap-2 text-sm">
        <h2 className="font-bold">
          {index === 1 && isBy(column.level) ? (
            <select
              aria-label="below the clusters"
              title="namespaces, nodes or teams (key n)"
              className="[field-sizing:content] bg-transparent font-bold"
              value={column.level}
              onChange={(event) => isBy(event.target.value) && props.setBy(event.target.value)}
            >
              <option value="namespace">{LEVEL_WORDS.namespace}</option>
              <option value="node">{LEVEL_WORDS.node}</option>
              <option value="team">{LEVEL_WORDS.team}</option>
            </select>
          ) : (
            LEVEL_WORDS[column.level]
          )}
        </h2>
        {index === 0 ? (
          <select
            aria-label="resource"
            className={clsx('[field-sizing:content] bg-transparent text-soft', narrow && 'max-w-[64px]')}
            title={`${LOOKED_WORDS[resource]}: what the strips show (key m: CPU or memory)`}
            value={resource}
            onChange={(event) => setResource(LOOKED.find((one) => one === event.target.value) ?? 'cpu')}
          >
            {LOOKED.map((one) => (
              <option key={one} value={one}>
                {narrow && one === 'cpu' ? 'CPU' : LOOKED_WORDS[one]}
              </option>
            ))}
          </select>
        ) : narrow ? (
          <span className="text-soft">{objects}</span>
        ) : (
          <span className="whitespace-nowrap text-soft">
            {objects} ·{' '}
            <select
              aria-label={`order of ${LEVEL_WORDS[column.level]}`}
              title="tightness: how near to its limit something was for 95 % of the window"
              className="[field-sizing:content] bg-transparent"
              value={sort}
              onChange={(event) => setSort(sortsFor(comparing).find((by) => by === event.target.value) ?? 'tightness')}
            >
              {sortsFor(comparing).map((by) => (
                <option key={by} value={by}>
                  {SORT_WORDS[by]}
                </option>
              ))}
            </select>
          </span>
        )}
      </div>
      {rows.length > FOUND_FROM && !narrow ? (
        <input
          className="mt-0.5 w-full border-b border-dashed border-structure bg-transparent text-xs outline-none placeholder:text-soft focus:border-petrol"
          aria-label={`find in ${LEVEL_WORDS[column.level]}`}
          data-find={index}
          placeholder={column.summary}
          title={column.summary}
          value={props.find}
          onChange={({ target }) => props.setFind(target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') {
              props.setFind('');
              event.currentTarget.blur();
            }
          }}
        />
      ) : (
        <p className="mt-0.5 truncate text-xs text-soft" title={column.summary}>
          {column.summary}
        </p>
      )}
    </div>
  );
});

const LEADERS_MOST = 40;

/** Fine lines from the chosen strip to the rows it is cut into. */
function Leaders({ y, rows, resource }: { y: number; rows: number; resource: Looked }) {
  const lines = Array.from({ length: Math.min(rows, LEADERS_MOST) }, (_, row) => row * ROW + STRIP_AT);
  return (
    <svg
      key={resource}
      className="pointer-events-none absolute top-[62px] -right-[13px] z-10 h-[calc(100%-62px)] w-[26px] overflow-hidden"
      aria-hidden="true"
    >
      {lines.map((to) => (
        <path
          key={to}
          d={`M1 ${y}C10 ${y} 12 ${to} 25 ${to}`}
          fill="none"
          stroke="var(--structure)"
          strokeWidth="0.8"
        />
      ))}
    </svg>
  );
}
