import type { By, UsageRow } from '@zetopsis/contract';
import { useEffect } from 'react';
import { typing } from '../../frame/useFrameKeys.ts';
import type { useView, ViewState } from '../../frame/useView.ts';
import { movePath } from './columnModel.ts';

/** Where one types a part of a name, in the last column that has it. */
const lastFind = () => [...document.querySelectorAll<HTMLInputElement>('input[data-find]')].at(-1);

const NEXT_BY: Record<By, By> = { namespace: 'node', node: 'team', team: 'namespace' };
const KEYS: Record<string, 'up' | 'down' | 'left' | 'right'> = {
  ArrowUp: 'up',
  k: 'up',
  ArrowDown: 'down',
  j: 'down',
  ArrowLeft: 'left',
  h: 'left',
  ArrowRight: 'right',
  l: 'right',
};

interface Keyed {
  readonly view: ViewState;
  readonly by: By;
  /** Rows of each column, as they stand. */
  readonly sorted: readonly (readonly UsageRow[])[];
  readonly change: ReturnType<typeof useView>['change'];
  readonly setBy: (by: By) => void;
}
/** What a key does among columns and the table; undefined: nothing. */
function actOf(event: KeyboardEvent, { view, by, sorted, change, setBy }: Keyed): (() => unknown) | undefined {
  const { path, resource, shift, mirror, show } = view;
  const move = show === 'table' ? undefined : KEYS[event.key];
  if (move)
    return () => {
      const next = movePath(path, sorted, move);
      return next && change({ path: next }, { replace: move === 'up' || move === 'down' });
    };
  switch (event.key) {
    case 't':
      return () => change({ show: show === 'table' ? 'columns' : 'table' });
    case 'Enter':
      return path.length > 0 && !(event.target as HTMLElement).closest('a, button, select')
        ? () => change({ sheet: true })
        : undefined;
    case 'Escape':
      return () => change({ sheet: false });
    case 'm':
      return () => change({ resource: resource === 'cpu' ? 'memory' : 'cpu' }, { replace: true });
    case 'n':
      return path.length > 0 ? () => setBy(NEXT_BY[by]) : undefined;
    case 'f':
      return () => lastFind()?.focus();
    case 'v':
      return shift === null ? undefined : () => change({ mirror: !mirror }, { replace: true });
    default:
      return undefined;
  }
}
export function useUsageKeys(keyed: Keyed): void {
  const { view, by, sorted, change, setBy } = keyed;
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (typing(event) || view.beside.length > 0) return;
      const act = actOf(event, { view, by, sorted, change, setBy });
      if (!act) return;
      event.preventDefault();
      void act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [view, by, sorted, change, setBy]);
}
