import { type By, readScope, readTrait, writeQuery, writeScope } from '@zetopsis/contract';
import { useCallback, useMemo, useRef } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { pastTeam } from '../drawing/names.ts';
import type { Scope, View, WindowArgument } from '../state/placesApi.ts';
import { useSessionQuery } from '../state/sessionApi.ts';
import { looksAtOwn } from './whose.ts';
import { readShift, readWindow, writeShift, writeWindow } from './windowModel.ts';

const BYS: readonly By[] = ['namespace', 'node', 'team'];
export type ResourceChoice = 'cpu' | 'memory';

export interface ViewState extends Omit<View, 'whose'> {
  /** Null: as the person's teams and grants have it. */
  readonly whose: Scope['whose'] | null;
  /** How much earlier the window lies that is compared with; null when nothing is compared. */
  readonly shift: number | null;
  /** The level below the clusters. */
  readonly by: By;
  readonly resource: ResourceChoice;
  /** Both windows as mirrored bars, sorted by swing. */
  readonly mirror: boolean;
  readonly sheet: boolean;
}

export function readView(search: string): ViewState {
  const parameters = new URLSearchParams(search);
  const clusters = parameters.get('clusters');
  const whose = parameters.get('whose');
  const shift = readShift(parameters.get('against'));
  return {
    path: readScope(parameters.get('in') ?? '').slice(0, 5),
    clusters: clusters !== null && readTrait(clusters) !== null ? clusters : null,
    whose: whose === 'mine' || whose === 'all' ? whose : null,
    window: readWindow(parameters),
    shift,
    by: BYS.find((by) => by === parameters.get('by')) ?? 'namespace',
    resource: parameters.get('of') === 'memory' ? 'memory' : 'cpu',
    mirror: shift !== null && parameters.get('show') === 'mirror',
    sheet: parameters.get('sheet') !== 'closed',
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
    of: view.resource === 'memory' ? 'memory' : undefined,
    show: view.mirror && view.shift !== null ? 'mirror' : undefined,
    sheet: view.sheet ? undefined : 'closed',
  });
  return text === '' ? '' : `?${text}`;
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
