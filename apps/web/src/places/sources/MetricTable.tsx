import type { MetricsAnswer, SeriesAnswer } from '@zetopsis/contract';
import { formatClock, formatDuration, formatNumber } from '@zetopsis/core/format';
import { useState } from 'react';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useEndpointSeriesQuery } from '../../state/endpointsApi.ts';

/** The metrics of an endpoint; each opens its series. */
export function MetricTable({ id, data }: { id: number; data: MetricsAnswer }) {
  const [open, setOpen] = useState<string | null>(null);
  const now = useNow();
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-b border-structure text-left text-xs text-soft">
          <th className="py-1 pr-2 font-medium">metric</th>
          <th className="py-1 pr-2 font-medium">type, unit</th>
          <th className="py-1 pr-2 text-right font-medium">series</th>
          <th className="py-1 text-right font-medium">newest value</th>
        </tr>
      </thead>
      {data.metrics.map((metric) => (
        <tbody key={metric.name}>
          <tr className="border-b border-hair align-baseline">
            <td className="py-0.5 pr-2">
              <button
                type="button"
                aria-expanded={open === metric.name}
                className="text-left font-mono text-xs break-all hover:text-petrol"
                onClick={() => setOpen(open === metric.name ? null : metric.name)}
              >
                {metric.name}
              </button>
              {metric.help !== '' && <p className="max-w-md text-xs whitespace-pre-line text-soft">{metric.help}</p>}
            </td>
            <td className="py-0.5 pr-2 text-soft">
              {[metric.type, metric.unit].filter((text) => text !== '').join(', ')}
            </td>
            <td className="py-0.5 pr-2 text-right">{metric.series}</td>
            <td className="py-0.5 text-right whitespace-nowrap">
              {metric.state === 'gone'
                ? `gone${metric.lastAt === null ? '' : ` since ${formatClock(metric.lastAt, now)}`}`
                : metric.series > 1
                  ? ''
                  : formatNumber(metric.value)}
            </td>
          </tr>
          {open === metric.name && (
            <tr>
              <td colSpan={4} className="border-b border-line bg-ground px-2 py-1">
                <SeriesList id={id} metric={metric.name} />
              </td>
            </tr>
          )}
        </tbody>
      ))}
      {data.more > 0 && (
        <tbody>
          <tr>
            <td colSpan={4} className="py-1 text-soft">
              {data.more} more: name what you look for
            </td>
          </tr>
        </tbody>
      )}
    </table>
  );
}

function SeriesList({ id, metric }: { id: number; metric: string }) {
  const { data, error, refetch } = useEndpointSeriesQuery({ id, metric }, { pollingInterval: 15_000 });
  const now = useNow();
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={2} height={22} />;
  return (
    <ul aria-label={`series of ${metric}`}>
      {data.series.map((series) => (
        <li
          key={JSON.stringify(series.labels)}
          className="grid grid-cols-[minmax(0,1fr)_auto] gap-3 border-b border-hair py-0.5"
        >
          <span className="font-mono text-xs break-all">
            {Object.entries(series.labels)
              .map(([name, value]) => `${name} ${value}`)
              .join(' · ') || 'without labels'}
          </span>
          <span className="text-right whitespace-nowrap">
            {series.state === 'gone' && (
              <b>gone{series.lastAt === null ? '' : ` since ${formatClock(series.lastAt, now)}`} · </b>
            )}
            {formatNumber(series.value)}
            <span className="ml-2 text-soft">{growth(series)}</span>
          </span>
        </li>
      ))}
      {data.more > 0 && <li className="py-0.5 text-soft">{data.more} more series</li>}
    </ul>
  );
}

/** Whether it grows, against an earlier value. */
function growth({ value, before, lastAt }: SeriesAnswer['series'][number]): string {
  if (value === null || before === null || lastAt === null || lastAt <= before.at) return 'read once so far';
  const span = formatDuration(lastAt - before.at);
  const by = value - before.value;
  if (by === 0) return `the same for ${span}`;
  return `${by > 0 ? '+' : '−'}${formatNumber(Math.abs(by))} in ${span}`;
}
