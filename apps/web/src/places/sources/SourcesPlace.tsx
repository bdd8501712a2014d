import type { ConnectionAnswer } from '@zetopsis/contract';
import { useEffect, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { ForAdministrators } from '../../frame/ForAdministrators.tsx';
import { type Part, Parts } from '../../frame/Parts.tsx';
import { typing } from '../../frame/useFrameKeys.ts';
import { seesEverything } from '../../frame/whose.ts';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { Census } from './Census.tsx';
import { ConnectionForm } from './ConnectionForm.tsx';
import { Connections } from './Connections.tsx';
import { Coverage } from './Coverage.tsx';
import { Endpoints } from './Endpoints.tsx';
import { Follows } from './Follows.tsx';
import { Forwards } from './Forwards.tsx';
import { Guide } from './Guide.tsx';
import { Imports } from './Imports.tsx';
import { Masks } from './Masks.tsx';
import { OwnState } from './OwnState.tsx';
import { PushKeys } from './PushKeys.tsx';
import { Scouts } from './Scouts.tsx';
import { StoreState } from './StoreState.tsx';
import { Vitals } from './Vitals.tsx';

const PARTS: readonly Part[] = [
  { path: 'state', name: 'State', view: <State /> },
  { path: 'connect', name: 'Connect', view: <Guide /> },
  { path: 'endpoints', name: 'Endpoints', view: <Endpoints /> },
  {
    path: 'scouts',
    name: 'Scouts',
    about:
      'standing searches that find endpoints among pods, services and nodes by their labels, annotations and ports',
    view: <Scouts />,
  },
  { path: 'push', name: 'Push keys', view: <PushKeys /> },
  {
    path: 'following',
    name: 'Following',
    about: 'log lines that are read from clusters, for programs that push none',
    view: <Follows />,
  },
  {
    path: 'masking',
    name: 'Masking',
    about: 'what is taken out of log lines before they are kept, shown or handed on',
    view: <Masks />,
  },
  {
    path: 'forwarding',
    name: 'Forwarding',
    about: 'other receivers to which goes on what is pushed, after masking',
    view: <Forwards />,
  },
  {
    path: 'vitals',
    name: 'Vitals',
    about:
      'what every cluster has under one name or another, such as CPU time of a container: which metrics they are read from',
    view: <Vitals />,
  },
  { path: 'coverage', name: 'Coverage', view: <Coverage /> },
  { path: 'census', name: 'Series census', about: 'who holds how many series', view: <Census /> },
];
const FOR_ALL = new Set(['state', 'endpoints', 'following', 'masking', 'coverage', 'census']);

/** Is data flowing? */
export function SourcesPlace() {
  const { part } = useParams();
  const { data: session } = useSessionQuery();
  const administrator = session?.person?.role === 'administrator';
  const parts = PARTS.filter(({ path }) => administrator || FOR_ALL.has(path));
  const shown = parts.find(({ path }) => path === part) ?? parts[0]!; // its state is for everybody
  return (
    <div className="flex h-full min-h-0 flex-col">
      <Parts place="Sources" parts={parts} shown={shown}>
        {shown.path !== 'state' && (
          <ForAdministrators className="ml-auto pb-1.5" what="Scouts, push keys, vitals and changes of endpoints are" />
        )}
      </Parts>
      <div className="min-h-0 flex-1">{shown.view}</div>
    </div>
  );
}

/** The clusters, what was brought in, and the store. */
function State() {
  const { data, error, refetch } = useSourcesQuery();
  const { data: session } = useSessionQuery();
  const [parameters, setParameters] = useSearchParams();
  const asked = parameters.get('connect');
  const [side, setSide] = useState<{ connection: ConnectionAnswer | null } | null>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => event.key === 'Escape' && !typing(event) && setSide(null);
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  useEffect(() => {
    if (asked === null || !data) return;
    setSide({ connection: data.connections.find(({ id }) => id === asked) ?? null });
    setParameters(
      (before) => {
        before.delete('connect');
        return before;
      },
      { replace: true },
    );
  }, [asked, data, setParameters]);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={8} height={40} />}
      </div>
    );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <Connections
          data={data}
          administrator={session?.person?.role === 'administrator'}
          open={(connection) => setSide({ connection })}
        />
        <Imports data={data} />
        <StoreState store={data.store} />
        {seesEverything(session) && <OwnState />}
      </div>
      {side && (
        <ConnectionForm key={side.connection?.id ?? 'new'} connection={side.connection} close={() => setSide(null)} />
      )}
    </div>
  );
}
