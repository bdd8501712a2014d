import { type By, readScope, readTrait, TableLevel, writeQuery, writeScope } from '@zetopsis/contract';
import { useCallback, useMemo, useRef } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { LOOKED, type Looked } from '../drawing/looked.ts';
import { pastTeam, readableFront } from '../drawing/names.ts';
import { useSessionQuery } from '../state/sessionApi.ts';
import type { Scope, View, WindowArgument } from '../state/viewQuery.ts';
import { type MapView, readMapView, writeMapView } from './mapView.ts';
import { looksAtOwn } from './whose.ts';
import { readShift, readWindow, writeShift, writeWindow } from './windowModel.ts';

const BYS: readonly By[] = ['namespace', 'node', 'team'];

export interface ViewState extends Omit<View, 'whose'> {
  /** Null: as the person's teams and grants have it. */
  readonly whose: Scope['whose'] | null;
  /** How much earlier the window lies that is compared with; null when nothing is compared. */
  readonly shift: number | null;
  /** The level below the clusters. */
  readonly by: By;
  /** What columns show. */
  readonly resource: Looked;
  /** Both windows as mirrored bars, sorted by swing. */
  readonly mirror: boolean;
  readonly sheet: boolean;
  /** Columns to drill down, or a table of one level. */
  readonly show: 'columns' | 'table';
  readonly table: TableState;
  /** Objects that are looked at side by side; empty: one at a time. */
  readonly beside: readonly (readonly string[])[];
  /** Text of the measure that is asked. */
  readonly measure: string;
  /** The key of the saved measure that it came from; empty: of none. */
  readonly saved: string;
  /** How its answer is drawn; empty: as suits it. */
  readonly drawn: string;
  /** Milliseconds between two of its points; null: as suits the window. */
  readonly every: number | null;
  /** On the map: which link is picked, how far from it one looks, how boxes are grouped, which groups are folded. */
  readonly map: MapView;
  /** Put aside to be compared with the next one that is chosen. */
  readonly aside: readonly (readonly string[])[];
}
/** Which rows of a table are shown. */
export interface TableFilter {
  /** "app=tide" or "app": a label with this value, or with any. */
  readonly label: string;
  readonly owner: string;
  readonly state: 'all' | 'found' | 'calm';
}
export interface TableState extends TableFilter {
  /** A part of the name or the place. */
  readonly find: string;
  readonly level: TableLevel;
  /** Empty: those that one begins with. */
  readonly columns: readonly string[];
  readonly sort: string;
  readonly backwards: boolean;
}
const FIRST_TABLE: TableState = {
  level: 'workload',
  columns: [],
  sort: 'cpu',
  backwards: false,
  find: '',
  label: '',
  owner: '',
  state: 'all',
};
const LONGEST_WORDS = 200;
/** An address is no longer than this allows. */
const LONGEST_MEASURE = 4000;
const MOST_BESIDE = 4;
const WORD = /^[a-zA-Z]{1,40}$/;
const KEY = /^[a-zA-Z0-9-]{1,60}$/;

export function readView(search: string): ViewState {
  const parameters = new URLSearchParams(search);
  const clusters = parameters.get('clusters');
  const whose = parameters.get('whose');
  const shift = readShift(parameters.get('against'));
  return {
    path: readableFront(readScope(parameters.get('in') ?? '').slice(0, 5)),
    clusters: clusters !== null && readTrait(clusters) !== null ? clusters : null,
    whose: whose === 'mine' || whose === 'all' ? whose : null,
    window: readWindow(parameters),
    shift,
    by: BYS.find((by) => by === parameters.get('by')) ?? 'namespace',
    resource: LOOKED.find((one) => one === parameters.get('of')) ?? 'cpu',
    mirror: shift !== null && parameters.get('show') === 'mirror',
    sheet: parameters.get('sheet') !== 'closed',
    show: parameters.get('as') === 'table' ? 'table' : 'columns',
    table: readTable(parameters),
    beside: readPaths(parameters.getAll('beside')),
    aside: readPaths(parameters.getAll('aside')),
    measure: (parameters.get('measure') ?? '').slice(0, LONGEST_MEASURE),
    saved: KEY.test(parameters.get('saved') ?? '') ? parameters.get('saved')! : '',
    drawn: WORD.test(parameters.get('drawn') ?? '') ? parameters.get('drawn')! : '',
    every: readEvery(parameters.get('every')),
    map: readMapView(parameters),
  };
}

export function writeView(view: ViewState): string {
  const text = writeQuery({
    in: writeScope(view.path),
    clusters: view.clusters ?? undefined,
    whose: view.whose ?? undefined,
    ...writeWindow(view.window),
    against: view.shift === null ? undefined : writeShift(view.shift),
    by: view.by === 'namespace' ? undefined : view.by,
    of: view.resource === 'cpu' ? undefined : view.resource,
    show: view.mirror && view.shift !== null ? 'mirror' : undefined,
    sheet: view.sheet ? undefined : 'closed',
    as: view.show === 'table' ? 'table' : undefined,
    rows: view.table.level === FIRST_TABLE.level ? undefined : view.table.level,
    columns: view.table.columns.length === 0 ? undefined : view.table.columns.join('.'),
    sort:
      view.table.sort === FIRST_TABLE.sort && !view.table.backwards
        ? undefined
        : `${view.table.backwards ? '-' : ''}${view.table.sort}`,
    find: view.table.find || undefined,
    label: view.table.label || undefined,
    owner: view.table.owner || undefined,
    state: view.table.state === 'all' ? undefined : view.table.state,
    measure: view.measure || undefined,
    saved: view.saved || undefined,
    drawn: view.drawn || undefined,
    every: view.every === null ? undefined : String(view.every),
    ...writeMapView(view.map),
  });
  const all = [
    text,
    ...view.beside.map((path) => writeQuery({ beside: writeScope(path) })),
    ...view.aside.map((path) => writeQuery({ aside: writeScope(path) })),
  ].filter((part) => part !== '');
  return all.length === 0 ? '' : `?${all.join('&')}`;
}

const readEvery = (text: string | null): number | null => {
  const every = Number(text ?? Number.NaN);
  return Number.isSafeInteger(every) && every >= 1000 && every <= 32 * 86_400_000 ? every : null;
};
const readPaths = (texts: readonly string[]): (readonly string[])[] =>
  texts
    .slice(0, MOST_BESIDE)
    .map((text) => readableFront(readScope(text).slice(0, 5)))
    .filter((path) => path.length > 0);

function readTable(parameters: URLSearchParams): TableState {
  const level = TableLevel.safeParse(parameters.get('rows'));
  const sort = /^(-?)([a-zA-Z]{1,40})$/.exec(parameters.get('sort') ?? '');
  const words = (key: string) => (parameters.get(key) ?? '').slice(0, LONGEST_WORDS);
  const state = parameters.get('state');
  return {
    level: level.success ? level.data : FIRST_TABLE.level,
    columns: (parameters.get('columns') ?? '').split('.').filter((key) => WORD.test(key)),
    sort: sort?.[2] ?? FIRST_TABLE.sort,
    backwards: sort?.[1] === '-',
    find: words('find'),
    label: words('label'),
    owner: words('owner'),
    state: state === 'found' || state === 'calm' ? state : 'all',
  };
}

/** What of a view a question to the server needs: one entry in the cache, whatever else the address says. */
export const queried = ({ path, clusters, whose, window, shift }: ViewState & { whose: Scope['whose'] }) => ({
  path,
  clusters,
  whose,
  window,
  shift,
});

/** As `queried`, for what is never compared. */
export const viewed = ({ path, clusters, whose, window }: ViewState & { whose: Scope['whose'] }) => ({
  path,
  clusters,
  whose,
  window,
});

/** Scope, window and what is shown of it live in the address and stay when the person changes places. */
export function useView() {
  const { search, pathname } = useLocation();
  const navigate = useNavigate();
  const { data: session } = useSessionQuery();
  const own = looksAtOwn(session);
  const asked = useMemo(() => readView(search), [search]);
  const view = useMemo(() => ({ ...asked, whose: asked.whose ?? (own ? ('mine' as const) : 'all') }), [asked, own]);
  // the callbacks stay the same while the address changes: they look it up when they are called
  const latest = useRef(search);
  latest.current = search;
  const change = useCallback(
    (part: Partial<ViewState>, options: { place?: string; replace?: boolean } = {}) =>
      navigate(
        {
          pathname: options.place ?? pathname,
          search: writeView({
            ...readView(latest.current),
            ...part,
            ...(part.path ? { path: pastTeam(part.path) } : {}),
          }),
        },
        { replace: options.replace ?? false },
      ),
    [navigate, pathname],
  );
  const setWindow = useCallback((next: WindowArgument) => change({ window: next }), [change]);
  const link = useCallback(
    (place: string, part: Partial<ViewState> = {}) => `${place}${writeView({ ...asked, ...part })}`,
    [asked],
  );
  return { view, change, setWindow, link };
}
