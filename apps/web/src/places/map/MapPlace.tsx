import type { MapAnswer } from '@zetopsis/contract';
import { formatClock, formatCount } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { LANES, type MapView, MOST_OPENED, measureShown, OF_BOXES, OF_LINKS } from '../../frame/mapView.ts';
import { typing } from '../../frame/useFrameKeys.ts';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { lengthOf, shiftInWords } from '../../frame/windowModel.ts';
import { useMapQuery } from '../../state/mapApi.ts';
import { KeyPlan } from './KeyPlan.tsx';
import { LinkSheet } from './LinkSheet.tsx';
import { MapDrawing } from './MapDrawing.tsx';
import { MapExports } from './MapExports.tsx';
import { MapTable } from './MapTable.tsx';
import { MapTroubles } from './MapTroubles.tsx';
import { lookedAt } from './mapModel.ts';
import { MeasureNotes, ShownOn } from './ShownOn.tsx';
import { useDrawn } from './useDrawn.ts';
import { type Growing, useGrowing } from './useGrowing.ts';
import { followScroll, useInSight } from './useInSight.ts';
import { useMapMeasure } from './useMapMeasure.ts';

/** Who talks to whom, and which link is in trouble? */
export function MapPlace() {
  const { view } = useView();
  const { data, error, refetch } = useMapQuery(queried(view));
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
  const paper = useRef<HTMLDivElement>(null);
  const { map } = view;
  const set = (part: Partial<MapView>) => void change({ map: { ...map, ...part } });
  const drawn = useDrawn(answer, map, view.path);
  const growing = useGrowing(drawn?.boxes.length ?? 0);
  const onBoxes = useMapMeasure(answer, measureShown(map.ofBoxes), 'boxes');
  const onLinks = useMapMeasure(answer, measureShown(map.ofLinks), 'links');
  const picked = answer.links.find(({ key }) => key === map.link);
  const latest = useRef(set);
  latest.current = set;
  const pickOne = useCallback((key: string) => latest.current({ link: key }), []);
  // what is typed comes first, a large drawing follows
  const wanted = useDeferredValue(find);
  const links = useMemo(() => {
    const seen = lookedAt(answer, map, view.path);
    return answer.links.filter(({ from, to }) => seen.has(from) && seen.has(to));
  }, [answer, map, view.path]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key === 'Escape' && !typing(event) && map.link !== '') set({ link: '' });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  useInSight(
    paper,
    view.show === 'table' ? null : drawn,
    map.link || (answer.trouble[0]?.link ?? ''),
    [map.away, map.lanes, ...map.folded].join('|'),
  );
  const found = answer.boxes.filter(
    ({ name }) => find.trim() !== '' && name.toLowerCase().includes(find.trim().toLowerCase()),
  );
  return (
    <div className="flex h-full min-h-0">
      <MapTroubles answer={answer} picked={map.link} pick={pickOne} />
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
          <Chosen name="in lanes by" options={LANES} value={map.lanes} set={(lanes) => set({ lanes, folded: [] })} />
          <ShownOn name="boxes show" options={OF_BOXES} value={map.ofBoxes} set={(ofBoxes) => set({ ofBoxes })} />
          <ShownOn name="links show" options={OF_LINKS} value={map.ofLinks} set={(ofLinks) => set({ ofLinks })} />
          <button
            type="button"
            className="button-plain"
            onClick={() => set({ folded: map.folded.length > 0 ? [] : (drawn?.lanes ?? []).map(({ name }) => name) })}
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
          {find.trim() !== '' && (
            <span role="status" className="text-soft">
              {found.length === 0 ? 'no such box' : `${found.length} found`}
            </span>
          )}
          <span className="ml-auto flex gap-3">
            <MapExports answer={answer} svg={() => svg.current} />
          </span>
        </div>
        <MeasureNotes measures={[onBoxes, onLinks]} />
        {view.shift !== null && <Against answer={answer} shift={view.shift} no={() => void change({ shift: null })} />}
        <div className="relative flex min-h-0 flex-1">
          <div
            ref={paper}
            className="min-h-0 flex-1 overflow-auto p-3"
            onScroll={({ currentTarget }) => followScroll(currentTarget)}
          >
            {view.show === 'table' ? (
              <MapTable answer={answer} links={links} picked={map.link} pick={(key) => set({ link: key })} />
            ) : drawn === null ? (
              <RowSkeleton rows={8} height={40} />
            ) : (
              <MapDrawing
                drawn={drawn}
                grown={growing.grown}
                picked={map.link}
                pick={(key) => set({ link: key === map.link ? '' : key })}
                fold={(lane) =>
                  set({
                    folded: map.folded.includes(lane)
                      ? map.folded.filter((one) => one !== lane)
                      : [...map.folded, lane],
                  })
                }
                unfold={(key) =>
                  set({
                    opened: map.opened.includes(key)
                      ? map.opened.filter((one) => one !== key)
                      : [...map.opened, key].slice(-MOST_OPENED),
                  })
                }
                open={(path) => void navigate(address('/usage', { path, sheet: true, clusters: null }))}
                find={wanted}
                ofBoxes={map.ofBoxes}
                ofLinks={map.ofLinks}
                onBoxes={onBoxes?.values ?? null}
                onLinks={onLinks?.values ?? null}
                of={svg}
              />
            )}
          </div>
          {view.show !== 'table' && drawn && <KeyPlan drawn={drawn} within={paper} />}
        </div>
        <Foot
          answer={answer}
          hidden={drawn?.hidden ?? 0}
          all={() => set({ away: 0 })}
          growing={view.show === 'table' ? null : growing}
        />
      </div>
      {picked && (
        <LinkSheet answer={answer} link={picked} pick={(key) => set({ link: key })} close={() => set({ link: '' })} />
      )}
    </div>
  );
}
function Chosen<T extends string>({
  name,
  options,
  value,
  set,
}: {
  name: string;
  options: readonly T[];
  value: T;
  set: (value: T) => void;
}) {
  return (
    <label className="flex items-center gap-1 text-soft">
      {name}
      <select
        className="field w-auto py-0"
        value={value}
        onChange={({ target }) => set(options.find((one) => one === target.value) ?? value)}
      >
        {options.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
    </label>
  );
}
function Against({ answer, shift, no }: { answer: MapAnswer; shift: number; no: () => void }) {
  const { view } = useView();
  return (
    <div className="flex items-center gap-4 border-b border-line px-4 py-1 text-sm">
      <span>
        compared with <b>{shiftInWords(shift, lengthOf(view.window))}</b>
        {answer.comparedAt === null ? (
          <b> · that lies ahead: there is nothing to compare with</b>
        ) : (
          <span className="text-soft"> · both windows at their ends: a + is new, two stubs are gone</span>
        )}
      </span>
      <button type="button" className="button-plain ml-auto" onClick={no}>
        compare no more
      </button>
    </div>
  );
}
function Foot({
  answer: { at, boxes, links, left },
  hidden,
  all,
  growing,
}: {
  answer: MapAnswer;
  hidden: number;
  all: () => void;
  /** Null where nothing is drawn. */
  growing: Growing | null;
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
      {growing && (growing.going || growing.stopped) && (
        <>
          {'; '}
          {growing.grown} boxes stand{growing.going ? ' so far ' : ' '}
          <button type="button" className="button-plain" onClick={growing.going ? growing.stop : growing.goOn}>
            {growing.going ? 'stop' : 'go on'}
          </button>
        </>
      )}
      . A minute is told half a minute after its end; states are of the last five.
    </p>
  );
}
