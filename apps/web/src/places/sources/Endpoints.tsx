import type { EndpointAnswer, SourcesAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { typing } from '../../frame/useFrameKeys.ts';
import { useNow } from '../../frame/useNow.ts';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { useGivenQuery } from '../../state/givenApi.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { EndpointForm } from './EndpointForm.tsx';
import { EndpointSheet } from './EndpointSheet.tsx';
import { Intervals } from './Intervals.tsx';
import { PastedList } from './PastedList.tsx';
import { StateWord } from './StateWord.tsx';
import { endpointName, endpointWords } from './sourcesModel.ts';

type Side = 'new' | 'list' | 'intervals' | { readonly change: string } | null;
const SHOWN = 250;
const KINDS = {
  node: 'page of a node',
  given: 'given by address',
  found: 'found by a scout',
  pushed: 'who pushes',
  own: 'Zetopsis’ own',
} as const;
const HEADS = ['endpoint', 'state', 'last reading', 'every', 'samples', 'size', 'took'];

/** Every page that is read, or should be. The chosen one stands in the address. */
export function Endpoints() {
  const { data, error, refetch } = useSourcesQuery();
  const { data: session } = useSessionQuery();
  const administrator = session?.person?.role === 'administrator';
  const { data: given } = useGivenQuery(undefined, { skip: !administrator });
  const [parameters, setParameters] = useSearchParams();
  const [side, setSide] = useState<Side>(null);
  const chosen = Number(parameters.get('endpoint') ?? 0);
  const choose = (id: number | null) => {
    setSide(null);
    setParameters((before) => {
      if (id === null) before.delete('endpoint');
      else before.set('endpoint', String(id));
      return before;
    });
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || typing(event)) return;
      setSide(null);
      setParameters((before) => {
        before.delete('endpoint');
        return before;
      });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [setParameters]);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={10} height={30} />}
      </div>
    );
  const endpoint = data.endpoints.find(({ id }) => id === chosen);
  const changing =
    typeof side === 'object' && side !== null ? given?.given.find(({ key }) => key === side.change) : null;
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <List data={data} chosen={chosen} choose={choose} administrator={administrator} open={setSide} />
      </div>
      {side === 'new' && <EndpointForm key="new" given={null} close={() => setSide(null)} />}
      {side === 'intervals' && <Intervals close={() => setSide(null)} />}
      {side === 'list' && <PastedList close={() => setSide(null)} />}
      {changing && <EndpointForm key={changing.key} given={changing} close={() => setSide(null)} />}
      {side === null && endpoint && (
        <EndpointSheet
          key={endpoint.id}
          endpoint={endpoint}
          given={given?.given.find(({ endpoint: { id } }) => id === endpoint.id) ?? null}
          administrator={administrator}
          change={(key) => setSide({ change: key })}
          close={() => choose(null)}
        />
      )}
    </div>
  );
}

function List({
  data,
  chosen,
  choose,
  administrator,
  open,
}: {
  data: SourcesAnswer;
  chosen: number;
  choose: (id: number) => void;
  administrator: boolean;
  open: (side: Side) => void;
}) {
  const [find, setFind] = useState('');
  const [kind, setKind] = useState('');
  const [state, setState] = useState('');
  const [group, setGroup] = useState('');
  const groups = [...new Set(data.endpoints.map((endpoint) => endpoint.group))].filter((one) => one !== '').sort();
  const now = useNow();
  const live = data.endpoints.filter((endpoint) => endpoint.state !== 'retired');
  const read = live.filter((endpoint) => endpoint.state === 'read').length;
  const words = find.toLowerCase().split(/\s+/);
  const wanted = data.endpoints.filter(
    (endpoint) =>
      (kind === '' || endpoint.kind === kind) &&
      (group === '' || endpoint.group === group) &&
      (state === ''
        ? endpoint.state !== 'retired'
        : state === 'not read'
          ? endpoint.state !== 'read'
          : endpoint.state === state) &&
      words.every((word) => `${endpointName(endpoint)} ${endpoint.address}`.toLowerCase().includes(word)),
  );
  return (
    <section aria-label="endpoints">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="section-title">Endpoints</h2>
        <p className="text-sm text-soft">
          {read} of {formatCount(live.length, 'page')} read
        </p>
        {administrator && (
          <span className="ml-auto flex gap-2">
            <button type="button" className="button" onClick={() => open('new')}>
              add by address
            </button>
            <button type="button" className="button" onClick={() => open('list')}>
              paste a list
            </button>
            <button type="button" className="button" onClick={() => open('intervals')}>
              intervals
            </button>
          </span>
        )}
      </div>
      <div className="mb-2 flex gap-2 text-sm">
        <input
          aria-label="find an endpoint"
          placeholder="name or address"
          className="field max-w-60"
          value={find}
          onChange={({ target }) => setFind(target.value)}
        />
        <select
          aria-label="kind"
          className="field max-w-44"
          value={kind}
          onChange={({ target }) => setKind(target.value)}
        >
          <option value="">of every kind</option>
          {Object.entries(KINDS).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
        {groups.length > 0 && (
          <select
            aria-label="group"
            className="field max-w-44"
            value={group}
            onChange={({ target }) => setGroup(target.value)}
          >
            <option value="">of every group</option>
            {groups.map((one) => (
              <option key={one}>{one}</option>
            ))}
          </select>
        )}
        <select
          aria-label="state"
          className="field max-w-44"
          value={state}
          onChange={({ target }) => setState(target.value)}
        >
          <option value="">all but retired</option>
          {['not read', 'read', 'waiting', 'late', 'failing', 'paused', 'retired'].map((value) => (
            <option key={value}>{value}</option>
          ))}
        </select>
      </div>
      {data.endpoints.length === 0 && (
        <StateNote title="No endpoint is known yet">
          <p>
            Pages of nodes appear within seconds once a cluster is connected. Others are added by address, or found by
            scouts.
          </p>
        </StateNote>
      )}
      {data.endpoints.length > 0 && wanted.length === 0 && (
        <p className="py-4 text-soft">
          No endpoint is like that.{' '}
          <button
            type="button"
            className="button-plain"
            onClick={() => {
              setFind('');
              setKind('');
              setState('');
              setGroup('');
            }}
          >
            show all
          </button>
        </p>
      )}
      {wanted.length > 0 && (
        <table className="w-full text-sm">
          <thead>
            <tr className="border-b border-structure text-left text-xs text-soft">
              {HEADS.map((head) => (
                <th key={head} className="py-1 pr-3 font-medium">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {wanted.slice(0, SHOWN).map((endpoint) => (
              <Row
                key={endpoint.id}
                endpoint={endpoint}
                now={now}
                chosen={endpoint.id === chosen}
                choose={() => choose(endpoint.id)}
              />
            ))}
          </tbody>
        </table>
      )}
      {wanted.length > SHOWN && (
        <p className="mt-2 text-sm text-soft">
          {wanted.length - SHOWN} more are not shown: name what you look for, or choose a state.
        </p>
      )}
    </section>
  );
}

function Row({
  endpoint,
  now,
  chosen,
  choose,
}: {
  endpoint: EndpointAnswer;
  now: number;
  chosen: boolean;
  choose: () => void;
}) {
  const words = endpointWords(endpoint, now);
  return (
    <tr className={clsx('border-b border-hair align-baseline', chosen && 'bg-sheet')}>
      <td className="py-1 pr-3">
        <button type="button" className="text-left hover:text-petrol" onClick={choose} aria-pressed={chosen}>
          {endpoint.connection !== null && <span className="text-soft">{endpoint.connection} › </span>}
          <b className="font-semibold">{endpoint.name}</b>
        </button>
        {(endpoint.kind === 'found' || endpoint.group !== '') && (
          <p className="text-xs text-soft">
            {[
              endpoint.kind === 'found' && `by scout ${endpoint.scout}`,
              endpoint.group !== '' && `group ${endpoint.group}`,
            ]
              .filter((text) => text !== false)
              .join(', ')}
          </p>
        )}
      </td>
      <td className="py-1 pr-3">
        <StateWord state={endpoint.state} />
        {words && <p className="max-w-md text-sm">{words}</p>}
        {endpoint.cut && <p className="max-w-md text-sm font-semibold">{endpoint.cut}</p>}
        {endpoint.problems > 0 && (
          <p className="text-sm">{formatCount(endpoint.problems, 'line')} of its page count for nothing</p>
        )}
      </td>
      <td className="py-1 pr-3 whitespace-nowrap">
        {endpoint.lastReadingAt === null ? 'never' : `${formatDuration(now - endpoint.lastReadingAt)} ago`}
      </td>
      <td className="py-1 pr-3 whitespace-nowrap">{formatDuration(endpoint.intervalSeconds * 1000)}</td>
      <td className="py-1 pr-3">{endpoint.samples ?? 'none yet'}</td>
      <td className="py-1 pr-3 whitespace-nowrap">{endpoint.bytes === null ? '' : formatBytes(endpoint.bytes)}</td>
      <td className="py-1 pr-3 whitespace-nowrap">
        {endpoint.durationMs === null ? '' : formatDuration(Math.max(1, endpoint.durationMs))}
      </td>
    </tr>
  );
}
