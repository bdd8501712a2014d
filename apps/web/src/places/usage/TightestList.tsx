import type { NowAnswer } from '@zetopsis/contract';
import { formatAmount, formatPercent } from '@zetopsis/core/format';
import { Link } from 'react-router';
import { pathWords } from '../../drawing/names.ts';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED } from '../../drawing/stripModel.ts';
import { useView } from '../../frame/useView.ts';
import { swingInWords, swingShort } from './columnModel.ts';

/** What was nearest to a limit, each leading to where it stands. */
export function TightestList({ tightest }: { tightest: NowAnswer['tightest'] }) {
  const { view, link } = useView();
  return (
    <>
      {tightest.length === 0 && <p className="text-soft">Nothing with a limit was read in this window.</p>}
      <ul>
        {tightest.map(({ path, resource, row }) => {
          const figures = row.usage[resource];
          return (
            <li key={`${path.join('/')} ${resource}`} className="border-b border-hair py-1.5">
              <Link to={link('/usage', { path, resource, window: view.window })} className="block hover:text-petrol">
                <div className="flex items-baseline gap-2">
                  <span className="truncate">{pathWords(path, 1)}</span>
                  <span className="text-sm text-soft">{resource === 'cpu' ? 'CPU' : 'memory'}</span>
                  {row.pairing !== null && (
                    <span className="text-sm" title={swingInWords(row, resource) ?? undefined}>
                      {swingShort(row, resource)}
                    </span>
                  )}
                  <b className="ml-auto">{formatPercent(figures.tightness)}</b>
                  <span className="w-20 text-right text-sm text-soft">of {formatAmount(resource, figures.limit)}</span>
                </div>
                <Strip of={COUNTED[resource]} figures={figures} against={row.against?.[resource] ?? null} />
              </Link>
            </li>
          );
        })}
      </ul>
    </>
  );
}
