import { clsx } from 'clsx';
import { Link } from 'react-router';
import { lastName, pathWords } from '../../drawing/names.ts';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED } from '../../drawing/stripModel.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useObjectQuery } from '../../state/usageApi.ts';
import { Findings } from './ObjectSheet.tsx';
import { Strata } from './Strata.tsx';
import { isMeasured } from './sheetModel.ts';

/** Several objects next to each other over the same window: the same workload in two clusters, the old node and the new. */
export function Beside() {
  const { view, change } = useView();
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex items-center gap-3 border-b border-line px-4 py-1.5 text-sm">
        <b>side by side</b>
        <span className="text-soft">the same window for all; strips and charts are each against their own limit</span>
        <button type="button" className="button-plain ml-auto" onClick={() => void change({ beside: [] })}>
          back to the columns
        </button>
      </div>
      <div
        className="grid min-h-0 flex-1 overflow-auto"
        style={{ gridTemplateColumns: `repeat(${view.beside.length}, minmax(300px, 1fr))` }}
      >
        {view.beside.map((path) => (
          <One key={path.join('/')} path={path} />
        ))}
      </div>
    </div>
  );
}

function One({ path }: { path: readonly string[] }) {
  const { view, change, link } = useView();
  const { data, error, refetch } = useObjectQuery({ ...queried(view), path });
  const rest = view.beside.filter((other) => other.join('/') !== path.join('/'));
  const name = lastName(path);
  return (
    <article aria-label={name} className="border-r border-line bg-sheet">
      <header className="border-b border-line px-4 py-2.5">
        <p className="text-xs text-soft">{pathWords(path.slice(0, -1))}</p>
        <h2 className="flex items-baseline gap-2 text-lg break-all">
          <Link className="hover:text-petrol" to={link('/usage', { path: [...path], beside: [], sheet: true })}>
            {name}
          </Link>
          <button
            type="button"
            className={clsx('button-plain ml-auto shrink-0 text-sm', rest.length === 0 && 'hidden')}
            aria-label={`take ${name} away`}
            onClick={() => void change({ beside: rest })}
          >
            take away
          </button>
        </h2>
      </header>
      {data ? (
        <>
          <div className="min-h-16 border-b border-line px-4 py-2">
            <Findings sheet={data} />
          </div>
          {isMeasured(data) && (
            <div className="border-b border-line px-4 py-2">
              {(['cpu', 'memory'] as const).map((resource) => (
                <div key={resource} className="grid grid-cols-[60px_1fr] items-start gap-2 py-0.5 text-xs">
                  <span className="text-soft">{resource === 'cpu' ? 'CPU' : 'memory'}</span>
                  <Strip
                    of={COUNTED[resource]}
                    figures={data.usage[resource]}
                    against={data.against?.[resource] ?? null}
                    height={28}
                  />
                </div>
              ))}
            </div>
          )}
          <Strata sheet={data} />
        </>
      ) : error ? (
        <div className="px-4">
          <FailureNote error={error} retry={() => void refetch()} />
        </div>
      ) : (
        <RowSkeleton rows={6} height={80} />
      )}
    </article>
  );
}
