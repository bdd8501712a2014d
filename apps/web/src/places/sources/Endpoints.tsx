import type { EndpointAnswer, SourcesAnswer } from '@zetopsis/contract';
import { formatBytes, formatCount, formatDuration } from '@zetopsis/core/format';
import { clsx } from 'clsx';
import { useEffect, useState } from 'react';
import { useSearchParams } from 'react-router';
import { Choice } from '../../drawing/Choice.tsx';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { TableHead } from '../../drawing/TableHead.tsx';
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

/** Which endpoints are shown. */
interface Filter {
  readonly find: string;
  readonly kind: string;
  readonly state: string;
  readonly group: string;
}
const ALL: Filter = { find: '', kind: '', state: '', group: '' };
const STATES = ['not read', 'read', 'waiting', 'late', 'failing', 'paused', 'retired'] as const;

function fits({ find, kind, state, group }: Filter): (endpoint: EndpointAnswer) => boolean {
  const words = find.toLowerCase().split(/\s+/);
  const inState = (own: EndpointAnswer['state']) =>
    state === '' ? own !== 'retired' : state === 'not read' ? own !== 'read' : own === state;
  return (endpoint) =>
    (kind === '' || endpoint.kind === kind) &&
    (group === '' || endpoint.group === group) &&
    inState(endpoint.state) &&
    words.every((word) => `${endpointName(endpoint)} ${endpoint.address}`.toLowerCase().includes(word));
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
  const [filter, setFilter] = useState(ALL);
  const live = data.endpoints.filter((endpoint) => endpoint.state !== 'retired');
  const read = live.filter((endpoint) => endpoint.state === 'read').length;
  return (
    <section aria-label="endpoints">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="section-title">Endpoints</h2>
        <p className="text-sm text-soft">
          {read} of {formatCount(live.length, 'page')} read
        </p>
        {administrator && <Adding open={open} />}
      </div>
      <FilterBar data={data} filter={filter} setFilter={setFilter} />
      {data.endpoints.length === 0 ? (
        <StateNote title="No endpoint is known yet">
          <p>
            Pages of nodes appear within seconds once a cluster is connected. Others are added by address, or found by
            scouts.
          </p>
        </StateNote>
      ) : (
        <Rows
          endpoints={data.endpoints.filter(fits(filter))}
          chosen={chosen}
          choose={choose}
          showAll={() => setFilter(ALL)}
        />
      )}
    </section>
  );
}

function Adding({ open }: { open: (side: Side) => void }) {
  return (
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
  );
}

function FilterBar({
  data,
  filter,
  setFilter,
}: {
  data: SourcesAnswer;
  filter: Filter;
  setFilter: (filter: Filter) => void;
}) {
  const groups = [...new Set(data.endpoints.map((endpoint) => endpoint.group))].filter((one) => one !== '').sort();
  const set = (part: keyof Filter) => (value: string) => setFilter({ ...filter, [part]: value });
  const same = (word: string) => [word, word] as const;
  return (
    <div className="mb-2 flex gap-2 text-sm">
      <input
        aria-label="find an endpoint"
        placeholder="name or address"
        className="field max-w-60"
        value={filter.find}
        onChange={({ target }) => set('find')(target.value)}
      />
      <Choice label="kind" all="of every kind" value={filter.kind} set={set('kind')} options={Object.entries(KINDS)} />
      {groups.length > 0 && (
        <Choice label="group" all="of every group" value={filter.group} set={set('group')} options={groups.map(same)} />
      )}
      <Choice label="state" all="all but retired" value={filter.state} set={set('state')} options={STATES.map(same)} />
    </div>
  );
}

function Rows({
  endpoints,
  chosen,
  choose,
  showAll,
}: {
  endpoints: readonly EndpointAnswer[];
  chosen: number;
  choose: (id: number) => void;
  showAll: () => void;
}) {
  const now = useNow();
  if (endpoints.length === 0)
    return (
      <p className="py-4 text-soft">
        No endpoint is like that.{' '}
        <button type="button" className="button-plain" onClick={showAll}>
          show all
        </button>
      </p>
    );
  return (
    <>
      <table className="w-full text-sm">
        <TableHead of={HEADS} />
        <tbody>
          {endpoints.slice(0, SHOWN).map((endpoint) => (
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
      {endpoints.length > SHOWN && (
        <p className="mt-2 text-sm text-soft">
          {endpoints.length - SHOWN} more are not shown: name what you look for, or choose a state.
        </p>
      )}
    </>
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
