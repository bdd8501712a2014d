import type { LinkAnswer, MapLink } from '@zetopsis/contract';
import { formatClock, formatCount, formatLatency, formatNumber, formatPercent } from '@zetopsis/core/format';
import { MINUTE } from '@zetopsis/core/units';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { StepStrip, TraceSteps } from '../../frame/TraceSteps.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useLinkQuery } from '../../state/mapApi.ts';
import { wayWords } from './PodWays.tsx';
import { podEnd } from './podRows.ts';

/** What goes over a link, as whole traces tell: which operations, how much of what people asked for, and examples. */
export function LinkTraces({ link }: { link: MapLink }) {
  const { view } = useView();
  const { data, error, refetch } = useLinkQuery({ caller: link.from, answerer: link.to, window: view.window });
  return (
    <section aria-label="what goes over it" className="mt-3">
      <h3 className="text-soft">what goes over it</h3>
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data ? (
        <Told answer={data} link={link} />
      ) : (
        <RowSkeleton rows={3} height={18} />
      )}
    </section>
  );
}
const SHOWN = 8;
function Told({ answer, link }: { answer: LinkAnswer; link: MapLink }) {
  const { from, to, requests, people, operations, ways, slowest, failed } = answer;
  const [all, setAll] = useState(false);
  const since = `traces of the ${lengthWords(to - from)} before ${formatClock(to, to)}`;
  if (requests === 0) return <p className="text-soft">Of the {since} that are kept none went over it.</p>;
  return (
    <>
      {people !== null && (
        <p>
          <b>{formatPercent(people)}</b> of what people asked for went over it
        </p>
      )}
      <table className="mt-1 w-full">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="font-normal">operation</th>
            <th className="text-right font-normal">requests</th>
            <th className="pl-2 text-right font-normal">failed</th>
            <th className="pl-2 text-right font-normal">95 of 100 within</th>
          </tr>
        </thead>
        <tbody>
          {operations.slice(0, all ? undefined : SHOWN).map((one) => (
            <tr key={one.operation} className="border-t border-hair">
              <th className="max-w-40 truncate py-0.5 text-left font-normal" title={one.operation}>
                {one.operation || 'without a name'}
              </th>
              <td className="text-right">{formatNumber(Math.round(one.requests))}</td>
              <td className="pl-2 text-right">{one.failedShare === 0 ? 'none' : formatPercent(one.failedShare)}</td>
              <td className="pl-2 text-right">{formatLatency(one.nearlyAll)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {operations.length > SHOWN && !all && (
        <button type="button" className="button-plain text-xs" onClick={() => setAll(true)}>
          all {operations.length}
        </button>
      )}
      <p className="text-xs text-soft">from {since}, as the caller waited; scaled up where not all are kept</p>
      {ways.length > 1 && <Ways ways={ways} link={link} />}
      <Examples title="slowest" requests={slowest} />
      <Examples title="failed, newest first" requests={failed} />
    </>
  );
}
const lengthWords = (length: number): string => formatCount(Math.max(1, Math.round(length / MINUTE)), 'minute');

const FEW_WAYS = 6;
/** What the drawing shows between two boxes that are open; those that fail most first. */
function Ways({ ways, link }: Pick<LinkAnswer, 'ways'> & { link: MapLink }) {
  const [all, setAll] = useState(false);
  const inOrder = ways.toSorted((a, b) => b.failedShare - a.failedShare || b.requests - a.requests);
  const name = (pod: string, end: string) => (pod === '' ? 'not told' : podEnd(pod, end.split(':').at(-1) ?? ''));
  return (
    <>
      <h4 className="mt-1.5 text-xs text-soft">from pod to pod, what fails most first</h4>
      <table aria-label="from pod to pod" className="w-full">
        <tbody>
          {inOrder.slice(0, all ? undefined : FEW_WAYS).map((way) => (
            <tr key={`${way.from} ${way.to}`} className="border-t border-hair" title={wayWords(way)}>
              <th className="py-0.5 text-left font-normal whitespace-nowrap">
                {name(way.from, link.from)} → {name(way.to, link.to)}
              </th>
              <td className="text-right whitespace-nowrap">{formatNumber(Math.round(way.requests))}</td>
              <td className="pl-2 text-right whitespace-nowrap">
                {way.failedShare === 0 ? 'none' : formatPercent(way.failedShare)}
              </td>
              <td className="pl-2 text-right whitespace-nowrap">{formatLatency(way.nearlyAll)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {ways.length > FEW_WAYS && !all && (
        <button type="button" className="button-plain text-xs" onClick={() => setAll(true)}>
          all {ways.length}
        </button>
      )}
    </>
  );
}

function Examples({ title, requests }: { title: string; requests: LinkAnswer['slowest'] }) {
  const now = useNow(10_000);
  const [open, setOpen] = useState('');
  if (requests.length === 0) return null;
  const longest = Math.max(...requests.map(({ seconds }) => seconds), 0.000_001);
  return (
    <>
      <h4 className="mt-1.5 text-xs text-soft">{title}</h4>
      <ol aria-label={`requests: ${title}`}>
        {requests.map((one) => {
          const key = `${one.traceId} ${one.at}`;
          return (
            <li key={key} className="border-t border-hair py-0.5">
              <button
                type="button"
                className="grid w-full grid-cols-[1fr_auto] gap-x-3 text-left hover:bg-hover"
                aria-expanded={open === key}
                onClick={() => setOpen(open === key ? '' : key)}
              >
                <span className="flex min-w-0 items-baseline gap-2">
                  <span className="truncate">{one.operation || 'without a name'}</span>
                  {one.failed && <span className="text-xs text-critical">failed</span>}
                </span>
                <span>{formatLatency(one.seconds)}</span>
                <StepStrip share={one.seconds / longest} failed={one.failed} />
                <span className="text-xs text-soft">{formatClock(one.at, now, { seconds: true })}</span>
              </button>
              {open === key && <TraceSteps traceId={one.traceId} at={one.at} took={one.seconds * 1000} />}
            </li>
          );
        })}
      </ol>
    </>
  );
}
