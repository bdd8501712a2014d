import type { OperationFigures, OperationsAnswer, RequestFigures, SheetAnswer } from '@zetopsis/contract';
import { formatCount, formatLatency, formatPercent, formatRate } from '@zetopsis/core/format';
import { useState } from 'react';
import { CutName } from '../../drawing/CutName.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { queried, useView } from '../../frame/useView.ts';
import { useOperationsQuery } from '../../state/usageApi.ts';
import { Section } from './SheetSections.tsx';

const isAnswering = ({ level, kind }: SheetAnswer): boolean =>
  level === 'workload' || level === 'pod' || kind === 'service' || kind === 'autoscaler';
/** What a request may be wanted to stay below, s. */
const TARGETS = [0.05, 0.1, 0.3, 1, 3] as const;
const ORDERS = {
  'most frequent first': (one: RequestFigures) => one.requests,
  'slowest first': (one: RequestFigures) => one.nearlyAll ?? -1,
  'most failed first': (one: RequestFigures) => one.requests * (one.failedShare ?? 0),
} as const;
type Order = keyof typeof ORDERS;
const FEW = 8;
const perSecond = (requests: number, { window }: OperationsAnswer) =>
  formatRate(requests / ((window.to - window.from) / 1000));

/** What the programs of an object answer, by operation, as their spans tell: how often, how well, by which version and pod. */
export function SheetOperations({ sheet }: { sheet: SheetAnswer }) {
  return isAnswering(sheet) ? <Operations sheet={sheet} /> : null;
}
function Operations({ sheet }: { sheet: SheetAnswer }) {
  const { view } = useView();
  const [target, setTarget] = useState<number>(0.3);
  const { data, error, refetch } = useOperationsQuery({ ...queried(view), path: sheet.path, target });
  // whoever sends no spans is told so with the log lines
  if (data && data.all.requests === 0) return null;
  return (
    <Section title="Operations">
      {error ? (
        <FailureNote error={error} retry={() => void refetch()} />
      ) : data ? (
        <>
          <Whole answer={data} target={target} setTarget={setTarget} />
          <List answer={data} />
          <Versions answer={data} />
          {sheet.level !== 'pod' && <Spread answer={data} />}
        </>
      ) : (
        <RowSkeleton rows={3} height={18} />
      )}
    </Section>
  );
}

function Whole({
  answer,
  target,
  setTarget,
}: {
  answer: OperationsAnswer;
  target: number;
  setTarget: (target: number) => void;
}) {
  const { all } = answer;
  return (
    <p className="text-sm">
      {perSecond(all.requests, answer)}, {formatPercent(all.failedShare)} failed
      {all.nearlyAll !== null && `, 95 of 100 within ${formatLatency(all.nearlyAll)}`}
      {all.satisfaction !== null && (
        <>
          {'; '}
          <label>
            satisfied within{' '}
            <select
              className="bg-transparent text-petrol"
              value={target}
              onChange={(event) => setTarget(Number(event.target.value))}
              title="within it: satisfied; within four times it: half"
            >
              {TARGETS.map((one) => (
                <option key={one} value={one}>
                  {formatLatency(one)}
                </option>
              ))}
            </select>
          </label>
          : <b>{formatPercent(all.satisfaction)}</b>
        </>
      )}
    </p>
  );
}

function List({ answer }: { answer: OperationsAnswer }) {
  const [order, setOrder] = useState<Order>('most frequent first');
  const [all, setAll] = useState(false);
  const sorted = [...answer.operations].sort((a, b) => ORDERS[order](b) - ORDERS[order](a));
  const before = new Map(answer.was?.map((one) => [one.operation, one]));
  return (
    <>
      <p className="mt-1 flex text-xs text-soft">
        {formatCount(sorted.length, 'operation')}
        <select
          aria-label="order of operations"
          className="ml-auto bg-transparent"
          value={order}
          onChange={(event) => setOrder(event.target.value as Order)} // one of its options
        >
          {Object.keys(ORDERS).map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
      </p>
      <ul aria-label="operations">
        {(all ? sorted : sorted.slice(0, FEW)).map((one) => (
          <Operation key={one.operation} one={one} then={before.get(one.operation)} answer={answer} />
        ))}
      </ul>
      {sorted.length > FEW && (
        <button type="button" className="button-plain text-xs" onClick={() => setAll(!all)}>
          {all ? 'fewer' : `${sorted.length - FEW} more`}
        </button>
      )}
    </>
  );
}
function Operation({
  one,
  then,
  answer,
}: {
  one: OperationFigures;
  then: OperationFigures | undefined;
  answer: OperationsAnswer;
}) {
  const told = [
    one.cold > 0 && `${formatPercent(one.cold / one.requests)} first answers of a program`,
    one.browsers > 0 && `${formatPercent(one.browsers / one.requests)} from browsers`,
    answer.was !== null && thenWords(then, answer),
  ].filter((words) => words !== false);
  return (
    <li className="border-t border-hair py-0.5 text-sm">
      <div className="flex gap-2">
        <span className="min-w-0 truncate font-semibold" title={one.operation}>
          {one.operation}
        </span>
        <span className="ml-auto shrink-0">{perSecond(one.requests, answer)}</span>
      </div>
      <p className="text-xs text-soft">
        {figureWords(one)}
        {told.map((words) => ` · ${words}`)}
      </p>
    </li>
  );
}
/** Failures, lengths and satisfaction in one line. */
function figureWords({ failedShare, half, nearlyAll, satisfaction }: RequestFigures): React.ReactNode {
  return (
    <>
      {failedShare !== null && failedShare > 0.01 ? (
        <b className="text-critical">{formatPercent(failedShare)} failed</b>
      ) : (
        `${formatPercent(failedShare)} failed`
      )}
      {half !== null && ` · half within ${formatLatency(half)}`}
      {nearlyAll !== null && `, 95 of 100 within ${formatLatency(nearlyAll)}`}
      {satisfaction !== null && ` · satisfied ${formatPercent(satisfaction)}`}
    </>
  );
}
function thenWords(then: OperationFigures | undefined, answer: OperationsAnswer): string {
  if (!then) return 'not asked then';
  return `then ${perSecond(then.requests, answer)}, ${formatPercent(then.failedShare)} failed${
    then.nearlyAll === null ? '' : `, 95 of 100 within ${formatLatency(then.nearlyAll)}`
  }`;
}

function Versions({ answer }: { answer: OperationsAnswer }) {
  const { versions } = answer;
  if (versions.length < 2) return null;
  return (
    <>
      <h4 className="mt-1.5 text-xs text-soft">versions side by side</h4>
      <ul aria-label="versions side by side">
        {versions.map((one) => (
          <li key={one.version} className="border-t border-hair py-0.5 text-sm">
            <div className="flex gap-2">
              <span className="min-w-0 truncate">
                <b>{one.version || 'not known'}</b> <span className="text-soft">{formatCount(one.pods, 'pod')}</span>
              </span>
              <span className="ml-auto shrink-0">{perSecond(one.requests, answer)}</span>
            </div>
            <p className="text-xs text-soft">{figureWords(one)}</p>
          </li>
        ))}
      </ul>
    </>
  );
}
/** How what is asked is spread over the pods behind it. */
function Spread({ answer }: { answer: OperationsAnswer }) {
  const { pods, all, uneven } = answer;
  if (pods.length < 2) return null;
  return (
    <>
      <h4 className="mt-1.5 text-xs text-soft">what each of {formatCount(pods.length, 'pod')} gets of it</h4>
      {uneven && (
        <p className="text-sm text-warning">
          Uneven: {uneven.pod} gets {uneven.times.toFixed(1)} times its part.
        </p>
      )}
      <ul aria-label="what each pod gets">
        {pods.slice(0, FEW).map(({ pod, requests, failedShare }) => (
          <li key={pod} className="grid grid-cols-[1fr_90px_auto] items-center gap-2 text-sm">
            <span className="flex min-w-0" title={pod}>
              <CutName name={pod} />
            </span>
            <span aria-hidden className="relative h-2 border-b border-hair">
              <span
                className="absolute inset-y-0 left-0 bg-[var(--fill-2)]"
                style={{ width: `${(requests / all.requests) * 100}%` }}
              />
            </span>
            <span>
              {formatPercent(requests / all.requests)}
              {failedShare !== null && failedShare > 0.01 && (
                <b className="text-critical"> {formatPercent(failedShare)} failed</b>
              )}
            </span>
          </li>
        ))}
      </ul>
      {pods.length > FEW && <p className="text-xs text-soft">{formatCount(pods.length - FEW, 'pod')} more</p>}
    </>
  );
}
