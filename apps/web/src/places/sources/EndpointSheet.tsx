import type { EndpointAnswer, GivenAnswer, HistoryAnswer, MetricsAnswer } from '@zetopsis/contract';
import { formatBytes, formatClock, formatDuration, formatNumber } from '@zetopsis/core/format';
import { X } from 'lucide-react';
import { Tabs } from 'radix-ui';
import { useDeferredValue, useState } from 'react';
import { Confirm } from '../../drawing/Confirm.tsx';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { TellMeOf } from '../../frame/ShowMeasure.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useEndpointMetricsQuery, useHistoryQuery } from '../../state/endpointsApi.ts';
import { useUseEndpointMutation } from '../../state/givenApi.ts';
import { Dependants } from './Dependants.tsx';
import { MetricTable } from './MetricTable.tsx';
import { RawPageView } from './RawPageView.tsx';
import { RemoveEndpoint } from './RemoveEndpoint.tsx';
import { StateWord } from './StateWord.tsx';
import { endpointName, endpointWords } from './sourcesModel.ts';

const TABS = { page: 'Page', metrics: 'Metrics', history: 'Readings' } as const;

/** One endpoint: how it is read, its page, its metrics, how its readings went. */
export function EndpointSheet({
  endpoint,
  given,
  administrator,
  change,
  close,
}: {
  endpoint: EndpointAnswer;
  given: GivenAnswer | null;
  administrator: boolean;
  change: (key: string) => void;
  close: () => void;
}) {
  const now = useNow();
  return (
    <aside
      aria-label={`endpoint ${endpointName(endpoint)}`}
      className="flex w-[560px] shrink-0 flex-col border-l border-line bg-sheet"
    >
      <header className="border-b border-line px-4 py-3">
        <div className="flex items-baseline justify-between gap-3">
          <h2 className="text-xl break-all">{endpoint.name}</h2>
          <button type="button" className="flex items-center gap-1 text-xs text-soft hover:text-petrol" onClick={close}>
            <X size={13} /> Esc
          </button>
        </div>
        <p className="font-mono text-xs break-all text-soft">{endpoint.address}</p>
        <p className="mt-1.5 text-sm">
          <StateWord state={endpoint.state} /> {endpointWords(endpoint, now)}
        </p>
        {administrator && <TellMeOf begin={{ of: 'silence' }} of="silent sources" />}
        {given && <Use given={given} change={change} />}
        {administrator && (endpoint.state === 'retired' || endpoint.kind === 'pushed') && (
          <RemoveEndpoint endpoint={endpoint} close={close} />
        )}
      </header>
      <Tabs.Root defaultValue="page" className="flex min-h-0 flex-1 flex-col">
        <Tabs.List aria-label="about this endpoint" className="flex gap-5 border-b border-line px-4 pt-2 text-sm">
          {Object.entries(TABS).map(([value, text]) => (
            <Tabs.Trigger
              key={value}
              value={value}
              className="border-b-2 border-transparent pb-1 text-soft data-[state=active]:border-ink data-[state=active]:font-bold data-[state=active]:text-ink"
            >
              {text}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Tabs.Content value="page" className="min-h-0 flex-1 overflow-auto px-4 py-2">
          <RawPageView id={endpoint.id} />
        </Tabs.Content>
        <Tabs.Content value="metrics" className="min-h-0 flex-1 overflow-auto px-4 py-2">
          <Metrics id={endpoint.id} />
        </Tabs.Content>
        <Tabs.Content value="history" className="min-h-0 flex-1 overflow-auto px-4 py-2">
          <History id={endpoint.id} />
        </Tabs.Content>
      </Tabs.Root>
    </aside>
  );
}

function Use({ given: { key, document, endpoint }, change }: { given: GivenAnswer; change: (key: string) => void }) {
  const [use, { isLoading, error }] = useUseEndpointMutation();
  const to = (next: typeof document.use) => void use({ key, use: next });
  return (
    <div className="mt-2">
      <FormFailure error={error} />
      <div className="flex gap-2">
        <button type="button" className="button" onClick={() => change(key)}>
          change
        </button>
        {document.use === 'read' && (
          <button type="button" className="button" disabled={isLoading} onClick={() => to('paused')}>
            pause
          </button>
        )}
        {document.use === 'paused' && (
          <button type="button" className="button" disabled={isLoading} onClick={() => to('read')}>
            resume
          </button>
        )}
        {document.use === 'retired' ? (
          <button type="button" className="button" disabled={isLoading} onClick={() => to('read')}>
            restore
          </button>
        ) : (
          <Retire name={key} id={endpoint.id} retire={() => to('retired')} />
        )}
      </div>
    </div>
  );
}

function Retire({ name, id, retire }: { name: string; id: number; retire: () => void }) {
  return (
    <Confirm
      trigger="retire"
      triggerClass="button ml-auto"
      title={`Retire ${name}?`}
      text="It is read no more. What was read of it is kept, and it can be restored."
      keep="Go on reading"
    >
      {(close) => (
        <>
          <Dependants id={id} />
          <button
            type="button"
            className="button"
            onClick={() => {
              retire();
              close();
            }}
          >
            Retire it
          </button>
        </>
      )}
    </Confirm>
  );
}
function Metrics({ id }: { id: number }) {
  const [find, setFind] = useState('');
  const asked = useDeferredValue(find.trim());
  const { data, error, refetch } = useEndpointMetricsQuery({ id, find: asked }, { refetchOnMountOrArgChange: true });
  return (
    <>
      <input
        aria-label="find a metric"
        placeholder="name of a metric, or a part of it"
        className="field mb-2"
        value={find}
        onChange={({ target }) => setFind(target.value)}
      />
      {error && <FailureNote error={error} retry={() => void refetch()} />}
      {data?.answer && (
        <p role="status" className="mb-2 font-semibold">
          {data.answer}
        </p>
      )}
      {data && data.metrics.length === 0 && !data.answer && (
        <p className="text-soft">Nothing was read from here yet.</p>
      )}
      {data && Object.keys(data.attached).length > 0 && (
        <p className="mb-2 text-sm text-soft">
          attached to every series:{' '}
          <span className="font-mono text-xs break-all">
            {Object.entries(data.attached)
              .map(([name, value]) => `${name} ${value}`)
              .join(' · ')}
          </span>
        </p>
      )}
      {data && data.metrics.length > 0 && <MetricTable id={id} data={data} />}
      {data && data.exemplars.length > 0 && <Exemplars exemplars={data.exemplars} />}
    </>
  );
}

/** Single events behind the numbers, newest first. */
function Exemplars({ exemplars }: { exemplars: MetricsAnswer['exemplars'] }) {
  const now = useNow();
  return (
    <section aria-label="exemplars" className="mt-4">
      <h3 className="mb-1 text-sm">Newest exemplars</h3>
      {exemplars.map((one) => (
        <p key={`${one.metric} ${one.at} ${one.value}`} className="border-t border-hair py-0.5 text-sm">
          {formatClock(one.at, now, { seconds: true })} <span className="font-mono text-xs">{one.metric}</span>{' '}
          {formatNumber(one.value)}{' '}
          <span className="font-mono text-xs break-all text-soft">
            {Object.entries(one.labels)
              .map(([name, value]) => `${name} ${value}`)
              .join(' · ')}
          </span>
        </p>
      ))}
    </section>
  );
}

function History({ id }: { id: number }) {
  const { data, error, refetch } = useHistoryQuery(id, { refetchOnMountOrArgChange: true, pollingInterval: 30_000 });
  const now = useNow();
  if (error) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!data) return <RowSkeleton rows={6} height={30} />;
  return (
    <>
      <h3 className="mb-1 text-sm">Gaps in the last day</h3>
      {data.gaps.length === 0 && <p className="mb-3 text-sm text-soft">None.</p>}
      <ul className="mb-3 text-sm">
        {data.gaps.slice(0, 20).map((gap) => (
          <li key={gap.from} className="border-t border-hair py-0.5">
            {formatClock(gap.from, now)}{' '}
            {gap.to === null ? 'until now' : `for ${formatDuration(Math.max(1000, gap.to - gap.from))}`}
            {gap.planned && <b> planned</b>}: <span className="text-soft">{gap.reason}</span>
          </li>
        ))}
      </ul>
      <h3 className="mb-1 text-sm">Readings by five minutes, newest first</h3>
      <StretchTable stretches={data.stretches} />
    </>
  );
}

function StretchTable({ stretches }: { stretches: HistoryAnswer['stretches'] }) {
  const now = useNow();
  if (stretches.length === 0) return <p className="text-sm text-soft">Not read yet.</p>;
  const longest = Math.max(...stretches.map(({ longestMs }) => longestMs ?? 0), 1);
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-b border-structure text-left text-xs text-soft">
          {['from', 'read', 'failed', 'took', '', 'size', 'series'].map((head, i) => (
            <th key={i} className="py-1 pr-2 font-medium">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {[...stretches]
          .reverse()
          .slice(0, 288)
          .map((stretch) => (
            <tr key={stretch.at} className="border-b border-hair align-baseline" title={stretch.reason ?? undefined}>
              <td className="py-0.5 pr-2 whitespace-nowrap">{formatClock(stretch.at, now)}</td>
              <td className="py-0.5 pr-2">{stretch.readings}</td>
              <td className="py-0.5 pr-2">{stretch.failures === 0 ? '' : <b>{stretch.failures}</b>}</td>
              <td className="py-0.5 pr-2 whitespace-nowrap">
                {stretch.durationMs === null ? 'never read' : formatDuration(Math.max(1, stretch.durationMs))}
              </td>
              <td className="w-24 py-0.5 pr-2">
                <svg viewBox="0 0 96 8" className="h-2 w-full" role="img" aria-label="longest reading">
                  <rect width={((stretch.longestMs ?? 0) / longest) * 96} height={8} className="fill-[var(--fill-1)]" />
                  <rect
                    width={((stretch.durationMs ?? 0) / longest) * 96}
                    height={8}
                    className="fill-[var(--fill-2)]"
                  />
                </svg>
              </td>
              <td className="py-0.5 pr-2 whitespace-nowrap">
                {stretch.bytes === null ? '' : formatBytes(stretch.bytes)}
              </td>
              <td className="py-0.5">{stretch.series ?? ''}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}
