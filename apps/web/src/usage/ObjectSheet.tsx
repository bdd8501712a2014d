import type { SheetAnswer } from '@zetopsis/contract';
import { formatClock, formatCount, formatDuration } from '@zetopsis/core/format';
import { X } from 'lucide-react';
import { type PointerEvent, useState } from 'react';
import { Diamond } from '../drawing/Diamond.tsx';
import { pathWords } from '../drawing/names.ts';
import { isMarkName, OwnMark } from '../drawing/OwnMark.tsx';
import { FailureNote, RowSkeleton } from '../drawing/StateNote.tsx';
import { Strip } from '../drawing/Strip.tsx';
import { useNow } from '../frame/useNow.ts';
import { useView } from '../frame/useView.ts';
import { useObjectQuery } from '../state/placesApi.ts';
import { rowAmount, rowShare, sortRows } from './columnModel.ts';
import { Strata } from './Strata.tsx';
import { alertsBesides, isRaised } from './sheetModel.ts';

const SMALLEST = 330;
const LARGEST = 720;

/** Everything about the chosen object; opens on selection, resizable, closes with Esc. */
export function ObjectSheet({ close }: { close: () => void }) {
  const { view } = useView();
  const [width, setWidth] = useState(404);
  const { data, currentData, error, isFetching, refetch } = useObjectQuery({ path: view.path, window: view.window });
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
            <FailureNote error={error} retry={() => void refetch()} />
          </div>
        ) : shown ? (
          <SheetBody sheet={shown} close={close} />
        ) : (
          <RowSkeleton rows={8} height={80} />
        )}
      </div>
    </aside>
  );
}

function SheetBody({ sheet, close }: { sheet: SheetAnswer; close: () => void }) {
  const kind = sheet.kind !== null && sheet.kind !== sheet.level ? ` · ${sheet.kind}` : '';
  const markName =
    sheet.kind !== null && isMarkName(sheet.kind) ? sheet.kind : isMarkName(sheet.level) ? sheet.level : 'other';
  return (
    <>
      <header className="border-b border-line px-4 pt-3 pb-2.5">
        <div className="flex items-baseline justify-between text-xs text-soft">
          <span>
            {sheet.level}
            {kind} ·{' '}
            {sheet.owner === null ? (
              sheet.path.length > 1 ? (
                'no owner'
              ) : (
                'shared'
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
          {sheet.endedAt !== null && ' · gone since then'}
        </p>
        <Findings sheet={sheet} />
      </header>
      <div className="border-b border-line px-4 py-2.5">
        {(['cpu', 'memory'] as const).map((resource) => (
          <div key={resource} className="grid grid-cols-[64px_1fr] items-start gap-2 py-0.5 text-xs">
            <span className="pt-1 text-soft">{resource === 'cpu' ? 'CPU' : 'memory'}</span>
            <Strip resource={resource} figures={sheet.usage[resource]} height={28} />
          </div>
        ))}
      </div>
      <Strata sheet={sheet} />
      <Facts sheet={sheet} />
      <Nodes sheet={sheet} />
      <Containers sheet={sheet} />
      <Events sheet={sheet} />
    </>
  );
}

function Findings({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow();
  if (sheet.findings.length + sheet.raised.length === 0)
    return <p className="mt-1.5 text-sm text-soft">No findings: it does what was asked of it.</p>;
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
      {sheet.findings.map((finding) => (
        <li key={`${finding.code} ${finding.reason}`} className="flex gap-2">
          <span className="pt-0.5">
            <Diamond severity={finding.severity} />
          </span>
          <div className="min-w-0">
            <p className="break-words">
              <b>{finding.reason}</b>
              {finding.since !== null && (
                <span className="text-soft">
                  {isRaised(sheet, finding.reason) && ' raised,'} for {formatDuration(now - finding.since)}
                </span>
              )}
            </p>
            {finding.evidence && <p className="font-mono text-xs break-words text-soft">{finding.evidence}</p>}
            <p className="text-soft">→ {finding.nextStep}</p>
          </div>
        </li>
      ))}
    </ul>
  );
}

function Section({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="border-b border-hair px-4 py-2">
      <h3 className="mb-1 text-xs">{title}</h3>
      {children}
    </section>
  );
}

function Facts({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow(60_000);
  const facts = [
    ...sheet.facts,
    ...(sheet.createdAt === null
      ? []
      : [
          {
            name: 'there since',
            text: `${formatClock(sheet.createdAt, now)} (${formatDuration(now - sheet.createdAt)})`,
          },
        ]),
  ];
  return (
    <Section title="What it is">
      <dl className="grid grid-cols-[130px_1fr] gap-y-0.5 text-sm">
        {facts.map((fact) => (
          <div key={fact.name} className="contents">
            <dt className="text-soft">{fact.name}</dt>
            <dd className={fact.name.startsWith('image') ? 'font-mono text-xs break-all' : 'break-words'}>
              {fact.text}
            </dd>
          </div>
        ))}
      </dl>
    </Section>
  );
}

function Nodes({ sheet }: { sheet: SheetAnswer }) {
  const { view } = useView();
  if (sheet.nodes.length === 0) return null;
  const rows = sortRows(sheet.nodes, view.resource, 'tightness');
  return (
    <Section title={`Nodes, ${view.resource === 'cpu' ? 'CPU' : 'memory'} against what they can give`}>
      <ul className="space-y-1 text-sm">
        {rows.map((row) => (
          <li key={row.key}>
            <div className="flex items-baseline gap-1.5">
              {row.severity && <Diamond severity={row.severity} size={9} />}
              <span title={row.finding ?? undefined}>{row.name}</span>
              <span className="text-xs text-soft">{formatCount(row.pods, 'pod')}</span>
              <span className="ml-auto">{rowAmount(row, view.resource)}</span>
              <span className="w-10 text-right text-xs text-soft">{rowShare(row, view.resource)}</span>
            </div>
            <Strip resource={view.resource} figures={row.usage[view.resource]} />
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Containers({ sheet }: { sheet: SheetAnswer }) {
  if (sheet.containers.length === 0) return null;
  return (
    <Section title="Containers">
      <ul className="space-y-1.5 text-sm">
        {sheet.containers.map((container) => (
          <li key={container.name}>
            <p>
              <b>{container.name}</b> <span className="text-soft">{container.role}</span> · {container.state}
              {container.restarts > 0 && ` · ${container.restarts} restarts`}
            </p>
            <p className="font-mono text-xs break-all text-soft">{container.image}</p>
            {container.lastEnd && <p className="text-soft">last end: {container.lastEnd}</p>}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Events({ sheet }: { sheet: SheetAnswer }) {
  const now = useNow(60_000);
  return (
    <Section title="Events of the cluster">
      {sheet.eventsMissing !== null && <p className="text-sm text-soft">Events are not read: {sheet.eventsMissing}</p>}
      {sheet.eventsMissing === null && sheet.events.length === 0 && (
        <p className="text-sm text-soft">None in this window.</p>
      )}
      <ul className="space-y-1 text-sm">
        {sheet.events.map((event) => (
          <li key={`${event.at} ${event.reason} ${event.about}`} className="grid grid-cols-[44px_1fr] gap-2">
            <span className="text-soft">{formatClock(event.at, now)}</span>
            <span className="min-w-0 break-words">
              <b className="font-semibold">{event.reason}</b>
              {event.count > 1 && <span className="text-soft"> {event.count} times</span>} {event.message}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
