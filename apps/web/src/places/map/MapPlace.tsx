import type { MapAnswer } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { csvOfRows } from '../../drawing/csv.ts';
import { linkWords, SIDE_WORDS } from '../../drawing/linkWords.ts';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { saveFile } from '../../drawing/saveFile.ts';
import { LANES, type MapView } from '../../frame/mapView.ts';
import { typing } from '../../frame/useFrameKeys.ts';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { useMapQuery } from '../../state/mapApi.ts';
import { LinkSheet } from './LinkSheet.tsx';
import { MapDrawing } from './MapDrawing.tsx';
import { MapTable } from './MapTable.tsx';
import { drawnMap, lookedAt } from './mapModel.ts';

/** A minute is told once. */
const AGAIN = 15_000;

/** Who talks to whom, and which link is in trouble? */
export function MapPlace() {
  const { view } = useView();
  const { data, error, refetch } = useMapQuery(queried(view), { pollingInterval: AGAIN });
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={40} />}
      </div>
    );
  if (data.nothing !== null)
    return (
      <div className="p-5">
        <StateNote title="No link is known at this moment">
          <p>{data.nothing}</p>
        </StateNote>
      </div>
    );
  return <WholeMap answer={data} />;
}

function WholeMap({ answer }: { answer: MapAnswer }) {
  const { view, change, link: address } = useView();
  const navigate = useNavigate();
  const [find, setFind] = useState('');
  const svg = useRef<SVGSVGElement>(null);
  const { map } = view;
  const set = (part: Partial<MapView>) => void change({ map: { ...map, ...part } });
  const drawn = useMemo(() => drawnMap(answer, map, view.path), [answer, map, view.path]);
  const picked = answer.links.find(({ key }) => key === map.link);
  const seen = lookedAt(answer, map, view.path);
  const links = answer.links.filter(({ from, to }) => seen.has(from) && seen.has(to));
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === 'Escape' && !typing(event) && map.link !== '') set({ link: '' });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  const found = answer.boxes.filter(
    ({ name }) => find.trim() !== '' && name.toLowerCase().includes(find.trim().toLowerCase()),
  );
  return (
    <div className="flex h-full min-h-0">
      <Troubles answer={answer} picked={map.link} pick={(key) => set({ link: key })} />
      <div className="flex min-w-0 flex-1 flex-col">
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-4 py-1.5 text-sm">
          <span className="flex gap-2">
            {(['columns', 'table'] as const).map((show) => (
              <button
                key={show}
                type="button"
                aria-pressed={view.show === show}
                className={clsx('button-plain', view.show === show && 'font-semibold')}
                onClick={() => void change({ show })}
              >
                {show === 'table' ? 'table' : 'drawing'}
              </button>
            ))}
          </span>
          <label className="flex items-center gap-1 text-soft">
            links away
            <select
              className="field w-auto py-0"
              value={String(map.away)}
              onChange={({ target }) => set({ away: Number(target.value) })}
            >
              {[1, 2, 3, 0].map((away) => (
                <option key={away} value={away}>
                  {away === 0 ? 'all' : away}
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-1 text-soft">
            in lanes by
            <select
              className="field w-auto py-0"
              value={map.lanes}
              onChange={({ target }) =>
                set({ lanes: LANES.find((one) => one === target.value) ?? 'namespace', folded: [] })
              }
            >
              {LANES.map((one) => (
                <option key={one}>{one}</option>
              ))}
            </select>
          </label>
          <button
            type="button"
            className="button-plain"
            onClick={() => set({ folded: map.folded.length > 0 ? [] : drawn.lanes.map(({ name }) => name) })}
          >
            {map.folded.length > 0 ? 'unfold all' : 'fold all'}
          </button>
          <input
            aria-label="find a box"
            className="field w-40 py-0"
            placeholder="find a box"
            value={find}
            onChange={({ target }) => setFind(target.value)}
            onKeyDown={(event) => {
              const [first] = found;
              if (event.key === 'Enter' && first) set({ link: first.key });
            }}
          />
          <span className="ml-auto flex gap-3">
            <Exports answer={answer} svg={() => svg.current} />
          </span>
        </div>
        <div className="min-h-0 flex-1 overflow-auto p-3">
          {view.show === 'table' ? (
            <MapTable answer={answer} links={links} picked={map.link} pick={(key) => set({ link: key })} />
          ) : (
            <MapDrawing
              drawn={drawn}
              picked={map.link}
              pick={(key) => set({ link: key === map.link ? '' : key })}
              fold={(lane) =>
                set({
                  folded: map.folded.includes(lane) ? map.folded.filter((one) => one !== lane) : [...map.folded, lane],
                })
              }
              open={({ box }) => {
                if (box?.path) void navigate(address('/usage', { path: box.path, sheet: true, clusters: null }));
              }}
              find={find}
              of={svg}
            />
          )}
        </div>
        <Foot answer={answer} hidden={drawn.hidden} all={() => set({ away: 0 })} />
      </div>
      {picked && (
        <LinkSheet answer={answer} link={picked} pick={(key) => set({ link: key })} close={() => set({ link: '' })} />
      )}
    </div>
  );
}
function Foot({
  answer: { at, boxes, links, left },
  hidden,
  all,
}: {
  answer: MapAnswer;
  hidden: number;
  all: () => void;
}) {
  const now = useNow(15_000);
  return (
    <p className="border-t border-line px-4 py-1 text-xs text-soft">
      {formatClock(at, now)}: {formatCount(links.length, 'link')} between {formatCount(boxes.length, 'box', 'boxes')}
      {left > 0 && `, ${left} quiet ones are not told`}
      {hidden > 0 && (
        <>
          {'; '}
          <button type="button" className="button-plain" onClick={all}>
            {hidden} not drawn
          </button>
        </>
      )}
      . A minute is told half a minute after its end; states are of the last five.
    </p>
  );
}

function Troubles({ answer, picked, pick }: { answer: MapAnswer; picked: string; pick: (key: string) => void }) {
  const now = useNow(15_000);
  const links = new Map(answer.links.map((link) => [link.key, link]));
  const names = new Map(answer.boxes.map(({ key, name }) => [key, name]));
  return (
    <nav aria-label="links in trouble" className="w-72 shrink-0 overflow-y-auto border-r border-line px-4 py-3">
      <h2 className="section-title mb-1">Links in trouble</h2>
      {answer.trouble.length === 0 && <p className="text-sm text-soft">None: what is told goes as usual.</p>}
      <ul>
        {answer.trouble.map(({ link: key, side, inside }) => {
          const link = links.get(key);
          if (!link) return null;
          return (
            <li key={key} className="border-b border-hair py-1.5">
              <button
                type="button"
                aria-current={key === picked}
                className={clsx('w-full text-left text-sm hover:text-petrol', key === picked && 'font-semibold')}
                onClick={() => pick(key)}
              >
                <b className="text-critical">{link.state}</b> {names.get(link.from)} → {names.get(link.to)}
                <span className="block text-soft">
                  {linkWords(link)}
                  {link.since !== null && `, since ${formatClock(link.since, now)}`}
                </span>
                <span className="block text-soft">
                  likely {SIDE_WORDS[side]}
                  {inside.length > 0 && `; ${formatCount(inside.length, 'link')} more by it`}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </nav>
  );
}

function Exports({ answer, svg }: { answer: MapAnswer; svg: () => SVGSVGElement | null }) {
  const name = `map-${new Date(answer.at).toISOString().slice(0, 16).replaceAll(':', '')}`;
  const drawing = () => {
    const own = svg();
    if (!own) return;
    const copy = own.cloneNode(true) as SVGSVGElement; // of what it is
    copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg');
    const style = getComputedStyle(document.documentElement);
    // a file has no page whose colours it could take
    const text = new XMLSerializer()
      .serializeToString(copy)
      .replaceAll(/var\((--[a-z0-9-]+)\)/g, (_, variable: string) => style.getPropertyValue(variable).trim() || '#000');
    saveFile(`${name}.svg`, 'image/svg+xml', text);
  };
  const rows = () => [
    ['from', 'to', 'state', 'sent per s', 'received per s', 'failed', 'refused', 'caller p95 s', 'answerer p95 s'],
    ...answer.links.map((link) => [
      link.from,
      link.to,
      link.state,
      link.sent,
      link.received,
      link.failureShare,
      link.refusedShare,
      link.callerP95,
      link.answererP95,
    ]),
  ];
  return (
    <>
      <button type="button" className="button-plain" onClick={drawing}>
        SVG
      </button>
      <button
        type="button"
        className="button-plain"
        onClick={() => saveFile(`${name}.json`, 'application/json', JSON.stringify(answer, null, 1))}
      >
        JSON
      </button>
      <button
        type="button"
        className="button-plain"
        onClick={() => saveFile(`${name}.csv`, 'text/csv', csvOfRows(rows()))}
      >
        CSV
      </button>
    </>
  );
}
