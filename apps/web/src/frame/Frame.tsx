import { formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { Suspense, useState } from 'react';
import { NavLink, Outlet, useLocation } from 'react-router';
import { useNowQuery } from '../state/nowApi.ts';
import { useLive } from '../state/store.ts';
import { useLiveNews } from '../state/useLiveNews.ts';
import { GoTo } from './GoTo.tsx';
import { KeyHelp } from './KeyHelp.tsx';
import { PastSign } from './PastSign.tsx';
import { PersonMenu } from './PersonMenu.tsx';
import { PLACES } from './places.ts';
import { ScopeLine } from './ScopeLine.tsx';
import { Tape } from './Tape.tsx';
import { useFrameKeys } from './useFrameKeys.ts';
import { useNow } from './useNow.ts';
import { useView } from './useView.ts';

/** Header, scope line, the place itself, tape. */
export function Frame() {
  useLiveNews();
  const [layer, setLayer] = useState<'keys' | 'find' | null>(null);
  useFrameKeys(setLayer);
  const { pathname } = useLocation();
  // elsewhere neither a scope nor a time would change anything
  const timed = PLACES.some((place) => place.timed && (pathname === '/' || pathname.startsWith(place.path)));
  return (
    <div
      className={clsx(
        'grid h-full',
        timed ? 'grid-rows-[44px_36px_minmax(0,1fr)_72px]' : 'grid-rows-[44px_minmax(0,1fr)]',
      )}
    >
      <Header open={setLayer} />
      {timed && (
        <div className="flex min-w-0 border-b border-line">
          <ScopeLine />
          <PastSign />
        </div>
      )}
      <main className="relative min-h-0 overflow-hidden" id="place">
        <Suspense fallback={<p className="p-5 text-soft">loading</p>}>
          <Outlet />
        </Suspense>
      </main>
      {timed && <Tape />}
      <KeyHelp open={layer === 'keys'} close={() => setLayer(null)} />
      <GoTo open={layer === 'find'} close={() => setLayer(null)} />
    </div>
  );
}

function Header({ open }: { open: (layer: 'keys' | 'find') => void }) {
  const { view, link } = useView();
  // open alerts are counted wherever they are: the scope must not hide that something needs somebody
  const { data } = useNowQuery({ path: [], clusters: null, whose: 'all', window: view.window, shift: null });
  const { lostSince } = useLive();
  const now = useNow();
  const alerts = data?.alerts.length ?? 0;
  return (
    <header className="flex items-stretch border-b border-line bg-sheet px-4">
      <span className="mr-6 flex items-center gap-2 text-lg font-bold">
        <svg width="22" height="18" viewBox="0 0 22 18" aria-hidden="true">
          <rect x=".5" y="4.5" width="21" height="9" fill="none" stroke="var(--ink)" />
          <rect x="1" y="5" width="12" height="8" fill="var(--fill-3)" />
          <path d="M17 1v16" stroke="var(--critical)" strokeWidth="2" />
        </svg>
        Zetopsis
      </span>
      <nav aria-label="places" className="flex">
        {PLACES.map(({ path, name }, i) => (
          <NavLink
            key={path}
            to={link(path)}
            title={`${name} (key ${i + 1})`}
            className={({ isActive }) =>
              clsx(
                'flex items-center border-b-[3px] px-3 pt-[3px]',
                isActive ? 'border-ink font-bold' : 'border-transparent font-medium text-soft hover:text-ink',
              )
            }
          >
            {name}
            {path === '/now' && alerts > 0 && (
              <sup className="ml-0.5 text-[11px] font-bold text-critical">
                {alerts}
                <span className="sr-only"> open alerts</span>
              </sup>
            )}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex items-center gap-4 text-sm">
        <span role="status" className="text-critical">
          {lostSince === null ? '' : `no news from the server for ${formatDuration(now - lostSince)}`}
        </span>
        <button
          type="button"
          className="flex w-52 items-center justify-between border border-line px-2.5 py-1 text-soft hover:border-structure hover:text-ink"
          onClick={() => open('find')}
          title="go to anything (key /, or Ctrl and k)"
        >
          go to anything <kbd className="font-mono text-xs">/</kbd>
        </button>
        <button
          type="button"
          className="text-soft hover:text-ink"
          onClick={() => open('keys')}
          title="all keys (key ?)"
        >
          keys
        </button>
        <PersonMenu />
      </div>
    </header>
  );
}
