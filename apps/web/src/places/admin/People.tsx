import { zodResolver } from '@hookform/resolvers/zod';
import { NewPerson, type PersonAnswer } from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { Link } from 'react-router';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import { useNow } from '../../frame/useNow.ts';
import { useView } from '../../frame/useView.ts';
import { asFailure } from '../../state/failure.ts';
import {
  useAddPersonMutation,
  useChangePersonMutation,
  useEndSessionsMutation,
  usePeopleQuery,
  useRemovePersonMutation,
} from '../../state/peopleApi.ts';
import { useSessionQuery } from '../../state/sessionApi.ts';
import { useRemoveTokenOfMutation, useTokensOfQuery } from '../../state/tokensApi.ts';
import { TokenLine } from './Tokens.tsx';

/** Who has an account, and since when. */
export function People() {
  const { data, error, refetch } = usePeopleQuery();
  const { data: session } = useSessionQuery();
  const self = session?.person?.id;
  const [adding, setAdding] = useState(false);
  return (
    <section aria-label="people" className="max-w-3xl">
      <div className="mb-2 flex items-baseline justify-between">
        <h2 className="section-title">People</h2>
        {!adding && (
          <button type="button" className="button" onClick={() => setAdding(true)}>
            add a person
          </button>
        )}
      </div>
      {adding && <AddPerson close={() => setAdding(false)} />}
      {!data &&
        (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={4} height={48} />)}
      <ul>
        {data?.map((person) => (
          <PersonRow key={person.id} person={person} self={person.id === self} />
        ))}
      </ul>
    </section>
  );
}

function PersonRow({ person, self }: { person: PersonAnswer; self: boolean }) {
  const now = useNow(60_000);
  const [change, changing] = useChangePersonMutation();
  const [remove, removing] = useRemovePersonMutation();
  const [endSessions, ending] = useEndSessionsMutation();
  const [sure, setSure] = useState(false);
  const [tokens, setTokens] = useState(false);
  const error = changing.error ?? removing.error ?? ending.error;
  const other = person.role === 'administrator' ? 'member' : 'administrator';
  const { link } = useView();
  return (
    <li className="border-b border-hair py-1.5">
      <div className="flex items-baseline gap-3">
        <b className="font-semibold">{person.name}</b>
        <span className="text-sm text-soft">
          {person.role}
          {self && ', you'}
        </span>
        <Link
          className="button-plain ml-auto text-sm"
          to={`${link('/admin/grants')}#${person.name}`}
          aria-label={`what ${person.name} sees, and why`}
        >
          what they see
        </Link>
        <button
          type="button"
          className="button-plain text-sm"
          onClick={() => setTokens(!tokens)}
          aria-expanded={tokens}
          aria-label={`tokens of ${person.name}`}
        >
          tokens
        </button>
        {!self && (
          <span className="space-x-3 text-sm">
            <button
              type="button"
              className="button-plain"
              onClick={() => void endSessions(person.id)}
              aria-label={`sign ${person.name} out everywhere`}
            >
              sign out everywhere
            </button>
            <button
              type="button"
              className="button-plain"
              onClick={() => void change({ id: person.id, change: { role: other } })}
              aria-label={`make ${person.name} ${other}`}
            >
              make {other}
            </button>
            {sure ? (
              <button
                type="button"
                className="button-plain text-critical"
                onClick={() => void remove(person.id)}
                aria-label={`really remove ${person.name}`}
              >
                really remove
              </button>
            ) : (
              <button
                type="button"
                className="button-plain"
                onClick={() => setSure(true)}
                aria-label={`remove ${person.name}`}
              >
                remove
              </button>
            )}
          </span>
        )}
      </div>
      <p className="text-sm text-soft">
        {person.lastSignInAt === null ? 'has not signed in yet' : `signed in ${formatClock(person.lastSignInAt, now)}`}
        {ending.isSuccess && <span role="status">, signed out everywhere</span>}
      </p>
      {tokens && <TokensOf person={person} />}
      <FailureText error={error} className="text-sm" />
    </li>
  );
}

/** Tokens of somebody: seen and revoked here, made only by themselves. */
function TokensOf({ person }: { person: PersonAnswer }) {
  const { data, error, refetch } = useTokensOfQuery(person.id);
  const [remove, removing] = useRemoveTokenOfMutation();
  if (!data)
    return error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={2} height={44} />;
  if (data.length === 0) return <p className="py-1 pl-4 text-sm text-soft">{person.name} has no token.</p>;
  return (
    <ul className="border-t border-hair pl-4" aria-label={`tokens of ${person.name}`}>
      {data.map((token) => (
        <TokenLine
          key={token.id}
          token={token}
          may={`${person.name} may`}
          remove={() => void remove({ person: person.id, token: token.id })}
          error={removing.originalArgs?.token === token.id ? removing.error : undefined}
        />
      ))}
    </ul>
  );
}

function AddPerson({ close }: { close: () => void }) {
  const [add, { error, isLoading }] = useAddPersonMutation();
  const { register, handleSubmit, formState } = useForm({
    resolver: zodResolver(NewPerson),
    defaultValues: { name: '', role: 'member' as const, password: '' },
  });
  const failure = error ? asFailure(error) : null;
  const submit = handleSubmit(async (values) => {
    const done = await add(values);
    if (!done.error) close();
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="mb-3 border border-structure p-3"
      noValidate
      aria-label="add a person"
    >
      <Field id="person-name" label="Name" error={formState.errors.name?.message ?? problemOf(failure, 'name')}>
        <input id="person-name" className="field" autoFocus autoComplete="off" {...register('name')} />
      </Field>
      <Field id="person-role" label="May">
        <select id="person-role" className="field" defaultValue="member" {...register('role')}>
          <option value="member">what the own teams own, and what is granted</option>
          <option value="administrator">see and change everything</option>
        </select>
      </Field>
      <PasswordField
        id="person-password"
        label="First password; the person changes it here"
        error={formState.errors.password?.message}
        autoComplete="new-password"
        {...register('password')}
      />
      <FormFailure error={error} />
      <button type="submit" className="button" disabled={isLoading}>
        Add
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
