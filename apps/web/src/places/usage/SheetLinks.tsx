import type { MapAnswer, MapLink, SheetAnswer } from '@zetopsis/contract';
import { formatPercent } from '@zetopsis/core/format';
import { dependants } from '@zetopsis/core/links';
import { useState } from 'react';
import { Link } from 'react-router';
import { linkWords } from '../../drawing/linkWords.ts';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { mapAround } from '../../frame/mapView.ts';
import { useView, viewed } from '../../frame/useView.ts';
import { useMapQuery } from '../../state/mapApi.ts';
import { Section } from './SheetSections.tsx';

/** Whom a workload calls, who calls it, and what hangs on it. */
export function SheetLinks({ sheet }: { sheet: SheetAnswer }) {
  return sheet.level === 'workload' ? <Links sheet={sheet} /> : null;
}
function Links({ sheet }: { sheet: SheetAnswer }) {
  const { view } = useView();
  const { data, error, refetch } = useMapQuery(viewed(view));
  const key = sheet.path.join('/');
  if (data && !data.boxes.some((box) => box.key === key)) return null;
  return (
    <Section title="Links">
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data ? (
        <OfBox answer={data} box={key} />
      ) : (
        <RowSkeleton rows={3} height={18} />
      )}
    </Section>
  );
}

function OfBox({ answer, box }: { answer: MapAnswer; box: string }) {
  const { link } = useView();
  const name = (key: string) => answer.boxes.find((one) => one.key === key)?.name ?? key;
  const callers = answer.links.filter(({ to }) => to === box);
  const called = answer.links.filter(({ from }) => from === box);
  return (
    <>
      <Calls title="called by" links={callers} name={(one) => name(one.from)} />
      <Calls title="calls" links={called} name={(one) => name(one.to)} />
      <Hanging answer={answer} box={box} name={name} />
      <Link className="button-plain text-sm" to={link('/map', { map: mapAround(box) })}>
        on the map
      </Link>
    </>
  );
}
function Calls({ title, links, name }: { title: string; links: readonly MapLink[]; name: (link: MapLink) => string }) {
  const { link } = useView();
  if (links.length === 0) return null;
  return (
    <div className="mb-1 text-sm">
      <p className="text-soft">{title}</p>
      <ul>
        {links.map((one) => (
          <li key={one.key} className="flex gap-2 border-t border-hair">
            <Link className="button-plain" to={link('/map', { map: mapAround(one.key) })}>
              {name(one)}
            </Link>
            <span className="ml-auto text-right">
              {one.state !== null && <b className="text-critical">{one.state} </b>}
              {linkWords(one)}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
const FEW = 6;
/** What would be hit if it went, and what it needs itself. */
function Hanging({ answer, box, name }: { answer: MapAnswer; box: string; name: (key: string) => string }) {
  const [all, setAll] = useState(false);
  const walked = answer.links.map(({ from, to, sent, received }) => ({ from, to, rate: sent ?? received ?? 0 }));
  const parts = (['callers', 'answerers'] as const).map((side) => ({
    side,
    found: dependants(walked, box, side).filter(({ key }) => answer.boxes.some((one) => one.key === key)),
  }));
  return (
    <>
      {parts.map(({ side, found }) =>
        found.length === 0 ? null : (
          <p key={side} className="mb-1 text-sm">
            <span className="text-soft">{side === 'callers' ? 'would be hit if it went: ' : 'it needs: '}</span>
            {(all ? found : found.slice(0, FEW)).map(({ key, depth, share }, i) => (
              <span key={key}>
                {i > 0 && ', '}
                {name(key)}
                <span className="text-soft">
                  {' '}
                  {side === 'callers' ? `${formatPercent(share)} of what it sends` : ''}
                  {depth > 1 && ` ${depth} away`}
                </span>
              </span>
            ))}
            {found.length > FEW && (
              <button type="button" className="button-plain ml-1" onClick={() => setAll(!all)}>
                {all ? 'fewer' : `${found.length - FEW} more`}
              </button>
            )}
          </p>
        ),
      )}
    </>
  );
}
