import { EVERYTHING, namespaceOf, readPath, type SheetAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration } from '@zetopsis/core/format';
import type { Resource } from '@zetopsis/core/units';
import { X } from 'lucide-react';
import { memo, type PointerEvent, useState } from 'react';
import { Link } from 'react-router';
import { Diamond } from '../../drawing/Diamond.tsx';
import { lastName, pathWords } from '../../drawing/names.ts';
import { isMarkName, OwnMark } from '../../drawing/OwnMark.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { Strip } from '../../drawing/Strip.tsx';
import { COUNTED } from '../../drawing/stripModel.ts';
import { ShowMeasure, TellMeOf, TellMeWhen } from '../../frame/ShowMeasure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { queried, useView } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import { useObjectQuery } from '../../state/usageApi.ts';
import { swingInWords, swingShort } from './columnModel.ts';
import { SheetLines } from './SheetLines.tsx';
import { SheetLinks } from './SheetLinks.tsx';
import { Changes, Logs, Rollout, Versions } from './SheetMore.tsx';
import { Quotas, Related, Runs, Tables, Volumes } from './SheetObjects.tsx';
import { SheetOperations } from './SheetOperations.tsx';
import { Containers, Events, Facts, Nodes, RunningOut } from './SheetSections.tsx';
import { SheetStretches } from './SheetStretches.tsx';
import { SheetTraces } from './SheetTraces.tsx';
import { Strata } from './Strata.tsx';
import { alertsBesides, figureWords, isMeasured, isRaised, type MeasuredSheet } from './sheetModel.ts';

const SMALLEST = 330;
const LARGEST = 720;

/** Everything about the chosen object; opens on selection, resizable, closes with Esc. `close` stays the same. */
export const ObjectSheet = memo(function ObjectSheet({ close }: { close: () => void }) {
  const { view } = useView();
  const [width, setWidth] = useState(404);
  const { data, currentData, error, isFetching, refetch } = useObjectQuery(queried(view));
  const shown = currentData ?? (isFetching ? data : undefined);
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    setWidth(Math.max(SMALLEST, Math.min(LARGEST, window.innerWidth - event.clientX)));
  };
  return (
    <aside
      aria-label="object sheet"
      className="relative flex shrink-0 flex-col border-l border-line bg-sheet"
      style={{ width }}
    >
      <div
        role="separator"
        aria-orientation="vertical"
        aria-label="width of the sheet"
        aria-valuenow={width}
        aria-valuemin={SMALLEST}
        aria-valuemax={LARGEST}
        tabIndex={0}
        className="absolute inset-y-0 -left-1 z-20 w-2 cursor-col-resize"
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        onKeyDown={(event) => {
          const step = event.key === 'ArrowLeft' ? 24 : event.key === 'ArrowRight' ? -24 : 0;
          if (step === 0) return;
          event.preventDefault();
          event.stopPropagation();
          setWidth(Math.max(SMALLEST, Math.min(LARGEST, width + step)));
        }}
      />
      <div className="min-h-0 flex-1 overflow-y-auto">
        {error && !shown ? (
          <div className="px-4">
            <FailureNote error={error} retry={() => void refetch()}>
              <SeenThen at={asFailure(error).seenAt} />
            </FailureNote>
          </div>
        ) : shown ? (
          <SheetBody sheet={shown} close={close} />
        ) : (
          <RowSkeleton rows={8} height={80} />
        )}
      </div>
    </aside>
  );
});

/** A window in which what is gone was still there. */
function SeenThen({ at }: { at: number | undefined }) {
  const { view, link } = useView();
  if (at === undefined) return null;
  const { window } = view;
  const length = 'length' in window ? window.length : window.to - window.from;
  return (
    <Link className="button" to={link('/usage', { window: { from: at - length, to: at - 1 } })}>
      look at it then
    </Link>
  );
}

/** Drawn anew only when the sheet is another: its charts are the dearest on the page. */
const SheetBody = memo(function SheetBody({ sheet, close }: { sheet: SheetAnswer; close: () => void }) {
  return (
    <>
      <SheetHead sheet={sheet} close={close} />
      {isMeasured(sheet) && <SheetStrips sheet={sheet} />}
      <SheetStretches />
      <Quotas sheet={sheet} />
      <Volumes sheet={sheet} />
      <RunningOut sheet={sheet} />
      <Rollout sheet={sheet} />
      <Runs sheet={sheet} />
      <Strata sheet={sheet} />
      <SheetOperations sheet={sheet} />
      <SheetTraces sheet={sheet} />
      <SheetLinks sheet={sheet} />
      <SheetLines sheet={sheet} />
      <Logs sheet={sheet} />
      <Changes sheet={sheet} />
      <Facts sheet={sheet} />
      <Tables sheet={sheet} />
      <Nodes sheet={sheet} />
      <Containers sheet={sheet} />
      <Related sheet={sheet} />
      <Versions key={sheet.path.join('/')} sheet={sheet} />
      <Events sheet={sheet} />
    </>
  );
});

function SheetHead({ sheet, close }: { sheet: SheetAnswer; close: () => void }) {
  const kind = sheet.kind !== null && sheet.kind !== sheet.level && sheet.level !== 'object' ? ` · ${sheet.kind}` : '';
  const markName =
    sheet.kind !== null && isMarkName(sheet.kind) ? sheet.kind : isMarkName(sheet.level) ? sheet.level : 'other';
  return (
    <header className="border-b border-line px-4 pt-3 pb-2.5">
      <div className="flex items-baseline justify-between text-xs text-soft">
        <span>
          {sheet.level === 'object' ? sheet.kind : sheet.level}
          {kind} ·{' '}
          {sheet.level === 'host' ? (
            'outside all clusters'
          ) : sheet.owner === null ? (
            shared(sheet) ? (
              'shared'
            ) : (
              'no owner'
            )
          ) : (
            <b className="text-ink">{sheet.owner}</b>
          )}
        </span>
        <button
          type="button"
          className="flex items-center gap-1 hover:text-petrol"
          onClick={close}
          title="close the sheet (key Esc)"
        >
          <X size={13} /> Esc
        </button>
      </div>
      <h2 className="mt-0.5 flex items-center gap-2 text-xl break-all">
        <OwnMark name={markName} size={18} />
        {sheet.name}
      </h2>
      <p className="text-xs text-soft">
        {pathWords(sheet.path.slice(0, -1))}
        {sheet.endedAt !== null && <b className="text-ink"> · last there {formatClock(sheet.endedAt, Date.now())}</b>}
      </p>
      <Findings sheet={sheet} />
      <BesideLinks sheet={sheet} />
    </header>
  );
}

/** What it uses against its limit, with the figures. */
function SheetStrips({ sheet }: { sheet: MeasuredSheet }) {
  const { view } = useView();
  return (
    <div className="border-b border-line px-4 py-2.5">
      {(['cpu', 'memory'] as const).map((resource) => (
        <div key={resource} className="grid grid-cols-[64px_1fr] items-start gap-2 py-0.5 text-xs">
          <span className="text-soft">
            {resource === 'cpu' ? 'CPU' : 'memory'}
            {sheet.against !== null && (
              <b className="block text-ink" title={swingInWords(pairOf(sheet), resource) ?? undefined}>
                {swingShort(pairOf(sheet), resource)}
              </b>
            )}
          </span>
          <div>
            <p className="mb-0.5 flex justify-between gap-2 text-soft">
              <span>{figureWords(resource, sheet)}</span>
              <span className="flex gap-3">
                <ShowMeasure text={stripMeasure(sheet, resource)} of={`the strip of ${RESOURCE_WORDS[resource]}`} />
                <TellMeWhen
                  text={stripMeasure(sheet, resource)}
                  of={`the strip of ${RESOURCE_WORDS[resource]}`}
                  word="tell me…"
                />
              </span>
            </p>
            <Strip
              of={COUNTED[resource]}
              figures={sheet.usage[resource]}
              against={sheet.against?.[resource] ?? null}
              height={28}
            />
          </div>
        </div>
      ))}
      <MoreMeasures sheet={sheet} />
      {view.shift !== null && sheet.against === null && (
        <p className="text-xs text-soft">The window compared with does not have it.</p>
      )}
    </div>
  );
}

/** Figures that stand in words only, as measures. */
function MoreMeasures({ sheet: { measures, name } }: { sheet: MeasuredSheet }) {
  if (measures === null) return null;
  const more = [
    ['time throttled', measures.throttled],
    ['restarts in 24 h', measures.restarts],
    ['ready of desired', measures.ready],
    ['when memory runs out', measures.memoryRunningOut],
  ] as const;
  const there = more.filter(([, text]) => text !== null);
  if (there.length === 0) return null;
  return (
    <p className="mt-1 flex flex-wrap gap-x-3 text-xs text-soft">
      measures:
      {there.map(([word, text]) => (
        <ShowMeasure key={word} text={text} of={`${word}, ${name}`} word={word} />
      ))}
    </p>
  );
}

/** To look at it next to others: those put aside before, the same one in other clusters. */
function BesideLinks({ sheet }: { sheet: SheetAnswer }) {
  const { view, link } = useView();
  if (!isMeasured(sheet) || sheet.level === 'host') return null;
  const here = sheet.path.join('/');
  const others = view.aside.filter((path) => path.join('/') !== here);
  return (
    <p className="mt-2 flex flex-wrap gap-x-4 text-xs">
      {view.aside.some((path) => path.join('/') === here) ? (
        <span className="text-soft">put aside: choose another one to compare it with</span>
      ) : others.length > 0 ? (
        <Link className="button-plain" to={link('/usage', { beside: [...others, sheet.path].slice(-4), aside: [] })}>
          side by side with {others.map(lastName).join(', ')}
        </Link>
      ) : (
        <Link className="button-plain" to={link('/usage', { aside: [sheet.path] })}>
          put aside to compare
        </Link>
      )}
      {sheet.elsewhere.map((cluster) => (
        <Link
          key={cluster}
          className="button-plain"
          to={link('/usage', { beside: [sheet.path, [cluster, ...sheet.path.slice(1)]] })}
        >
          beside the one in {cluster}
        </Link>
      ))}
    </p>
  );
}

const pairOf = ({ usage, against }: MeasuredSheet) => ({
  usage,
  against,
  other: null,
  pairing: 'both' as const,
});

/** A cluster, its nodes and its volumes belong to nobody alone. */
const shared = ({ path }: SheetAnswer): boolean => namespaceOf(readPath(path) ?? EVERYTHING) === null;

export function Findings({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow();
  if (sheet.findings.length + sheet.raised.length === 0)
    return <p className="mt-1.5 text-sm text-soft">No findings.</p>;
  return (
    <ul className="mt-1.5 space-y-2 text-sm">
      {alertsBesides(sheet).map((alert) => (
        <li key={alert.title} className="flex gap-2">
          <span className="pt-0.5">
            <Diamond severity={alert.severity} />
          </span>
          <div className="min-w-0">
            <p className="break-words">
              <b>{alert.title}</b>{' '}
              <span className="text-soft">raised, holds for {formatDuration(now - alert.since)}</span>
            </p>
            <p className="text-soft">→ {alert.nextStep}</p>
          </div>
        </li>
      ))}
      {sheet.findings.map((finding, place) => (
        <li key={`${finding.code} ${finding.reason}`} className="flex gap-2">
          <span className="pt-0.5">
            <Diamond severity={finding.severity} />
          </span>
          <div className="min-w-0">
            <p className="break-words">
              <b>{finding.reason}</b>
              {finding.since !== null && (
                <span className="text-soft">
                  {isRaised(sheet, place) && ' raised,'} for {formatDuration(now - finding.since)}
                </span>
              )}
            </p>
            {finding.evidence && <p className="font-mono text-xs break-words text-soft">{finding.evidence}</p>}
            <p className="text-soft">→ {finding.nextStep}</p>
            <TellMeOf
              begin={{ of: 'finding', code: finding.code, path: sheet.path, name: sheet.name }}
              of={finding.reason}
            />
          </div>
        </li>
      ))}
    </ul>
  );
}

const RESOURCE_WORDS = { cpu: 'CPU', memory: 'memory' } as const;
/** Of its limit, where it has one. */
const stripMeasure = ({ measures }: SheetAnswer, resource: Resource): string | null | undefined =>
  (resource === 'cpu' ? measures?.cpuShare : measures?.memoryShare) ?? measures?.[resource];
