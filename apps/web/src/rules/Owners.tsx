import { zodResolver } from '@hookform/resolvers/zod';
import { type TeamAnswer, TeamInput } from '@zetopsis/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { z } from 'zod';
import { Field, problemOf } from '../drawing/Field.tsx';
import { FormFailure } from '../drawing/FormFailure.tsx';
import { asFailure } from '../state/failure.ts';
import { useRemoveTeamMutation, useSaveTeamMutation, useTestTeamMutation } from '../state/rulesApi.ts';
import { splitNamespaces } from './rulesModel.ts';

/** In the form the namespaces are one text. */
const TeamForm = TeamInput.extend({
  namespaces: z.string().transform(splitNamespaces).pipe(TeamInput.shape.namespaces),
});

interface Props {
  readonly teams: readonly TeamAnswer[];
  readonly unowned: readonly string[];
  readonly administrator: boolean;
}

/** Who owns which namespace, and where they are told. */
export function Owners({ teams, unowned, administrator }: Props) {
  const [editing, setEditing] = useState<number | 'new' | null>(null);
  const [test] = useTestTeamMutation();
  return (
    <section aria-label="owners">
      <div className="mb-1 flex items-baseline justify-between">
        <h2 className="section-title">Owners</h2>
        {administrator && editing === null && (
          <button type="button" className="button" onClick={() => setEditing('new')}>
            add a team
          </button>
        )}
      </div>
      {unowned.length > 0 && (
        <p className="mb-2 text-sm">
          <b>Nobody would be told</b> about {unowned.join(', ')}: no team owns {unowned.length === 1 ? 'it' : 'them'}.
        </p>
      )}
      {teams.length === 0 && editing === null && (
        <p className="mb-2 text-soft">
          No team is known yet. A team owns namespaces and has an address where it is told.
        </p>
      )}
      {editing === 'new' && <TeamEditor team={null} close={() => setEditing(null)} />}
      <ul>
        {teams.map((team) =>
          editing === team.id ? (
            <li key={team.id}>
              <TeamEditor team={team} close={() => setEditing(null)} />
            </li>
          ) : (
            <li key={team.id} className="border-b border-hair py-1.5">
              <div className="flex items-baseline gap-2">
                <b className="font-semibold">{team.name}</b>
                <span className="truncate text-sm text-soft">{team.email}</span>
                {administrator && (
                  <span className="ml-auto shrink-0 space-x-3 text-sm">
                    <button
                      type="button"
                      className="button-plain"
                      onClick={() => void test(team.id)}
                      aria-label={`send a test to ${team.name}`}
                    >
                      send a test
                    </button>
                    <button
                      type="button"
                      className="button-plain"
                      onClick={() => setEditing(team.id)}
                      aria-label={`change ${team.name}`}
                    >
                      change
                    </button>
                  </span>
                )}
              </div>
              <p className="text-sm">{team.namespaces.join(', ') || 'owns nothing'}</p>
            </li>
          ),
        )}
      </ul>
    </section>
  );
}

function TeamEditor({ team, close }: { team: TeamAnswer | null; close: () => void }) {
  const [save, saving] = useSaveTeamMutation();
  const [remove] = useRemoveTeamMutation();
  const { register, handleSubmit, formState } = useForm<z.input<typeof TeamForm>, unknown, z.output<typeof TeamForm>>({
    resolver: zodResolver(TeamForm),
    defaultValues: { name: team?.name ?? '', email: team?.email ?? '', namespaces: team?.namespaces.join(', ') ?? '' },
  });
  const failure = saving.error ? asFailure(saving.error) : null;
  const submit = handleSubmit(async (values) => {
    const done = await save({ ...(team ? { id: team.id } : {}), team: values });
    if (!done.error) close();
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="mb-2 border border-structure p-3"
      noValidate
      aria-label={team ? `change ${team.name}` : 'add a team'}
    >
      <Field id="team-name" label="Team" error={formState.errors.name?.message ?? problemOf(failure, 'name')}>
        <input id="team-name" className="field" autoFocus {...register('name')} />
      </Field>
      <Field id="team-email" label="Email" error={formState.errors.email?.message}>
        <input id="team-email" className="field" {...register('email')} />
      </Field>
      <Field
        id="team-namespaces"
        label="Namespaces, parted by blanks or commas"
        error={formState.errors.namespaces?.message ?? problemOf(failure, 'namespaces')}
      >
        <textarea id="team-namespaces" className="field" {...register('namespaces')} />
      </Field>
      <FormFailure error={saving.error} />
      <button type="submit" className="button" disabled={saving.isLoading}>
        Save
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
      {team && (
        <button
          type="button"
          className="button-plain float-right text-critical"
          onClick={() => {
            void remove(team.id);
            close();
          }}
        >
          remove the team
        </button>
      )}
    </form>
  );
}
