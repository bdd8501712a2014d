import type { CoverageAnswer } from '@zetopsis/contract';
import { formatCount, formatDuration, formatPercent } from '@zetopsis/core/format';
import { useState } from 'react';
import { Link } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { useCoverageQuery } from '../../state/coverageApi.ts';
import { PodPorts } from './PodPorts.tsx';
import { StateWord } from './StateWord.tsx';

type Row = CoverageAnswer['rows'][number];

/** The ledger of what should be read: what is not, why, and the step that mends it. */
export function Coverage() {
  const { path } = useView().view;
  const [only, setOnly] = useState<'all' | 'unread'>('unread');
  const { data, error, refetch } = useCoverageQuery({ only, ...(path[0] === undefined ? {} : { cluster: path[0] }) });
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={10} height={36} />}
      </div>
    );
  const { containers, read } = data.share;
  return (
    <div className="flex h-full min-h-0 gap-6 overflow-auto px-5 py-4">
      <section aria-label="what is not read" className="min-w-0 flex-1">
        <div className="mb-2 flex items-baseline gap-3">
          <h2 className="section-title">Coverage</h2>
          {containers > 0 && (
            <p className="text-sm text-soft">
              {read} of {formatCount(containers, 'running container')} read ({formatPercent(read / containers)})
            </p>
          )}
          <label className="ml-auto flex items-center gap-1.5 text-sm">
            <input
              type="checkbox"
              checked={only === 'all'}
              onChange={({ target }) => setOnly(target.checked ? 'all' : 'unread')}
            />
            endpoints that are read, too
          </label>
        </div>
        {data.rows.length === 0 && (
          <p className="py-4 text-lg font-semibold">
            {containers === 0
              ? 'Nothing runs that could be read: connect a cluster first.'
              : 'Everything that should be read is read.'}
          </p>
        )}
        {data.rows.map((row) => (
          <Entry key={`${row.kind} ${row.path.join('/')} ${row.name}`} row={row} />
        ))}
        {data.inAll > data.rows.length && (
          <p className="mt-2 text-sm text-soft">{data.inAll - data.rows.length} more: choose a cluster above.</p>
        )}
        <Changed changes={data.changes} />
      </section>
      <section aria-label="share read" className="w-80 shrink-0">
        <h2 className="section-title mb-2">Share read</h2>
        <ShareRead of={data.byNamespace} />
        <PodPorts />
      </section>
    </div>
  );
}

function Changed({ changes }: { changes: CoverageAnswer['changes'] }) {
  if (changes.length === 0) return null;
  return (
    <>
      <h2 className="section-title mt-6 mb-1">Not as a day ago</h2>
      <ul className="text-sm">
        {changes.map((change) => (
          <li key={`${change.endpointId} ${change.text}`} className="border-t border-hair py-1">
            <b className="font-semibold">{change.what}</b>: {change.text}
          </li>
        ))}
      </ul>
    </>
  );
}

function ShareRead({ of }: { of: CoverageAnswer['byNamespace'] }) {
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-b border-structure text-left text-xs text-soft">
          <th className="py-1 pr-2 font-medium">namespace</th>
          <th className="py-1 pr-2 font-medium">team</th>
          <th className="py-1 text-right font-medium">read</th>
        </tr>
      </thead>
      <tbody>
        {of.map((one) => (
          <tr key={`${one.cluster} ${one.namespace}`} className="border-b border-hair align-baseline">
            <td className="py-0.5 pr-2">
              <span className="text-soft">{one.cluster} › </span>
              {one.namespace}
            </td>
            <td className="py-0.5 pr-2 text-soft">{one.team ?? 'nobody’s'}</td>
            <td className="py-0.5 text-right whitespace-nowrap">
              {one.read < one.containers ? (
                <b>
                  {one.read} of {one.containers}
                </b>
              ) : (
                `all ${one.containers}`
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Entry({ row }: { row: Row }) {
  const now = useNow();
  return (
    <article aria-label={row.name} className="border-t border-hair py-1.5 text-sm">
      <div className="flex items-baseline gap-2">
        <StateWord state={row.state} />
        <span className="text-soft">{row.kind}</span>
        <b className="font-semibold break-all">{row.name}</b>
        {row.since !== null && row.state !== 'read' && (
          <span className="text-soft">for {formatDuration(Math.max(0, now - row.since))}</span>
        )}
        <span className="ml-auto">
          <Step row={row} />
        </span>
      </div>
      <p>{row.reason}</p>
      {row.nextStep !== '' && <p className="text-soft">→ {row.nextStep}</p>}
    </article>
  );
}

function Step({ row }: { row: Row }) {
  const { link } = useView();
  if (row.step === null) return null;
  const to = (place: string, parameter: string) => {
    const address = link(place);
    return `${address}${address.includes('?') ? '&' : '?'}${parameter}=${encodeURIComponent(row.step?.to ?? '')}`;
  };
  switch (row.step.does) {
    case 'endpoint':
      return (
        <Link className="button-plain" to={to('/sources/endpoints', 'endpoint')}>
          look at the endpoint
        </Link>
      );
    case 'connection':
      return (
        <Link className="button-plain" to={to('/sources/state', 'connect')}>
          look at the connection
        </Link>
      );
    case 'vitals':
      return (
        <Link className="button-plain" to={to('/sources/vitals', 'vitals')}>
          map its vitals
        </Link>
      );
  }
}
