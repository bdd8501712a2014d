import { zodResolver } from '@hookform/resolvers/zod';
import type { TeamAnswer, TeamsAnswer } from '@zetopsis/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import type { z } from 'zod';
import { FailureNote, RowSkeleton } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field, problemOf } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { asFailure } from '../../state/failure.ts';
import {
  useRemoveTeamMutation,
  useSaveTeamMutation,
  useTeamsQuery,
  useTestTeamMutation,
} from '../../state/teamsApi.ts';
import { TeamForm, writeOwnership } from './teamForm.ts';

/** Who owns what, who is in it, and where it is told. */
export function Teams() {
  const { data, error, refetch } = useTeamsQuery();
  const [editing, setEditing] = useState<string | 'new' | null>(null);
  return (
    <section aria-label="teams" className="max-w-4xl">
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="section-title">Teams</h2>
        <p className="text-sm text-soft">what a team owns its members see, and its address is told</p>
        {editing === null && (
          <button type="button" className="button ml-auto" onClick={() => setEditing('new')}>
            add a team
          </button>
        )}
      </div>
      {!data &&
        (error ? <FailureNote error={error} retry={() => void refetch()} /> : <RowSkeleton rows={6} height={52} />)}
      {editing === 'new' && <TeamEditor team={null} close={() => setEditing(null)} />}
      {data?.teams.length === 0 && editing === null && (
        <p className="mb-2 text-soft">No team is known yet. Without one nobody is told of what happens.</p>
      )}
      <ul>
        {data?.teams.map((team) =>
          editing === team.key ? (
            <li key={team.key}>
              <TeamEditor team={team} close={() => setEditing(null)} />
            </li>
          ) : (
            <TeamRow key={team.key} team={team} edit={() => setEditing(team.key)} />
          ),
        )}
      </ul>
      {data && <Unowned unowned={data.unowned} />}
    </section>
  );
}

function TeamRow({ team, edit }: { team: TeamAnswer; edit: () => void }) {
  const [test, testing] = useTestTeamMutation();
  return (
    <li className="border-b border-hair py-2">
      <div className="flex items-baseline gap-3">
        <b className="font-semibold">{team.name}</b>
        <span className="truncate text-sm text-soft">{team.email}</span>
        <span className="ml-auto shrink-0 space-x-3 text-sm">
          {testing.isSuccess && <span role="status">a test is on its way</span>}
          <FailureText error={testing.error} inline />
          <button
            type="button"
            className="button-plain"
            onClick={() => void test(team.key)}
            aria-label={`send a test to ${team.name}`}
          >
            send a test
          </button>
          <button type="button" className="button-plain" onClick={edit} aria-label={`change ${team.name}`}>
            change
          </button>
        </span>
      </div>
      <p className="text-sm">
        <span className="text-soft">owns </span>
        {team.namespaces.length === 0 ? (
          <>
            nothing that is there now{team.owns.length > 0 && <> (says {team.owns.map(writeOwnership).join(', ')})</>}
          </>
        ) : (
          team.namespaces.map(({ cluster, namespace, why }, i) => (
            <span key={`${cluster}/${namespace}`} title={why}>
              {i > 0 && ', '}
              {cluster} › {namespace}
            </span>
          ))
        )}
      </p>
      <p className="text-sm">
        <span className="text-soft">members </span>
        {team.members.join(', ') || 'nobody'}
      </p>
    </li>
  );
}

function Unowned({ unowned }: Pick<TeamsAnswer, 'unowned'>) {
  return (
    <section aria-label="namespaces without an owner" className="mt-6">
      <h3 className="mb-1 font-bold">Without an owner</h3>
      {unowned.length === 0 ? (
        <p className="text-sm text-soft">Every namespace has one.</p>
      ) : (
        <p className="text-sm">
          <b>Nobody would be told</b> about{' '}
          {unowned.map(({ cluster, namespace }) => `${cluster} › ${namespace}`).join(', ')}.
        </p>
      )}
    </section>
  );
}

function TeamEditor({ team, close }: { team: TeamAnswer | null; close: () => void }) {
  const [save, saving] = useSaveTeamMutation();
  const [remove, removing] = useRemoveTeamMutation();
  const [sure, setSure] = useState(false);
  const { register, handleSubmit, formState } = useForm<z.input<typeof TeamForm>, unknown, z.output<typeof TeamForm>>({
    resolver: zodResolver(TeamForm),
    defaultValues: {
      name: team?.name ?? '',
      email: team?.email ?? '',
      members: team?.members.join(', ') ?? '',
      owns: team?.owns.map(writeOwnership).join('\n') ?? '',
      linesADay: String(team?.linesADay ?? ''),
    },
  });
  const failure = saving.error ? asFailure(saving.error) : null;
  const refused = (path: string) =>
    problemOf(failure, path) ?? failure?.fields.find((field) => field.path.startsWith(`${path}.`))?.text;
  const problem = (path: 'name' | 'email' | 'members' | 'owns' | 'linesADay') => {
    const own = formState.errors[path];
    return own?.message ?? refused(path);
  };
  const submit = handleSubmit(async (values) => {
    const done = await save({ key: team?.key ?? null, team: values });
    if (!done.error) close();
  });
  return (
    <form
      onSubmit={(event) => void submit(event)}
      className="my-2 border border-structure bg-sheet p-4"
      noValidate
      aria-label={team ? `change ${team.name}` : 'add a team'}
    >
      <div className="grid grid-cols-2 gap-4">
        <div>
          <Field id="team-name" label="Team" error={problem('name')}>
            <input id="team-name" className="field" autoFocus {...register('name')} />
          </Field>
          <Field id="team-email" label="Email, where it is told" error={problem('email')}>
            <input id="team-email" className="field" {...register('email')} />
          </Field>
          <Field id="team-members" label="Members, parted by blanks or commas" error={problem('members')}>
            <input id="team-members" className="field" {...register('members')} />
          </Field>
          <Field id="team-linesADay" label="Log lines a day, at most" error={problem('linesADay')}>
            <input
              id="team-linesADay"
              className="field"
              inputMode="numeric"
              placeholder="as many as come"
              {...register('linesADay')}
            />
          </Field>
        </div>
        <div>
          <Field id="team-owns" label="Owns, one a line" error={problem('owns')}>
            <textarea
              id="team-owns"
              className="field h-28 font-mono text-sm"
              spellCheck={false}
              {...register('owns')}
            />
          </Field>
          <p className="-mt-2 text-xs text-soft">
            A namespace by its name: <code>tides</code>, by a label or annotation of it: <code>label team=tides</code>,
            one workload otherwise: <code>object tides/deployment:web</code>. With <code>seaward/</code> before it only
            in that cluster.
          </p>
        </div>
      </div>
      <FormFailure error={saving.error ?? removing.error} />
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
          onClick={async () => {
            if (!sure) return setSure(true);
            const done = await remove(team.key);
            if (!done.error) close();
          }}
        >
          {sure ? 'really remove the team' : 'remove the team'}
        </button>
      )}
    </form>
  );
}
