import type { ConnectionAnswer, EndpointAnswer, SourcesAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useEffect, useState } from 'react';
import { FailureNote, RowSkeleton, StateNote } from '../drawing/StateNote.tsx';
import { typing } from '../frame/useFrameKeys.ts';
import { useNow } from '../frame/useNow.ts';
import { useSessionQuery } from '../state/sessionApi.ts';
import { useSourcesQuery } from '../state/sourcesApi.ts';
import { ConnectionForm } from './ConnectionForm.tsx';
import { Imports } from './Imports.tsx';
import { RawPageSheet } from './RawPageSheet.tsx';
import { StoreState } from './StoreState.tsx';
import { connectionWords, endpointWords } from './sourcesModel.ts';

type Side =
  | { readonly shows: 'form'; readonly connection: ConnectionAnswer | null }
  | { readonly shows: 'page'; readonly endpoint: EndpointAnswer }
  | null;

/** Is data flowing? */
export function SourcesPlace() {
  const { data, error, refetch } = useSourcesQuery();
  const { data: session } = useSessionQuery();
  const [side, setSide] = useState<Side>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === 'Escape' && !typing(event) && setSide(null);
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={40} />}
      </div>
    );
  const administrator = session?.person?.role === 'administrator';
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <Connections
          data={data}
          administrator={administrator}
          open={(connection) => setSide({ shows: 'form', connection })}
        />
        {data.connections.length > 0 && (
          <Endpoints
            data={data}
            chosen={side?.shows === 'page' ? side.endpoint.id : null}
            open={(endpoint) => setSide({ shows: 'page', endpoint })}
          />
        )}
        <Imports data={data} />
        <StoreState store={data.store} />
      </div>
      {side?.shows === 'form' && (
        <ConnectionForm key={side.connection?.id ?? 'new'} connection={side.connection} close={() => setSide(null)} />
      )}
      {side?.shows === 'page' && (
        <RawPageSheet
          endpoint={data.endpoints.find(({ id }) => id === side.endpoint.id) ?? side.endpoint}
          close={() => setSide(null)}
        />
      )}
    </div>
  );
}

function Connections({
  data,
  administrator,
  open,
}: {
  data: SourcesAnswer;
  administrator: boolean;
  open: (connection: ConnectionAnswer | null) => void;
}) {
  const now = useNow();
  const connect = administrator ? (
    <button type="button" className="button" onClick={() => open(null)}>
      connect a cluster
    </button>
  ) : (
    <p className="text-sm text-soft">Connecting clusters is for administrators: ask one of them.</p>
  );
  return (
    <section aria-label="clusters" className="mb-6">
      <div className="mb-2 flex items-center justify-between">
        <h2 className="section-title">Clusters</h2>
        {data.connections.length > 0 && connect}
      </div>
      {data.connections.length === 0 && (
        <StateNote title="No cluster is connected yet">
          <p>
            Zetopsis needs the address of a cluster’s API and a token that may get, list and watch. It never writes to a
            cluster.
          </p>
          {connect}
        </StateNote>
      )}
      {data.connections.map((connection) => (
        <article
          key={connection.id}
          aria-label={connection.name}
          className={clsx(
            'mb-2 border bg-sheet px-4 py-3',
            connection.state === 'blind' ? 'border-structure' : 'border-line',
          )}
        >
          <div className="flex items-baseline gap-3">
            <h3 className="text-lg">{connection.name}</h3>
            <StateWord state={connection.state} />
            <span className="text-sm text-soft">{connectionWords(connection, now)}</span>
            {connection.may === 'administer' && (
              <button type="button" className="button-plain ml-auto text-sm" onClick={() => open(connection)}>
                change or remove
              </button>
            )}
          </div>
          {connection.reason && (
            <p className="mt-1">
              <b>{connection.reason}</b>{' '}
              {connection.nextStep && <span className="text-soft">→ {connection.nextStep}</span>}
            </p>
          )}
          <p className="mt-1 text-xs text-soft">
            <span className="font-mono">{connection.address}</span>
            {[connection.environment, connection.region, connection.flavour]
              .filter((trait) => trait !== '')
              .map((trait) => ` · ${trait}`)}
          </p>
          <ul className="mt-1.5 flex flex-wrap gap-x-5 gap-y-0.5 text-sm">
            {connection.kinds.map((kind) => (
              <li key={kind.kind} title={kind.reason ?? undefined}>
                <span className="text-soft">{kind.kind}s</span>{' '}
                {kind.state === 'watching' ? kind.count : <b>{kind.state}</b>}
              </li>
            ))}
          </ul>
        </article>
      ))}
    </section>
  );
}

/** States as words; blind is hatched, nothing is coloured that does not need a person. */
function StateWord({ state }: { state: string }) {
  const blind = state === 'blind' || state === 'failing' || state === 'late';
  return (
    <span
      className={clsx(
        'border px-1.5 text-xs',
        blind ? 'hatched border-structure font-bold' : 'border-transparent text-soft',
      )}
    >
      {state}
    </span>
  );
}

function Endpoints({
  data,
  chosen,
  open,
}: {
  data: SourcesAnswer;
  chosen: number | null;
  open: (endpoint: EndpointAnswer) => void;
}) {
  const now = useNow();
  const read = data.endpoints.filter(({ state }) => state === 'read').length;
  return (
    <section aria-label="endpoints" className="mb-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="section-title">Endpoints</h2>
        <p className="text-sm text-soft">
          {read} of {formatCount(data.endpoints.length, 'page')} read; found from the nodes of the inventory
        </p>
      </div>
      {data.endpoints.length === 0 && (
        <p className="text-soft">No node has been found yet. They appear within seconds once the cluster is read.</p>
      )}
      {data.endpoints.length > 0 && (
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-structure text-left text-xs text-soft">
              {['node', 'state', 'last reading', 'every', 'samples', 'size', 'took', ''].map((head) => (
                <th key={head} className="py-1 pr-3 font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {data.endpoints.map((endpoint) => (
              <tr
                key={endpoint.id}
                className={clsx('border-b border-hair align-baseline', chosen === endpoint.id && 'bg-sheet')}
              >
                <td className="py-1 pr-3 whitespace-nowrap">
                  {data.connections.length > 1 && <span className="text-soft">{endpoint.connection} › </span>}
                  <b className="font-semibold">{endpoint.node}</b>
                </td>
                <td className="py-1 pr-3">
                  <StateWord state={endpoint.state} />
                  {endpointWords(endpoint, now) && <p className="max-w-md text-sm">{endpointWords(endpoint, now)}</p>}
                  {endpoint.cut && <p className="max-w-md text-sm font-semibold">{endpoint.cut}</p>}
                </td>
                <td className="py-1 pr-3 whitespace-nowrap">
                  {endpoint.lastReadingAt === null ? 'never' : `${formatDuration(now - endpoint.lastReadingAt)} ago`}
                </td>
                <td className="py-1 pr-3 whitespace-nowrap">{formatDuration(endpoint.intervalSeconds * 1000)}</td>
                <td className="py-1 pr-3">{endpoint.samples ?? '–'}</td>
                <td className="py-1 pr-3 whitespace-nowrap">{formatBytes(endpoint.bytes)}</td>
                <td className="py-1 pr-3 whitespace-nowrap">
                  {endpoint.durationMs === null ? '–' : formatDuration(Math.max(1, endpoint.durationMs))}
                </td>
                <td className="py-1 text-right whitespace-nowrap">
                  <button
                    type="button"
                    className="button-plain disabled:text-soft disabled:no-underline"
                    disabled={endpoint.samples === null}
                    onClick={() => open(endpoint)}
                    aria-label={`page of ${endpoint.node}`}
                  >
                    {endpoint.problems > 0 ? formatCount(endpoint.problems, 'problem') : 'page'}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
