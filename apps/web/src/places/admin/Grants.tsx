import { zodResolver } from '@hookform/resolvers/zod';
import { type GrantAnswer, GrantDocument } from '@zetopsis/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { useLocation, useNavigate } from 'react-router';
import { z } from 'zod';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { useSourcesQuery } from '../../state/endpointsApi.ts';
import { asFailure } from '../../state/failure.ts';
import { useAddGrantMutation, useGrantsQuery, useRemoveGrantMutation } from '../../state/grantsApi.ts';
import { usePeopleQuery, useSightQuery } from '../../state/peopleApi.ts';
import { useTeamsQuery } from '../../state/teamsApi.ts';
import { LEVEL_WORDS, Permits, placeWords, Sight } from './Permits.tsx';

/** What was granted beyond ownership, and what it comes to for one person. */
export function Grants() {
  const { data, error, refetch } = useGrantsQuery();
  const [adding, setAdding] = useState(false);
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8">
      <section aria-label="grants">
        <div className="mb-2 flex items-baseline gap-3">
          <h2 className="section-title">Grants</h2>
          <p className="text-sm text-soft">beyond what teams own</p>
          {!adding && (
            <button type="button" className="button ml-auto" onClick={() => setAdding(true)}>
              grant something
            </button>
          )}
        </div>
        {adding && <AddGrant close={() => setAdding(false)} />}
        {!data &&
          (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={5} height={36} />)}
        {data?.length === 0 && <p className="text-soft">Nothing is granted: everybody sees what the own teams own.</p>}
        <ul>
          {data?.map((grant) => (
            <GrantRow key={grant.key} grant={grant} />
          ))}
        </ul>
      </section>
      <SightOf />
    </div>
  );
}

function GrantRow({ grant }: { grant: GrantAnswer }) {
  const [remove, { error }] = useRemoveGrantMutation();
  const [sure, setSure] = useState(false);
  const whom = grant.team ? `team ${grant.team.name}` : (grant.person ?? '');
  const words = `${whom} may ${LEVEL_WORDS[grant.may]} ${placeWords(grant)}`;
  return (
    <li className="flex items-baseline gap-3 border-b border-hair py-1.5">
      <span>
        <b className="font-semibold">{whom}</b> <span className="text-soft">may {LEVEL_WORDS[grant.may]}</span>{' '}
        {placeWords(grant)}
      </span>
      <FailureText error={error} className="text-sm" inline />
      <button
        type="button"
        className={`button-plain ml-auto shrink-0 text-sm ${sure ? 'text-critical' : ''}`}
        aria-label={sure ? `really take back: ${words}` : `take back: ${words}`}
        onClick={() => (sure ? void remove(grant.key) : setSure(true))}
      >
        {sure ? 'really take back' : 'take back'}
      </button>
    </li>
  );
}

/** In the form everything is a text; "person maren" or "team ferries" says to whom. */
const Form = z
  .object({
    to: z.string().regex(/^(person|team) ./, 'to whom?'),
    may: GrantDocument.shape.may,
    cluster: z.string(),
    namespace: z.string(),
  })
  .transform(({ to, may, cluster, namespace }): z.input<typeof GrantDocument> => {
    const [kind = '', name = ''] = to.split(' ');
    return {
      ...(kind === 'team' ? { team: name } : { person: name }),
      may,
      cluster: cluster === '' ? null : cluster,
      namespace: namespace.trim() === '' ? null : namespace,
    };
  })
  .pipe(GrantDocument);

function AddGrant({ close }: { close: () => void }) {
  const { data: people } = usePeopleQuery();
  const { data: teams } = useTeamsQuery();
  const { data: sources } = useSourcesQuery();
  const [add, { error, isLoading }] = useAddGrantMutation();
  const { register, handleSubmit, formState } = useForm<z.input<typeof Form>, unknown, z.output<typeof Form>>({
    resolver: zodResolver(Form),
    defaultValues: { to: '', may: 'read', cluster: '', namespace: '' },
  });
  const failure = error ? asFailure(error) : null;
  const submit = handleSubmit(async (grant) => {
    const done = await add(grant);
    if (!done.error) close();
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="mb-3 border border-structure bg-sheet p-4"
      noValidate
      aria-label="grant something"
    >
      <div className="grid grid-cols-2 gap-x-4">
        <Field id="grant-to" label="To" error={formState.errors.to?.message ?? problemOf(failure, 'person')}>
          <select id="grant-to" className="field" autoFocus {...register('to')}>
            <option value="">choose a person or a team</option>
            {people?.map(({ id, name }) => (
              <option key={id} value={`person ${name}`}>
                {name}
              </option>
            ))}
            {teams?.teams.map(({ key, name }) => (
              <option key={key} value={`team ${key}`}>
                team {name}
              </option>
            ))}
          </select>
        </Field>
        <Field id="grant-may" label="May">
          <select id="grant-may" className="field" {...register('may')}>
            {GrantDocument.shape.may.options.map((level) => (
              <option key={level} value={level}>
                {LEVEL_WORDS[level]}
              </option>
            ))}
          </select>
        </Field>
        <Field id="grant-cluster" label="Cluster" error={problemOf(failure, 'cluster')}>
          <select id="grant-cluster" className="field" {...register('cluster')}>
            <option value="">every cluster</option>
            {sources?.connections.map(({ name }) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <Field
          id="grant-namespace"
          label="Namespace (empty: all, with the nodes)"
          error={formState.errors.namespace?.message ?? problemOf(failure, 'namespace')}
        >
          <input id="grant-namespace" className="field" autoComplete="off" {...register('namespace')} />
        </Field>
      </div>
      <FormFailure error={error} />
      <button type="submit" className="button" disabled={isLoading}>
        Grant
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}

/** The address's fragment names the person. */
function SightOf() {
  const { hash, search, pathname } = useLocation();
  const navigate = useNavigate();
  const { data: people } = usePeopleQuery();
  const name = decodeURIComponent(hash.slice(1));
  const person = people?.find((one) => one.name === name) ?? people?.[0];
  const { data, error, refetch } = useSightQuery(person?.id ?? '', { skip: person === undefined });
  return (
    <section aria-label="what a person sees, and why">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="section-title">What a person sees, and why</h2>
        <select
          aria-label="person"
          className="field ml-auto w-44"
          value={person?.name ?? ''}
          onChange={(event) => void navigate({ pathname, search, hash: event.target.value }, { replace: true })}
        >
          {people?.map((one) => (
            <option key={one.id} value={one.name}>
              {one.name}
            </option>
          ))}
        </select>
      </div>
      {error && !data && <FailureNote error={error} retry={() => void refetch()} />}
      {data && (
        <>
          <p className="mb-2 text-sm">
            <span className="text-soft">in </span>
            {data.teams.length === 0 ? 'no team' : data.teams.join(', ')}
          </p>
          <Permits permits={data.permits} />
          <Sight sight={data} />
        </>
      )}
    </section>
  );
}
