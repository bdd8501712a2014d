import type { ConnectionAnswer, SourcesAnswer } from '@zetopsis/contract';
import { clsx } from 'clsx';
import { StateNote } from '../../drawing/StateNote.tsx';
import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { useNow } from '../../frame/useNow.ts';
import { StateWord } from './StateWord.tsx';
import { connectionWords, isLeftOut } from './sourcesModel.ts';

export function Connections({
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
    <ForAdministrators what="Connecting clusters is" />
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
                {kind.state === 'watching' ? (
                  kind.count
                ) : isLeftOut(kind.kind, kind.state) ? (
                  'left out'
                ) : (
                  <b>{kind.state}</b>
                )}
              </li>
            ))}
          </ul>
        </article>
      ))}
    </section>
  );
}
