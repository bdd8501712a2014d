import type { CensusAnswer } from '@zetopsis/contract';
import { formatCount, formatNumber, formatPercent } from '@zetopsis/core/format';
import { useDeferredValue, useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useCensusQuery, usePreviewDropMutation } from '../../state/coverageApi.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { readDrops } from './lists.ts';

const signed = (value: number) => `${value > 0 ? '+' : ''}${formatNumber(value)}`;

/** Who holds how many series, and what could be left out. */
export function Census() {
  const [find, setFind] = useState('');
  const asked = useDeferredValue(find.trim());
  const { currentData, data: before, error, refetch } = useCensusQuery(asked, { refetchOnMountOrArgChange: true });
  const data = currentData ?? before;
  const { data: session } = useSessionQuery();
  const [rule, setRule] = useState('');
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={12} height={26} />}
      </div>
    );
  return (
    <div className="h-full overflow-auto px-5 py-4">
      <div className="mb-3 flex items-baseline gap-3">
        <h2 className="section-title">Series census</h2>
        <p className="text-sm text-soft">
          {formatNumber(data.series)} series, {formatPercent(data.series / data.limit)} of the{' '}
          {formatNumber(data.limit)} that may be
          {data.grown !== null && `; ${signed(data.grown)} within a day`}
        </p>
        <input
          aria-label="find in the census"
          placeholder="metric, endpoint, team or label"
          className="field ml-auto max-w-64"
          value={find}
          onChange={({ target }) => setFind(target.value)}
        />
        <button type="button" className="button-plain text-sm" onClick={() => void refetch()}>
          count again
        </button>
      </div>
      {session?.person?.role === 'administrator' && <Drop rule={rule} setRule={setRule} />}
      <div className="grid grid-cols-[1.3fr_1fr] gap-8">
        <Metrics data={data} leaveOut={setRule} />
        <div>
          <Shares
            title="By endpoint"
            rows={data.endpoints.map(({ name, series, grown }) => ({
              name,
              series,
              more: grown === null || grown === 0 ? '' : signed(grown),
            }))}
            more={data.grown === null ? '' : 'in a day'}
          />
          <Shares title="By team" rows={data.teams.map((team) => ({ ...team, more: '' }))} more="" />
          <Shares
            title="By label"
            rows={data.labels.map(({ name, series, values }) => ({ name, series, more: formatNumber(values) }))}
            more="values"
          />
        </div>
      </div>
    </div>
  );
}

function Metrics({ data, leaveOut }: { data: CensusAnswer; leaveOut: (rule: string) => void }) {
  return (
    <section aria-label="by metric">
      <h3 className="mb-1">By metric</h3>
      <table className="w-full text-sm">
        <thead>
          <tr className="border-b border-structure text-left text-xs text-soft">
            <th className="py-1 pr-2 font-medium">metric</th>
            <th className="py-1 pr-2 text-right font-medium">series</th>
            <th className="py-1 pr-2 font-medium">most values in</th>
            <th className="py-1 pr-2 text-right font-medium">endpoints</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {data.metrics.map((metric) => (
            <tr key={metric.name} className="border-b border-hair align-baseline">
              <td className="py-0.5 pr-2 font-mono text-xs break-all">{metric.name}</td>
              <td className="py-0.5 pr-2 text-right">{formatNumber(metric.series)}</td>
              <td className="py-0.5 pr-2 text-soft">
                {metric.label === null ? '' : `${metric.label} (${formatNumber(metric.values)})`}
              </td>
              <td className="py-0.5 pr-2 text-right">{metric.endpoints}</td>
              <td className="py-0.5 text-right">
                <button type="button" className="button-plain text-xs" onClick={() => leaveOut(metric.name)}>
                  leave out?
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Shares({
  title,
  rows,
  more,
}: {
  title: string;
  rows: readonly { name: string; series: number; more: string }[];
  more: string;
}) {
  const most = Math.max(1, ...rows.map(({ series }) => series));
  return (
    <section aria-label={title.toLowerCase()} className="mb-5">
      <h3 className="mb-1">{title}</h3>
      {rows.length === 0 && <p className="text-sm text-soft">None.</p>}
      <table className="w-full text-sm">
        {rows.length > 0 && (
          <thead>
            <tr className="border-b border-structure text-left text-xs text-soft">
              <th className="py-1 font-medium" />
              <th className="py-1 font-medium" />
              <th className="py-1 pl-2 text-right font-medium">series</th>
              <th className="py-1 pl-2 text-right font-medium">{more}</th>
            </tr>
          </thead>
        )}
        <tbody>
          {rows.slice(0, 15).map((row) => (
            <tr key={row.name} className="border-b border-hair align-baseline">
              <td className="py-0.5 pr-2 break-all">{row.name}</td>
              <td className="w-24">
                <svg viewBox="0 0 96 8" className="h-2 w-full" aria-hidden="true">
                  <rect width={(row.series / most) * 96} height={8} className="fill-[var(--fill-1)]" />
                </svg>
              </td>
              <td className="py-0.5 pl-2 text-right">{formatNumber(row.series)}</td>
              <td className="py-0.5 pl-2 text-right text-soft">{row.more}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** What a drop rule would leave out, before it is set at an endpoint or a scout. */
function Drop({ rule, setRule }: { rule: string; setRule: (rule: string) => void }) {
  const [preview, { data, error, isLoading, originalArgs }] = usePreviewDropMutation();
  const { rules, problem } = readDrops(rule);
  return (
    <form
      aria-label="preview what to leave out"
      className="mb-4 border border-line bg-sheet px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (rules[0]) void preview({ endpoint: null, rule: rules[0] });
      }}
    >
      <div className="flex items-center gap-2">
        <label htmlFor="census-rule" className="text-sm font-semibold whitespace-nowrap">
          What if these were not kept?
        </label>
        <input
          id="census-rule"
          className="field font-mono text-sm"
          placeholder="METRIC, or METRIC where LABEL is VALUE; * stands for anything"
          value={rule}
          onChange={({ target }) => setRule(target.value)}
        />
        <button type="submit" className="button" disabled={rules.length !== 1 || problem !== null || isLoading}>
          Preview
        </button>
      </div>
      {problem !== null && (
        <p role="alert" className="mt-1 text-sm text-critical">
          {problem}
        </p>
      )}
      <FormFailure error={error} />
      {data && originalArgs && (
        <div role="status" className="mt-2 text-sm">
          <p>
            <b>{formatCount(data.series, 'series', 'series')}</b> of {formatCount(data.metrics.length, 'metric')} would
            not be kept. Put the line into “leave out” of the endpoint or the scout; what was read stays.
          </p>
          {data.examples.map((example) => (
            <p key={example} className="font-mono text-xs break-all text-soft">
              {example}
            </p>
          ))}
        </div>
      )}
    </form>
  );
}
