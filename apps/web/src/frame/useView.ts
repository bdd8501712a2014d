import { readScope, writeQuery, writeScope } from '@zetopsis/contract';
import { useCallback, useMemo, useRef } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { View, WindowArgument } from '../state/placesApi.ts';
import { readWindow, writeWindow } from './windowModel.ts';

export type ResourceChoice = 'cpu' | 'memory';

export interface ViewState extends View {
  readonly resource: ResourceChoice;
  readonly sheet: boolean;
}

export function readView(search: string): ViewState {
  const parameters = new URLSearchParams(search);
  return {
    path: readScope(parameters.get('in') ?? '').slice(0, 5),
    window: readWindow(parameters),
    resource: parameters.get('of') === 'memory' ? 'memory' : 'cpu',
    sheet: parameters.get('sheet') !== 'closed',
  };
}

export function writeView(view: ViewState): string {
  const text = writeQuery({
    in: writeScope(view.path),
    ...writeWindow(view.window),
    of: view.resource === 'memory' ? 'memory' : undefined,
    sheet: view.sheet ? undefined : 'closed',
  });
  return text === '' ? '' : `?${text}`;
}

/** Scope, window and what is shown of it live in the address and stay when the person changes places. */
export function useView() {
  const { search, pathname } = useLocation();
  const navigate = useNavigate();
  const view = useMemo(() => readView(search), [search]);
  // the callbacks stay the same while the address changes: they look it up when they are called
  const latest = useRef(search);
  latest.current = search;
  const change = useCallback(
    (part: Partial<ViewState>, options: { place?: string; replace?: boolean } = {}) =>
      navigate(
        { pathname: options.place ?? pathname, search: writeView({ ...readView(latest.current), ...part }) },
        { replace: options.replace ?? false },
      ),
    [navigate, pathname],
  );
  const setWindow = useCallback((next: WindowArgument) => change({ window: next }), [change]);
  const link = useCallback(
    (place: string, part: Partial<ViewState> = {}) => `${place}${writeView({ ...view, ...part })}`,
    [view],
  );
  return { view, change, setWindow, link };
}
