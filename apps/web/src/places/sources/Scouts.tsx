import type { ScoutAnswer } from '@zetopsis/contract';
import { formatCount } from '@zetopsis/core/format';
import { useState } from 'react';
import { Confirm } from '../../drawing/Confirm.tsx';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { useScoutsQuery, useTakePagesMutation } from '../../state/scoutsApi.ts';
import { ScoutForm } from './ScoutForm.tsx';

/** The standing searches for endpoints. */
export function Scouts() {
  const { data, error, refetch } = useScoutsQuery(undefined, { pollingInterval: 10_000 });
  const [side, setSide] = useState<{ scout: ScoutAnswer | null } | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={60} />}
      </div>
    );
  const make = (
    <button type="button" className="button" onClick={() => setSide({ scout: null })}>
      make a scout
    </button>
  );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <div className="mb-2 flex items-center justify-between">
          <h2 className="section-title">Scouts</h2>
          {data.scouts.length > 0 && make}
        </div>
        {data.scouts.length === 0 && (
          <StateNote title="No scout looks for endpoints yet">
            <p>
              A scout finds pages among pods, services and nodes by their labels, annotations and ports, and keeps the
              list of endpoints as the cluster changes.
            </p>
            {make}
          </StateNote>
        )}
        {data.scouts.map((scout) => (
          <article key={scout.key} aria-label={scout.key} className="mb-2 border border-line bg-sheet px-4 py-3">
            <div className="flex items-baseline gap-3">
              <h3 className="text-lg">{scout.key}</h3>
              {scout.document.use === 'off' && <b className="text-sm">off</b>}
              <span className="text-sm text-soft">
                {formatCount(scout.found, 'page')} found, {scout.read} read; {formatCount(scout.leftOut, 'object')} left
                out in whole or in part
              </span>
              <button type="button" className="button-plain ml-auto text-sm" onClick={() => setSide({ scout })}>
                look or change
              </button>
            </div>
            <p className="mt-1 text-sm text-soft">{scoutWords(scout)}</p>
            {scout.held.map((held) => (
              <Held key={held.scout} scout={scout.key} held={held} />
            ))}
          </article>
        ))}
      </div>
      {side && <ScoutForm key={side.scout?.key ?? 'new'} scout={side.scout} close={() => setSide(null)} />}
    </div>
  );
}

/** What it finds, too, and is read for another: it stays there until a person moves it. */
function Held({ scout, held: { scout: other, pages, series } }: { scout: string; held: ScoutAnswer['held'][number] }) {
  const [take, { isLoading, error }] = useTakePagesMutation();
  return (
    <p className="mt-1 text-sm">
      {formatCount(pages, 'page')} of these {pages === 1 ? 'is' : 'are'} read for scout {other}.{' '}
      <Confirm
        trigger="move them here"
        triggerClass="button-plain"
        title={`Move ${formatCount(pages, 'page')} from scout ${other} to ${scout}?`}
        text={`They are read as scout ${scout} says from then on. Where their labels differ, up to ${formatCount(series, 'series', 'series')} end and as many begin; what was read is kept. New pages that both find go to ${scout}, too.`}
        keep="Leave them"
      >
        {(close) => (
          <button
            type="button"
            className="button"
            disabled={isLoading}
            onClick={async () => {
              await take({ key: scout, from: other });
              close();
            }}
          >
            Move them
          </button>
        )}
      </Confirm>
      <FailureText error={error} inline className="ml-2" />
    </p>
  );
}

function scoutWords({ document }: ScoutAnswer): string {
  const labels = Object.entries(document.labels).map(([key, value]) => (value === '' ? key : `${key} ${value}`));
  return [
    `among ${document.among} of ${document.cluster ?? 'every cluster'}`,
    document.namespaces.length > 0 ? `in ${document.namespaces.join(', ')}` : null,
    labels.length > 0 ? `labelled ${labels.join(', ')}` : null,
    document.ports.length > 0 ? `at port ${document.ports.join(', ')}` : 'at every declared port',
    document.keys.serves === '' ? null : `or as ${document.keys.serves} says`,
    document.route === 'direct' ? 'read directly' : 'read through the cluster',
    document.intervalSeconds === null
      ? `as often as ${document.group === '' ? 'pages are by default' : `group ${document.group}`}`
      : `every ${document.intervalSeconds} s`,
  ]
    .filter((part) => part !== null)
    .join(', ');
}
