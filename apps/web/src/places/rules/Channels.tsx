import {
  CHANNEL_DOES,
  ChannelDocument,
  type ChannelDoes,
  type ChannelsAnswer,
  type RulesAnswer,
} from '@zetopsis/contract';
import { formatClock } from '@zetopsis/core/format';
import { HOOK_FIELDS } from '@zetopsis/core/rules';
import { useState } from 'react';
import { FailureNote } from '../../drawing/StateNote.tsx';
import { FailureText } from '../../forms/FailureText.tsx';
import { Field } from '../../forms/Field.tsx';
import { FormFailure } from '../../forms/FormFailure.tsx';
import { PasswordField } from '../../forms/PasswordField.tsx';
import { RemoveButton } from '../../forms/RemoveButton.tsx';
import { TeamField } from '../../forms/TeamField.tsx';
import { TextField } from '../../forms/TextField.tsx';
import { useNow } from '../../frame/useNow.ts';
import {
  useAddChannelMutation,
  useChannelsQuery,
  useRemoveChannelMutation,
  useSaveChannelMutation,
  useTestChannelMutation,
} from '../../state/channelsApi.ts';
import { asFailure } from '../../state/failure.ts';

type Channel = ChannelsAnswer['channels'][number];
const NEW = '';
const DOES_WORDS: Readonly<Record<ChannelDoes, string>> = {
  tell: 'with each message',
  act: 'once for each alert that is raised, to do something; its answer is kept',
  heartbeat: 'again and again, as long as rules are judged and messages sent',
};

/** Programs that are told what a team is told. */
export function Channels({ teams }: { teams: RulesAnswer['teams'] }) {
  const { data, error, refetch } = useChannelsQuery();
  /** The key of the one that is changed; empty: a new one; null: none. */
  const [editing, setEditing] = useState<string | null>(null);
  if (error && !data) return <FailureNote error={error} retry={() => void refetch()} />;
  if (!data || (data.channels.length === 0 && teams.length === 0)) return null;
  return (
    <section aria-label="channels" className="mb-6">
      <div className="mb-1 flex items-baseline gap-3">
        <h2 className="section-title">Channels</h2>
        {teams.length > 0 && editing === null && (
          <button type="button" className="button-plain text-sm" onClick={() => setEditing(NEW)}>
            add one
          </button>
        )}
      </div>
      {editing === NEW && <ChannelForm of={null} teams={teams} close={() => setEditing(null)} />}
      {data.channels.length === 0 && editing === null && (
        <p className="text-sm text-soft">
          None: teams are told by email. A channel hands the same to a program, as JSON.
        </p>
      )}
      <ul className="text-sm">
        {data.channels.map((channel) => (
          <li key={channel.key} className="border-b border-hair py-1.5">
            {editing === channel.key ? (
              <ChannelForm of={channel} teams={teams} close={() => setEditing(null)} />
            ) : (
              <Line channel={channel} edit={() => setEditing(channel.key)} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Line({
  channel: { key, document, owner, signs, mayChange, waiting, lastSentAt, lastError },
  edit,
}: {
  channel: Channel;
  edit: () => void;
}) {
  const now = useNow(60_000);
  const [test, testing] = useTestChannelMutation();
  const [remove, removing] = useRemoveChannelMutation();
  const { name, address, use, does, everyMinutes } = document;
  return (
    <>
      <p className="flex items-baseline gap-3">
        <b>{name}</b> <span className="min-w-0 flex-1 truncate text-soft">of {owner}</span>
        {mayChange && (
          <>
            <button
              type="button"
              className="button-plain"
              aria-label={`test ${name}`}
              disabled={testing.isLoading}
              onClick={() => void test(key)}
            >
              test
            </button>
            <button type="button" className="button-plain" aria-label={`change ${name}`} onClick={edit}>
              change
            </button>
            <RemoveButton
              title={`Remove the channel “${name}”?`}
              text="What waits for it is given up."
              remove={() => remove(key)}
              error={removing.error}
              busy={removing.isLoading}
              removed={() => undefined}
            />
          </>
        )}
      </p>
      <p className="truncate text-soft" title={address}>
        {address}
      </p>
      <p className="text-soft">
        {[
          use === 'off' && 'switched off',
          does === 'act' && 'acts once for each alert',
          does === 'heartbeat' && `a heartbeat every ${everyMinutes} min`,
          signs ? 'signed' : 'not signed: no secret',
          lastSentAt === null ? 'nothing was sent yet' : `sent last at ${formatClock(lastSentAt, now)}`,
          waiting > 0 && `${waiting} waiting`,
        ]
          .filter(Boolean)
          .join(' · ')}
      </p>
      {lastError !== null && <p className="text-critical">{lastError}</p>}
      <FailureText error={testing.error} />
    </>
  );
}

function ChannelForm({ of, teams, close }: { of: Channel | null; teams: RulesAnswer['teams']; close: () => void }) {
  const [draft, setDraft] = useState({
    name: of?.document.name ?? '',
    team: of?.document.team ?? teams[0]?.key ?? '',
    address: of?.document.address ?? '',
    template: of?.document.template ?? '',
    perMinute: String(of?.document.perMinute ?? 60),
    use: of?.document.use ?? ('on' as const),
    does: of?.document.does ?? ('tell' as const),
    everyMinutes: String(of?.document.everyMinutes ?? 5),
    secret: '',
  });
  const [problems, setProblems] = useState<ReadonlyMap<string, string>>(new Map());
  const [add, adding] = useAddChannelMutation();
  const [save, saving] = useSaveChannelMutation();
  const error = adding.error ?? saving.error;
  const answered = error === undefined ? [] : asFailure(error).fields;
  const problemAt = (field: string) =>
    problems.get(field) ?? answered.find(({ path }) => path === `document.${field}` || path === field)?.text;
  const change = (part: Partial<typeof draft>) => setDraft((before) => ({ ...before, ...part }));
  const submit = async () => {
    const { secret, template, ...rest } = draft;
    const read = ChannelDocument.safeParse({ ...rest, template: template.trim() === '' ? null : template });
    setProblems(new Map(read.success ? [] : read.error.issues.map(({ path, message }) => [path.join('.'), message])));
    if (!read.success) return;
    // an empty field leaves a secret that is there as it is
    const input = { document: read.data, secret: secret === '' ? null : secret };
    const done = of === null ? await add(input) : await save({ key: of.key, input });
    if (!done.error) close();
  };
  const text = (field: 'name' | 'address' | 'perMinute' | 'everyMinutes', label: string, placeholder = '') => (
    <TextField
      id={`channel-${field}`}
      label={label}
      error={problemAt(field)}
      placeholder={placeholder}
      value={draft[field]}
      set={(text) => change({ [field]: text })}
    />
  );
  return (
    <form
      aria-label={of === null ? 'add a channel' : `change the channel ${of.document.name}`}
      className="mb-3 border-t border-hair pt-2"
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      {text('name', 'Name')}
      <TeamField
        id="channel-team"
        label="Told what this team is told"
        error={problemAt('team')}
        value={draft.team}
        set={(team) => change({ team })}
        teams={teams}
        nobody={null}
      />
      <Field id="channel-does" label="It is asked" error={problemAt('does')}>
        <select
          id="channel-does"
          className="field"
          value={draft.does}
          onChange={({ target }) => change({ does: CHANNEL_DOES.find((one) => one === target.value) ?? 'tell' })}
        >
          {CHANNEL_DOES.map((one) => (
            <option key={one} value={one}>
              {DOES_WORDS[one]}
            </option>
          ))}
        </select>
      </Field>
      {text('address', 'Address', 'https://chat.example/hooks/1')}
      <PasswordField
        autoComplete="off"
        id="channel-secret"
        label={of?.signs ? 'Another secret (empty: as before)' : 'Secret that messages are signed with'}
        error={problemAt('secret')}
        value={draft.secret}
        onChange={({ target }) => change({ secret: target.value })}
      />
      <Field
        id="channel-template"
        label="Body (empty: the message as the guide documents it)"
        error={problemAt('template')}
      >
        <textarea
          id="channel-template"
          className="field font-mono text-[13px]"
          rows={3}
          spellCheck={false}
          placeholder={'{"text": "{severity}: {title} {link}"}'}
          value={draft.template}
          onChange={({ target }) => change({ template: target.value })}
        />
      </Field>
      <p className="mb-2 text-xs text-soft">In braces: {HOOK_FIELDS.join(', ')}.</p>
      <div className="grid grid-cols-2 gap-3">
        {draft.does === 'heartbeat'
          ? text('everyMinutes', 'Every, minutes')
          : text('perMinute', draft.does === 'act' ? 'At most a minute' : 'At most a minute; more stands together')}
        <Field id="channel-use" label="State">
          <select
            id="channel-use"
            className="field"
            value={draft.use}
            onChange={({ target }) => change({ use: target.value === 'off' ? 'off' : 'on' })}
          >
            <option value="on">on</option>
            <option value="off">off</option>
          </select>
        </Field>
      </div>
      <FormFailure error={error && { ...asFailure(error), fields: [] }} />
      <button type="submit" className="button" disabled={adding.isLoading || saving.isLoading}>
        {of === null ? 'Add the channel' : 'Save'}
      </button>
      <button type="button" className="button-plain ml-3" onClick={close}>
        cancel
      </button>
    </form>
  );
}
