import type { FollowDocument, FollowsAnswer, LineGap } from '@zetopsis/contract';
import { formatClock, formatCount, formatDuration } from '@zetopsis/core/format';
import { useState } from 'react';
import { GapWords } from '../../drawing/GapWords.tsx';
import { FailureNote, RowSkeleton, StateNote } from '../../drawing/StateNote.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormAside } from '../../forms/FormAside.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { useNow } from '../../frame/useNow.ts';
import { asFailure } from '../../state/failure.ts';
import {
  useAddFollowMutation,
  useFollowsQuery,
  useRemoveFollowMutation,
  useSaveFollowMutation,
} from '../../state/followsApi.ts';

type Own = FollowsAnswer['follows'][number];

/** Log lines that are read from clusters, for programs that push none. */
export function Follows() {
  const { data, error, refetch } = useFollowsQuery(undefined, { pollingInterval: 5000 });
  const [side, setSide] = useState<{ own: Own | null } | null>(null);
  if (!data)
    return (
      <div className="p-5">
        {error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={3} height={60} />}
      </div>
    );
  const mayMake = data.namespaces.length > 0;
  const make = (
    <button type="button" className="button" onClick={() => setSide({ own: null })}>
      follow a namespace
    </button>
  );
  return (
    <div className="flex h-full min-h-0">
      <div className="min-w-0 flex-1 overflow-auto px-5 py-4">
        <div className="mb-2 flex max-w-4xl items-center justify-between">
          <h2 className="section-title">Followed</h2>
          {mayMake && data.follows.length > 0 && make}
        </div>
        {data.follows.length === 0 ? (
          <StateNote title="No log lines are read from clusters">
            <p>
              Programs that push none still write them: the cluster keeps them for a while, and Zetopsis can read them
              there as they are written.{' '}
              {mayMake
                ? 'Whoever owns a namespace chooses its workloads.'
                : 'The team whose namespace it is lets it, or an administrator.'}
            </p>
            {mayMake && make}
          </StateNote>
        ) : (
          <p className="mb-3 max-w-4xl text-sm text-soft">
            Lines are masked before they are kept, go on where they were left after a break, and count once. At most{' '}
            {data.mostContainers} containers are followed in one cluster.
          </p>
        )}
        {data.follows.map((own) => (
          <FollowRow key={own.key} own={own} change={() => setSide({ own })} removed={() => setSide(null)} />
        ))}
      </div>
      {side && <FollowForm key={side.own?.key ?? 'new'} own={side.own} answer={data} close={() => setSide(null)} />}
    </div>
  );
}

function FollowRow({ own, change, removed }: { own: Own; change: () => void; removed: () => void }) {
  const now = useNow(5000);
  const { document, owner, mayChange, state, gaps } = own;
  const [remove, { error, isLoading }] = useRemoveFollowMutation();
  const name = `${document.cluster} / ${document.namespace}`;
  return (
    <article aria-label={name} className="mb-2 max-w-4xl border border-line bg-sheet px-4 py-2.5">
      <p className="flex items-baseline gap-3">
        <b>{name}</b>
        <span className="text-sm text-soft">{owner === null ? 'nobody’s namespace' : `of ${owner}`}</span>
        {mayChange && (
          <span className="ml-auto flex gap-3 text-sm">
            <button type="button" className="button-plain" onClick={change}>
              change it
            </button>
            <RemoveButton
              title={`Follow ${name} no longer?`}
              text="Lines that were read stay until their time is over. When it is followed again, it goes on from what the cluster still keeps."
              remove={() => remove(own.key)}
              error={error}
              busy={isLoading}
              removed={removed}
            />
          </span>
        )}
      </p>
      <p className="text-sm">
        {document.workloads.length === 0 ? 'all its workloads' : document.workloads.join(', ')}:{' '}
        {formatCount(state.open, 'container')} followed now
        {state.lines > 0 && `, ${formatCount(state.lines, 'line')} since the start`}
        {state.masked > 0 && `, ${state.masked} times something masked in them`}
        {state.newestAt === null ? (
          <span className="text-soft">; none came yet</span>
        ) : (
          <span className="text-soft">; the newest {formatDuration(Math.max(1000, now - state.newestAt))} ago</span>
        )}
      </p>
      {state.tooMany > 0 && (
        <p className="text-sm">
          <b>{formatCount(state.tooMany, 'container')} not followed:</b> there are too many in this cluster.{' '}
          <span className="text-soft">→ Choose fewer workloads, or let their programs push.</span>
        </p>
      )}
      {state.waitingInAll > 0 && (
        <ul aria-label="what does not come" className="text-sm">
          {state.waiting.map(({ pod, container, why, since }) => (
            <li key={`${pod} ${container}`}>
              <b className="font-mono">
                {pod} {container}
              </b>{' '}
              not read since {formatClock(since, now, { seconds: true })}: {why}
            </li>
          ))}
          {state.waitingInAll > state.waiting.length && (
            <li className="text-soft">and {state.waitingInAll - state.waiting.length} others</li>
          )}
        </ul>
      )}
      {gaps.length > 0 && <Gaps gaps={gaps} now={now} />}
      {document.note !== '' && <p className="text-sm whitespace-pre-wrap text-soft">{document.note}</p>}
    </article>
  );
}

function Gaps({ gaps, now }: { gaps: readonly LineGap[]; now: number }) {
  return (
    <details className="text-sm">
      <summary>{formatCount(gaps.length, 'gap')} in what was read</summary>
      <ul>
        {gaps.map((gap) => (
          <li key={`${gap.pod} ${gap.container} ${gap.from}`}>
            <GapWords gap={gap} now={now} />
          </li>
        ))}
      </ul>
    </details>
  );
}
function FollowForm({ own, answer, close }: { own: Own | null; answer: FollowsAnswer; close: () => void }) {
  const first = answer.namespaces[0];
  const [place, setPlace] = useState(own ? placeOf(own.document) : first ? placeOf(first) : '');
  const [workloads, setWorkloads] = useState<readonly string[]>(own?.document.workloads ?? []);
  const [note, setNote] = useState(own?.document.note ?? '');
  const [add, adding] = useAddFollowMutation();
  const [save, saving] = useSaveFollowMutation();
  const error = adding.error ?? saving.error;
  const failure = error === undefined ? null : asFailure(error);
  const chosen = answer.namespaces.find((one) => placeOf(one) === place);
  // those that are gone may be left out still
  const names = [...new Set([...(chosen?.workloads ?? []), ...workloads])].sort();
  const keep = async () => {
    const [cluster = '', namespace = ''] = place.split(' ');
    const document: FollowDocument = { cluster, namespace, workloads: [...workloads], note };
    const done = own === null ? await add(document) : await save({ key: own.key, document });
    if (!done.error) close();
  };
  return (
    <FormAside
      label="follow"
      title={own === null ? 'Follow log lines' : `Follow ${own.document.namespace}`}
      width="narrow"
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <Field
          id="follow-namespace"
          label="Namespace"
          error={problemOf(failure, 'namespace') ?? problemOf(failure, 'cluster')}
        >
          <select
            id="follow-namespace"
            className="field"
            value={place}
            onChange={({ target }) => {
              setPlace(target.value);
              setWorkloads([]);
            }}
          >
            {own && !chosen && <option value={place}>{place.replace(' ', ' / ')}</option>}
            {answer.namespaces.map((one) => (
              <option key={placeOf(one)} value={placeOf(one)}>
                {one.cluster} / {one.namespace}
              </option>
            ))}
          </select>
        </Field>
        <fieldset className="mb-3">
          <legend className="mb-0.5 text-sm font-semibold">Workloads</legend>
          <p className="mb-1 text-sm text-soft">
            {workloads.length === 0 ? 'None is chosen: all of them are followed.' : `${workloads.length} chosen`}
          </p>
          <div className="max-h-64 overflow-auto border border-hair px-2 py-1">
            {names.map((name) => (
              <label key={name} className="flex items-center gap-2 text-sm">
                <input
                  type="checkbox"
                  checked={workloads.includes(name)}
                  onChange={({ target }) =>
                    setWorkloads(target.checked ? [...workloads, name] : workloads.filter((one) => one !== name))
                  }
                />
                {name}
              </label>
            ))}
            {names.length === 0 && <p className="text-sm text-soft">It has none now.</p>}
          </div>
        </fieldset>
        <p className="mb-3 text-sm text-soft">
          A program that pushes its lines already would have each of them twice. What the cluster’s token must be
          granted: get on pods/log.
        </p>
        <Field id="follow-note" label="Note" error={problemOf(failure, 'note')}>
          <textarea
            id="follow-note"
            className="field"
            rows={2}
            value={note}
            maxLength={2000}
            onChange={({ target }) => setNote(target.value)}
          />
        </Field>
        <FormFailure error={error} />
        <div className="mt-2 flex gap-3">
          <button type="submit" className="button" disabled={place === '' || adding.isLoading || saving.isLoading}>
            {own === null ? 'Follow it from now on' : 'Change it'}
          </button>
          <button type="button" className="button-plain" onClick={close}>
            cancel
          </button>
        </div>
      </form>
    </FormAside>
  );
}
const placeOf = ({ cluster, namespace }: { cluster: string; namespace: string }) => `${cluster} ${namespace}`;
